//! What each step of the demo shows, in short.

use std::sync::LazyLock;

use faithful_clerk_check::Check;
use faithful_clerk_check::classify::Classification;
use faithful_clerk_check::classify::{Credentials, classify};
use faithful_clerk_check::clauses::check_exchange;
use faithful_clerk_check::ledger::Ledger;
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_insight::compare::{
    ComparisonKind, ComparisonPlan, ComparisonSide, ComparisonSurvey, compare,
};
use faithful_clerk_insight::survey::SurveyCollector;
use faithful_clerk_model::address::RecordingNames;
use faithful_clerk_model::exchange::Exchange;
use faithful_clerk_recording::{Source, Traversal, Unreadable, Visitor};
use faithful_clerk_report::compare::{self as written, ComparisonReport};
use faithful_clerk_report::show::{ContractView, ExchangeView, terminal};
use faithful_clerk_report::{CheckReport, coverage, survey, text};

use crate::flags::OutputSettings;

/// What is compared needs no contract to be read.
static BARE: LazyLock<ErrorContract> = LazyLock::new(ErrorContract::default);

/// So many findings are read at a glance.
const FEW: usize = 3;

/// A recording: its name, and its text.
#[derive(Debug, Clone, Copy)]
pub(super) struct TourRecording<'r> {
    pub(super) name: &'r str,
    pub(super) text: &'r str,
}

impl TourRecording<'_> {
    fn gathered(self) -> ComparisonSurvey<'static> {
        let mut sum = ComparisonSurvey::new(&BARE);
        Traversal::default().visit_in_order(Source::of(self.text.as_bytes()), 0, &mut sum);
        sum
    }
}

/// Leads through the commands.
pub(super) struct Tour<'c> {
    pub(super) contract: &'c ErrorContract,
    pub(super) settings: &'c OutputSettings,
}

impl Tour<'_> {
    pub(super) fn survey(&self, of: TourRecording<'_>) -> String {
        let names = [of.name.to_owned()];
        // As the contract has the endpoints.
        let mut survey = SurveyCollector::new(self.contract);
        Traversal::default().visit_in_order(Source::of(of.text.as_bytes()), 0, &mut survey);
        survey::overview(&survey.data.conclude(), RecordingNames(&names), self.settings.stdout)
    }

    fn checked(&self, of: TourRecording<'_>) -> Ledger {
        let mut ledger = Check::new(self.contract).recording(Source::of(of.text.as_bytes()), 0);
        ledger.conclude(self.contract);
        ledger
    }

    pub(super) fn check(&self, of: TourRecording<'_>) -> String {
        let (ledger, names) = (self.checked(of), [of.name.to_owned()]);
        let report = CheckReport::new(&ledger, self.contract, &names);
        // Many findings are for `check` to show, a grid shows them at a glance; a few are shown here.
        match ledger.findings.len() > FEW {
            true => text::overview(&report, self.settings.stdout),
            false => text::without_grid(&report, self.settings.stdout),
        }
    }

    pub(super) fn show(&self, of: TourRecording<'_>, number: u64) -> String {
        let mut showing =
            ExchangeDisplay { tour: self, name: of.name, number, shown: String::new() };
        Traversal::default().visit_in_order(Source::of(of.text.as_bytes()), 0, &mut showing);
        showing.shown
    }

    pub(super) fn coverage(&self, of: TourRecording<'_>) -> String {
        let ledger = self.checked(of);
        let report = CheckReport::new(&ledger, self.contract, &[]);
        coverage::overview(&report, self.settings.stdout)
    }

    pub(super) fn compare(&self, before: TourRecording<'_>, after: TourRecording<'_>) -> String {
        let sides = [before, after].map(TourRecording::gathered);
        let plan = ComparisonPlan::of(sides, Some(self.contract), ComparisonKind::Versions);
        let seen = |of: TourRecording<'_>, at: usize| {
            let mut side = ComparisonSide::new(&plan, at);
            Traversal::default().visit_in_order(
                Source::of(of.text.as_bytes()),
                u32::from(at > 0),
                &mut side,
            );
            side
        };
        let comparison = compare(&plan, seen(before, 0), seen(after, 1));
        let names = [before.name.to_owned(), after.name.to_owned()];
        let compared = ComparisonReport {
            comparison: &comparison,
            sides: [before.name, after.name],
            names: RecordingNames(&names),
            contract: Some("error-contract.toml"),
        };
        written::overview(compared, self.settings.stdout)
    }
}

/// Lays one exchange out.
struct ExchangeDisplay<'t> {
    tour: &'t Tour<'t>,
    name: &'t str,
    number: u64,
    shown: String,
}

impl Visitor for ExchangeDisplay<'_> {
    fn exchange(&mut self, exchange: &Exchange<'_>) {
        if exchange.address.number != self.number {
            return;
        }
        let known = match classify(exchange, self.tour.contract, Credentials::Recorded) {
            Classification::Excluded(reason) => ContractView::Excluded(reason),
            Classification::Classified(classified) => {
                let result = check_exchange(&classified);
                ContractView::Checked(classified, result.findings)
            }
        };
        let address = format!("{}#{}", self.name, self.number);
        self.shown =
            terminal(&ExchangeView { address, exchange, known }, self.tour.settings.stdout);
    }

    fn on_unreadable(&mut self, _: Unreadable) {}

    fn is_done(&self) -> bool {
        !self.shown.is_empty()
    }
}
