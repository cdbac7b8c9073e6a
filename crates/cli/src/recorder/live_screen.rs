//! A terminal that shows what is so now, above the findings as they come.

use std::collections::VecDeque;
use std::io::{IsTerminal as _, Write as _};
use std::time::{Duration, Instant};

use faithful_clerk_check::grid::Grid;
use faithful_clerk_check::latest::LatestResults;
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_report::Theme;
use faithful_clerk_report::escape::terminal;
use faithful_clerk_report::text::{LiveView, counted, live};
use terminal_size::{Height, Width, terminal_size};

use crate::flags::OutputSettings;

/// It is drawn no more often than this.
const PAUSE: Duration = Duration::from_millis(100);

/// So often it is looked whether the window has another size.
const GLANCE: Duration = Duration::from_millis(500);

/// More findings fit on no screen.
const MOST: usize = 100;

/// Its own screen, without cursor, and lines that are cut where it ends (ECMA-48, and what every terminal has added to it).
const ENTER: &str = "\x1b[?1049h\x1b[?25l\x1b[?7l";
const LEAVE: &str = "\x1b[?7h\x1b[?25h\x1b[?1049l";

/// The screen.
#[derive(Debug)]
pub(crate) struct LiveScreen<'c> {
    contract: &'c ErrorContract,
    theme: Theme,
    latest: LatestResults,
    /// The newest first.
    findings: VecDeque<String>,
    size: (usize, usize),
    drawn_at: Instant,
    is_changed: bool,
}

impl<'c> LiveScreen<'c> {
    /// Opens it, if there is a terminal that can show one.
    pub(crate) fn open(contract: &'c ErrorContract, settings: &OutputSettings) -> Option<Self> {
        let is_dumb = std::env::var_os("TERM").is_none_or(|term| term == "dumb");
        if settings.quiet || is_dumb || !std::io::stdout().is_terminal() {
            return None;
        }
        let size = size()?;
        print(ENTER);
        Some(Self {
            contract,
            theme: Theme { width: size.0, ..settings.stdout },
            latest: LatestResults::default(),
            findings: VecDeque::new(),
            size,
            drawn_at: Instant::now(),
            is_changed: true,
        })
    }

    /// How text is drawn on it.
    pub(crate) fn theme(&self) -> Theme {
        self.theme
    }

    /// Where results are entered.
    pub(crate) fn latest(&mut self) -> &mut LatestResults {
        self.is_changed = true;
        &mut self.latest
    }

    /// Enters a finding.
    pub(crate) fn enter(&mut self, finding: String) {
        self.findings.truncate(MOST);
        self.findings.push_front(finding);
        self.is_changed = true;
    }

    /// How long until it is looked at again.
    pub(crate) fn due(&self) -> Duration {
        let pause = if self.is_changed { PAUSE } else { GLANCE };
        pause.saturating_sub(self.drawn_at.elapsed())
    }

    /// Draws it anew, if something has changed. `all` says what was recorded.
    pub(crate) fn draw(&mut self, all: &str, notices: &[String]) {
        let size = size().unwrap_or(self.size);
        self.drawn_at = Instant::now();
        if !self.is_changed && size == self.size {
            return;
        }
        self.is_changed = false;
        self.size = size;
        self.theme.width = size.0;
        let mut text = String::from("\x1b[H");
        let lines = self.lines(all, notices, size.1);
        for (at, line) in lines.iter().enumerate() {
            let end = if at + 1 < lines.len() { "\r\n" } else { "" };
            text.push_str(&format!("{line}\x1b[K{end}"));
        }
        text.push_str("\x1b[J");
        print(&text);
    }

    fn lines(&self, all: &str, notices: &[String], height: usize) -> Vec<String> {
        let (requests, broken) = self.latest.counts();
        let bound = if self.latest.is_full() { " (no more are told apart)" } else { "" };
        let now = format!("{broken} of {}{bound} broken now", counted(requests as u64, "request"));
        let grid = Grid::of_cells(self.contract, &self.latest.cells());
        let summary = terminal(&format!("{now}; {all}")).into_owned();
        let findings = self.findings.iter().map(String::as_str).collect();
        let view = LiveView { grid: &grid, contract: self.contract, summary: &summary, findings };
        let notices: Vec<String> =
            notices.iter().map(|notice| terminal(notice).into_owned()).collect();
        let mut lines = live(&view, self.theme, height.saturating_sub(notices.len()));
        lines.splice(1..1, notices);
        lines
    }

    /// Closes it, and gives what was on it last, without findings: those were told as they came.
    pub(crate) fn leave(self) -> String {
        let grid = Grid::of_cells(self.contract, &self.latest.cells());
        let contract = self.contract;
        let view = LiveView { grid: &grid, contract, summary: "", findings: Vec::new() };
        let lines = live(&view, self.theme, usize::from(u16::MAX));
        let end = lines.len().saturating_sub(2);
        drop(self);
        lines.get(2..end).unwrap_or_default().join("\n") + "\n\n"
    }
}

impl Drop for LiveScreen<'_> {
    fn drop(&mut self) {
        print(LEAVE);
    }
}

fn size() -> Option<(usize, usize)> {
    let (Width(width), Height(height)) = terminal_size()?;
    (width > 0 && height > 0).then(|| (usize::from(width), usize::from(height)))
}

/// Whoever looks may have gone away; the recording goes on.
fn print(text: &str) {
    let mut stdout = std::io::stdout().lock();
    let _ = stdout.write_all(text.as_bytes()).and_then(|()| stdout.flush());
}
