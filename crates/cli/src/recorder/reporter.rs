//! Writes down what passes, and says what it breaks.

use std::path::PathBuf;
use std::time::Duration;

use faithful_clerk_check::classify::{Classification, Credentials, classify};
use faithful_clerk_check::clauses::check_exchange;
use faithful_clerk_check::latest::LatestResults;
use faithful_clerk_contract::{EndpointRow, ErrorContract};
use faithful_clerk_live::{ForwardedExchange, RelayCounts, RelayEvent};
use faithful_clerk_model::exchange::Exchange;
use faithful_clerk_model::finding::{Finding, Severity};
use faithful_clerk_recording::{Format, ReadOptions, Source, Traversal, Unreadable, Visitor};
use faithful_clerk_report::text::{self, counted};
use faithful_clerk_scrub::Scrubber;

use super::{LiveScreen, Notices};
use crate::blanks::print_blanks;
use crate::exit::{Completion, Failure};
use crate::flags::OutputSettings;
use crate::output::{print_error, print_unless_quiet};
use crate::recording_file::RecordingFile;

/// Writes down what passes, and says what it breaks.
pub(crate) struct LiveReporter<'r> {
    journal: RecordingFile,
    name: String,
    scrubber: Option<Scrubber<'r>>,
    contract: Option<&'r ErrorContract>,
    credentials: Credentials,
    breaches: u64,
    others: u64,
    notices: Notices,
    screen: Option<LiveScreen<'r>>,
    settings: &'r OutputSettings,
}

impl<'r> LiveReporter<'r> {
    /// Writes to a recording of that name. With a contract, each exchange is checked by it as it comes: on a screen, if there is
    /// one, else a finding after the other.
    pub(crate) fn new(
        (journal, name): (RecordingFile, String),
        scrubber: Option<Scrubber<'r>>,
        contract: Option<&'r ErrorContract>,
        notices: Notices,
        settings: &'r OutputSettings,
    ) -> Self {
        let (credentials, screen) = (Credentials::NotRecorded, None);
        let (breaches, others) = (0, 0);
        Self {
            journal,
            name,
            scrubber,
            contract,
            credentials,
            breaches,
            others,
            notices,
            screen,
            settings,
        }
    }

    /// From now on, what is found is shown on a screen.
    pub(crate) fn show_on(&mut self, screen: LiveScreen<'r>) {
        self.screen = Some(screen);
    }

    /// How many exchanges were written.
    pub(crate) fn entries(&self) -> u64 {
        self.journal.entries
    }

    /// What comes from the relay.
    pub(crate) fn event(&mut self, event: RelayEvent) {
        match event {
            RelayEvent::Passed(passed) => self.enter(&passed),
            RelayEvent::Notice(notice) => self.notices.enter(notice),
        }
    }

    /// How long until the screen is to be drawn again, if there is one.
    pub(crate) fn due(&self) -> Option<Duration> {
        self.screen.as_ref().map(LiveScreen::due)
    }

    /// Draws the screen, if that is due.
    pub(crate) fn draw(&mut self) {
        let Some(screen) = &mut self.screen else { return };
        let recorded = counted(self.journal.entries, "exchange");
        let breaches = counted(self.breaches, "breach");
        let all = format!("{recorded} in {}, {breaches} in all", self.name);
        screen.draw(&all, &self.notices.lines());
    }

    fn enter(&mut self, passed: &ForwardedExchange) {
        let mut entry = passed.entry().to_string();
        // It is checked as it was: marks of secrets are no credentials.
        if self.contract.is_some() {
            self.judge(&entry);
        }
        if let Some(scrubber) = &mut self.scrubber {
            entry = scrubber.as_it_comes(&entry);
        }
        self.journal.enter(&entry);
    }

    fn judge(&mut self, entry: &str) {
        let Some(contract) = self.contract else { return };
        let opening = ReadOptions {
            format: Some(Format::JsonLines),
            max_exchange: usize::MAX,
            ..ReadOptions::default()
        };
        let traversal = Traversal { options: opening, ..Traversal::default() };
        let mut judging = EntryCheck {
            contract,
            credentials: self.credentials,
            row: EndpointRow::UnknownRoute,
            found: Vec::new(),
            latest: self.screen.as_mut().map(LiveScreen::latest),
        };
        traversal.visit_in_order(Source::of(entry.as_bytes()), 0, &mut judging);
        let EntryCheck { credentials, row, found, .. } = judging;
        self.credentials = credentials;
        let address = format!("{}#{}", self.name, self.journal.entries + 1);
        for finding in &found {
            match finding.severity {
                Severity::Breach => self.breaches += 1,
                Severity::Warning | Severity::Note => self.others += 1,
            }
            let theme = self.screen.as_ref().map_or(self.settings.stdout, LiveScreen::theme);
            let line = text::passing(finding, &address, &row, contract, theme);
            match &mut self.screen {
                Some(screen) => screen.enter(line),
                // Who listens may have gone away; the recording goes on.
                None => _ = print_unless_quiet(&line, self.settings),
            }
        }
    }

    /// Leaves the screen as it is at the end, and says what was not recorded.
    pub(crate) fn end(&mut self, counts: &RelayCounts) -> Result<(), Failure> {
        self.draw();
        if let Some(screen) = self.screen.take() {
            print_unless_quiet(&screen.leave(), self.settings)?;
        }
        self.notices.close(counts);
        Ok(())
    }

    /// The recording, and how it went. Where a check follows, that says how much was recorded, and what it breaks.
    pub(crate) fn close(self, is_checked: bool) -> Result<(PathBuf, Completion), Failure> {
        let Self { journal, breaches, others, contract, scrubber, .. } = self;
        let (entries, lost) = (journal.entries, journal.lost);
        let path = journal.close()?;
        if !is_checked {
            let are = verb(entries, "is", "are");
            print_error(&format!("{} {are} in {}", counted(entries, "exchange"), path.display()));
        }
        if lost > 0 {
            print_error(&format!("{lost} more exchanges were forwarded but could not be written"));
        }
        if contract.is_some() && !is_checked {
            print_error(&format!(
                "{}, and {} of lower severity; `fclerk check` also compares exchanges with one another",
                counted(breaches, "breach"),
                counted(others, "finding")
            ));
        }
        let blanks = scrubber.as_ref().map(|scrubber| &scrubber.report().blanks);
        blanks.into_iter().for_each(print_blanks);
        let is_blanked = blanks.is_some_and(|blanks| !blanks.is_empty());
        let outcome = match (lost > 0 || is_blanked, breaches) {
            (true, _) => Completion::NotAllRead,
            (false, 1..) => Completion::Broken,
            (false, 0) => Completion::Kept,
        };
        Ok((path, outcome))
    }
}

/// Checks the one exchange of an entry.
struct EntryCheck<'c, 's> {
    contract: &'c ErrorContract,
    latest: Option<&'s mut LatestResults>,
    credentials: Credentials,
    row: EndpointRow,
    found: Vec<Finding>,
}

impl Visitor for EntryCheck<'_, '_> {
    fn exchange(&mut self, exchange: &Exchange<'_>) {
        if self.contract.credentials.iter().any(|name| exchange.request.headers.has(name)) {
            self.credentials = Credentials::Recorded;
        }
        if let Classification::Classified(classified) =
            classify(exchange, self.contract, self.credentials)
        {
            self.row = classified.row();
            self.found = check_exchange(&classified).findings;
            if let Some(latest) = &mut self.latest {
                latest.enter(&classified, &self.found);
            }
        }
    }

    fn on_unreadable(&mut self, _: Unreadable) {}
}
fn verb(count: u64, one: &'static str, many: &'static str) -> &'static str {
    if count == 1 { one } else { many }
}
