//! Report files, as they are asked for on the command line, and the gate.

use std::path::PathBuf;

use clap::{Args, ValueEnum};
use faithful_clerk_check::grid::GridRows;
use faithful_clerk_contract::nearest;
use faithful_clerk_model::finding::Severity;

/// What a report is written as.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum ReportFormat {
    Html,
    Json,
    Junit,
    Sarif,
    Markdown,
    Csv,
    Ledger,
    Text,
    Findings,
}

impl ReportFormat {
    const CHECK: [Self; 9] = [
        Self::Html,
        Self::Json,
        Self::Junit,
        Self::Sarif,
        Self::Markdown,
        Self::Csv,
        Self::Ledger,
        Self::Text,
        Self::Findings,
    ];
    pub(crate) const OTHERS: [Self; 4] = [Self::Html, Self::Json, Self::Markdown, Self::Text];

    pub(crate) fn name(self) -> &'static str {
        match self {
            Self::Html => "html",
            Self::Json => "json",
            Self::Junit => "junit",
            Self::Sarif => "sarif",
            Self::Markdown => "markdown",
            Self::Csv => "csv",
            Self::Ledger => "ledger",
            Self::Text => "text",
            Self::Findings => "findings",
        }
    }
}

/// What a result is printed as.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum OutputFormat {
    /// For people
    Text,
    /// For programs
    Json,
    /// For reviews and tickets
    Markdown,
}

/// `FORMAT=FILE`.
#[derive(Debug, Clone)]
pub(crate) struct ReportFile {
    pub(crate) kind: ReportFormat,
    pub(crate) path: PathBuf,
}

fn of_check(text: &str) -> Result<ReportFile, String> {
    report(text, &ReportFormat::CHECK)
}

fn of_others(text: &str) -> Result<ReportFile, String> {
    report(text, &ReportFormat::OTHERS)
}

fn report(text: &str, kinds: &[ReportFormat]) -> Result<ReportFile, String> {
    let names: Vec<&str> = kinds.iter().map(|kind| kind.name()).collect();
    let all = names.join(", ");
    let (name, path) = match text.split_once('=') {
        Some((name, path)) if !path.is_empty() => (name, path),
        _ => {
            return Err(format!(
                "write FORMAT=FILE, as in html=report.html; the formats are {all}"
            ));
        }
    };
    match kinds.iter().find(|kind| kind.name() == name) {
        Some(kind) => Ok(ReportFile { kind: *kind, path: PathBuf::from(path) }),
        None => {
            let near = nearest(name, names.iter().copied());
            let near = near.map(|near| format!("did you mean {near}? ")).unwrap_or_default();
            Err(format!("unknown report format `{name}`; {near}The formats are {all}"))
        }
    }
}

/// The report files of a check.
#[derive(Debug, Args)]
pub(crate) struct CheckReportArgs {
    /// Also write a report: html, json, junit, sarif, markdown, csv, ledger, text, or findings (JSON Lines, one for each finding in each exchange). Repeatable; an existing file is replaced; `-` prints it in place of the result
    #[arg(long = "report", value_name = "FORMAT=FILE", value_parser = of_check)]
    pub(crate) files: Vec<ReportFile>,
    /// Show every row of the grid, also the many endpoints that no exchange was for
    #[arg(long)]
    pub(crate) all_rows: bool,
}

impl CheckReportArgs {
    pub(crate) fn grid_rows(&self) -> GridRows {
        if self.all_rows { GridRows::All } else { GridRows::Covered }
    }
}

/// The report files of other commands.
#[derive(Debug, Args)]
pub(crate) struct ReportArgs {
    /// Also write a report: html, json, markdown or text. Repeatable; an existing file is replaced; `-` prints it in place of the result
    #[arg(long = "report", value_name = "FORMAT=FILE", value_parser = of_others)]
    pub(crate) files: Vec<ReportFile>,
}

/// What lets a check fail.
#[derive(Debug, Args)]
pub(crate) struct GateArgs {
    /// Lowest severity that makes the exit code 1
    #[arg(long, value_name = "SEVERITY", value_enum, default_value_t = SeverityArg::Breach)]
    pub(crate) fail_on: SeverityArg,
    /// A ledger of an earlier check (--report ledger=FILE): only findings that are new since then are listed and fail
    #[arg(long, value_name = "LEDGER")]
    pub(crate) baseline: Option<PathBuf>,
    /// Don't exit with 3 if part of a recording is unreadable; it is reported all the same
    #[arg(long)]
    pub(crate) allow_unreadable: bool,
    /// Don't exit with 2 if no exchange was checked
    #[arg(long)]
    pub(crate) allow_empty: bool,
    /// Write waivers for everything that fails to a new file, to be appended to the contract
    #[arg(long, value_name = "FILE", requires_all = ["until", "reason"])]
    pub(crate) write_waivers: Option<PathBuf>,
    /// Last day of the waivers, as in 2027-05-31
    #[arg(long, value_name = "DATE", requires = "write_waivers", value_parser = super::values::date)]
    pub(crate) until: Option<jiff::civil::Date>,
    /// Reason for the waivers
    #[arg(long, value_name = "TEXT", requires = "write_waivers")]
    pub(crate) reason: Option<String>,
}

impl GateArgs {
    /// Is anything said that only the result of a check can be asked?
    pub(crate) fn is_of_checks(&self) -> bool {
        let Self { fail_on, baseline, allow_empty, write_waivers, .. } = self;
        *fail_on != SeverityArg::Breach
            || baseline.is_some()
            || *allow_empty
            || write_waivers.is_some()
    }
}

/// What a command that ends in a check makes of it.
#[derive(Debug, Args)]
pub(crate) struct CheckOutputArgs {
    /// Output format
    #[arg(long, value_enum, default_value_t = OutputFormat::Text)]
    pub(crate) format: OutputFormat,
    #[command(flatten)]
    pub(crate) reports: CheckReportArgs,
    #[command(flatten)]
    pub(crate) gate: GateArgs,
}

impl CheckOutputArgs {
    /// Is anything asked for that only a whole check can tell?
    pub(crate) fn is_asked_for(&self) -> bool {
        let Self { format, reports, gate } = self;
        *format != OutputFormat::Text
            || !reports.files.is_empty()
            || gate.baseline.is_some()
            || gate.write_waivers.is_some()
            || gate.fail_on != SeverityArg::Breach
    }
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum SeverityArg {
    Breach,
    Warning,
    Note,
}

impl SeverityArg {
    pub(crate) fn severity(self) -> Severity {
        match self {
            Self::Breach => Severity::Breach,
            Self::Warning => Severity::Warning,
            Self::Note => Severity::Note,
        }
    }
}
