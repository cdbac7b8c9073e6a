//! What follows once a ledger has seen everything: the result, the report files, the gate.

use std::path::{Path, PathBuf};

use faithful_clerk_check::gate::Gate;
use faithful_clerk_check::grid::GridRows;
use faithful_clerk_check::ledger::{Baseline, ComparisonFindings, Ledger, LedgerSources, waivers};
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_report::html::{self, Exhibit};
use faithful_clerk_report::{CheckReport, csv, json, junit, markdown, sarif, text};

use crate::contracts::today;
use crate::exit::{Completion, Failure};
use crate::findings_log::FindingsLog;
use crate::flags::{GateArgs, OutputFormat, OutputSettings, ReportFormat};
use crate::output::{print_error, write_new};
use crate::reports::{ReportContent, ReportFiles};

/// A file that is larger is no ledger of anything that was read in a day.
const LARGEST_LEDGER: u64 = 256 << 20;

/// A gate, before anything was checked: what is wrong with it is known early.
#[derive(Debug)]
pub(crate) struct PreparedGate<'f> {
    flags: &'f GateArgs,
    baseline: Option<(String, Baseline)>,
}

impl<'f> PreparedGate<'f> {
    pub(crate) fn of(flags: &'f GateArgs, contract: &ErrorContract) -> Result<Self, Failure> {
        if let Some(until) = flags.until.filter(|until| *until < today()) {
            return Err(Failure::Call(format!("waivers until {until} would already be expired")));
        }
        if let Some(path) = flags.write_waivers.as_deref().filter(|path| path.exists()) {
            let path = path.display();
            return Err(Failure::Call(format!("{path} already exists; not overwritten")));
        }
        let read = |path: &PathBuf| -> Result<(String, Baseline), Failure> {
            let name = path.display().to_string();
            let text = ledger_text(path)?;
            let baseline = Baseline::read(&text, contract)
                .map_err(|refusal| Failure::Call(format!("can't use {name}: {refusal}")))?;
            if !baseline.same_contract {
                print_error(&format!(
                    "the contract has changed since {name}: findings of its new rules count as new"
                ));
            }
            Ok((name, baseline))
        };
        let baseline = flags.baseline.as_ref().map(read).transpose()?;
        Ok(Self { flags, baseline })
    }

    fn gate(&self) -> Gate<'_> {
        let since = self.baseline.as_ref().map(|(_, baseline)| baseline);
        Gate { fail_on: self.flags.fail_on.severity(), baseline: since }
    }

    /// What a part that could not be read makes of the outcome.
    pub(crate) fn allows_unread(&self) -> bool {
        self.flags.allow_unreadable
    }
}

/// The text of a ledger.
pub(crate) fn ledger_text(path: &Path) -> Result<String, Failure> {
    let name = path.display();
    let fail =
        |error: std::io::Error| Failure::Call(format!("can't read the ledger {name}: {error}"));
    if std::fs::metadata(path).map_err(fail)?.len() > LARGEST_LEDGER {
        let most = LARGEST_LEDGER >> 20;
        return Err(Failure::Call(format!("the ledger {name} is larger than {most} MiB")));
    }
    std::fs::read_to_string(path).map_err(fail)
}

/// A ledger that has seen everything, and what it is of.
#[derive(Debug)]
pub(crate) struct FinishedCheck<'c> {
    pub(crate) contract: &'c ErrorContract,
    pub(crate) contract_path: &'c str,
    pub(crate) sources: &'c LedgerSources,
    pub(crate) format: OutputFormat,
    /// The ledger is the result, and there is no other.
    pub(crate) is_ledger: bool,
    pub(crate) grid_rows: GridRows,
    pub(crate) guard: &'c PreparedGate<'c>,
    pub(crate) settings: &'c OutputSettings,
}

impl FinishedCheck<'_> {
    /// Concludes the ledger, and writes the result, the report files and the waivers that were asked for. `exhibits`
    /// lays out the exchanges that a page is to show. Gives the ledger back, and whether the gate lets it pass.
    pub(crate) fn conclude(
        &self,
        mut ledger: Ledger,
        mut log: Option<FindingsLog>,
        reports: ReportFiles,
        exhibits: impl FnOnce(&CheckReport<'_>) -> Result<Vec<Exhibit>, Failure>,
    ) -> Result<(Ledger, Completion), Failure> {
        // It has to be saved as long as it can still be added to others.
        let saved = match self.is_ledger || reports.has(ReportFormat::Ledger) {
            true => ledger.save(self.contract, self.sources).map_err(failed)?,
            false => String::new(),
        };
        ledger.settle();
        let comparisons = match &log {
            Some(_) => ledger.comparisons(self.contract),
            None => ComparisonFindings::default(),
        };
        ledger.conclude(self.contract);
        let mut report = CheckReport::new(&ledger, self.contract, &self.sources.recordings);
        report.contract_path = self.contract_path;
        report.gate = self.guard.gate();
        report.grid_rows = self.grid_rows;
        report.allows_empty = self.guard.flags.allow_empty;
        report.baseline = self.guard.baseline.as_ref().map(|(name, _)| name.as_str());
        let result = match self.format {
            _ if self.is_ledger => saved.clone(),
            OutputFormat::Text => text::check(&report, self.settings.stdout),
            OutputFormat::Json => json::check(&report).map_err(failed)?,
            OutputFormat::Markdown => markdown::check(&report),
        };
        reports.print(&result, self.is_ledger, self.settings)?;
        let shown = if reports.has(ReportFormat::Html) { exhibits(&report)? } else { Vec::new() };
        reports.write(|kind| {
            let text = match kind {
                ReportFormat::Text => text::check(&report, faithful_clerk_report::Theme::bare(100)),
                ReportFormat::Json => json::check(&report).map_err(failed)?,
                ReportFormat::Markdown => markdown::check(&report),
                ReportFormat::Csv => {
                    csv::check(&report).map_err(|error| Failure::Output(error.into()))?
                }
                ReportFormat::Junit => junit::check(&report).map_err(Failure::Output)?,
                ReportFormat::Sarif => sarif::check(&report).map_err(failed)?,
                ReportFormat::Ledger => saved.clone(),
                ReportFormat::Html => html::check(&report, &shown).map_err(failed_page)?,
                ReportFormat::Findings => {
                    let Some(log) = log.take() else {
                        return Ok(ReportContent::Text(String::new()));
                    };
                    let lines = log.lines(&report, &comparisons).map_err(Failure::Output)?;
                    return Ok(ReportContent::File(lines));
                }
            };
            Ok(ReportContent::Text(text))
        })?;
        self.write_waivers(&report)?;
        if self.is_ledger {
            // Whoever adds it up decides.
            return Ok((ledger, Completion::Kept));
        }
        let passing = report.gate.passing(self.contract, &ledger);
        let found = if passing.failing == 0 { Completion::Kept } else { Completion::Broken };
        // Where a recording can't be read, that is what has to be told.
        let is_told = ledger.unreadable.count > 0 && !self.guard.flags.allow_unreadable;
        let outcome = match ledger.checked {
            0 if !is_told && !self.guard.flags.allow_empty => {
                print_error(&nothing_checked(&ledger, self.contract));
                Completion::CallWrong
            }
            _ => {
                if let Some(met) = ledger.few_at_endpoints() {
                    let checked = ledger.checked;
                    print_error(&format!(
                        "only {met} of {checked} exchanges met an endpoint of the contract; is the base path of its \
                         `servers` right?"
                    ));
                }
                found
            }
        };
        Ok((ledger, outcome))
    }

    fn write_waivers(&self, report: &CheckReport<'_>) -> Result<(), Failure> {
        let flags = self.guard.flags;
        let (Some(path), Some(until), Some(reason)) =
            (&flags.write_waivers, flags.until, &flags.reason)
        else {
            return Ok(());
        };
        match waivers(self.contract, report.ledger, &report.gate, until, reason) {
            Some(text) => write_new(path, &text),
            None => {
                print_error("nothing fails the check, so there are no waivers to write");
                Ok(())
            }
        }
    }
}

/// Why nothing was checked: what the recordings hold instead, and how it differs from the nearest server.
fn nothing_checked(ledger: &Ledger, contract: &ErrorContract) -> String {
    const HINT: &str = "; --allow-empty accepts that";
    let excluded: u64 = ledger.excluded.values().sum();
    if excluded == 0 {
        return format!("nothing was checked: there is no exchange in the recordings{HINT}");
    }
    let Some(nearest) = ledger.nearest_server(contract) else {
        let reasons = text::reasons(&ledger.excluded);
        return format!("nothing was checked: all exchanges were excluded: {reasons}{HINT}");
    };
    let words: Vec<&str> = nearest.differences.iter().map(|one| one.words()).collect();
    format!(
        "nothing was checked: requests went to {}, and the nearest server of the contract is {}: {}{HINT}",
        nearest.called,
        nearest.server.text,
        words.join(" and ")
    )
}

pub(crate) fn failed(error: impl Into<std::io::Error>) -> Failure {
    Failure::Output(error.into())
}

/// A page that can't be made is a mistake of ours; it is said and nothing is written.
pub(crate) fn failed_page(error: html::Error) -> Failure {
    Failure::Output(std::io::Error::other(error))
}
