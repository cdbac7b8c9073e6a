//! The check that a command ends in: of recordings that are there, or of one that it makes itself.

use std::path::Path;

use faithful_clerk_check::Check;
use faithful_clerk_check::ledger::{Ledger, LedgerOrigin};
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_recording::ReadOptions;
use faithful_clerk_report::CheckReport;

use crate::contracts::today;
use crate::exit::{Completion, Failure};
use crate::findings_log::{FindingsLog, spool};
use crate::finish::{FinishedCheck, PreparedGate};
use crate::flags::{CheckArgs, CheckOutputArgs, OutputSettings, ReportFormat};
use crate::page_exchanges::exhibits;
use crate::recordings::RecordingInputs;
use crate::reports::ReportFiles;

/// A check before anything was read: its gate is known and its report files can be written, so that what is wrong with
/// them is told before anything takes time.
#[derive(Debug)]
pub(crate) struct PreparedCheck<'f> {
    flags: &'f CheckOutputArgs,
    guard: PreparedGate<'f>,
    reports: ReportFiles,
    /// How the check is made, as its ledger says it.
    origin: LedgerOrigin,
    is_ledger: bool,
}

impl<'f> PreparedCheck<'f> {
    /// Prepares it. `reads` are the files that the command reads; no report is written over one.
    pub(crate) fn of(
        flags: &'f CheckOutputArgs,
        contract: &ErrorContract,
        reads: &[&Path],
    ) -> Result<Self, Failure> {
        let guard = PreparedGate::of(&flags.gate, contract)?;
        let reads: Vec<&Path> =
            reads.iter().copied().chain(flags.gate.baseline.as_deref()).collect();
        let reports = ReportFiles::open(&flags.reports.files, &reads)?;
        let origin = LedgerOrigin {
            program: env!("CARGO_PKG_VERSION").to_owned(),
            today: today().to_string(),
            max_exchange: ReadOptions::default().max_exchange as u64,
            ..LedgerOrigin::default()
        };
        Ok(Self { flags, guard, reports, origin, is_ledger: false })
    }

    /// Says how the check is made, and whether its ledger is the result.
    pub(crate) fn made(self, args: &CheckArgs) -> Self {
        let today = args.today.unwrap_or_else(today).to_string();
        let origin = LedgerOrigin { today, ..args.reading.origin() };
        Self { origin, is_ledger: args.ledger, ..self }
    }

    /// Checks the recordings, and writes what was asked for.
    pub(crate) fn run(
        self,
        (contract, contract_path): (&ErrorContract, &str),
        check: &Check<'_>,
        mut recordings: RecordingInputs,
        opening: &ReadOptions,
        settings: &OutputSettings,
    ) -> Result<Completion, Failure> {
        let Self { flags, guard, reports, origin, is_ledger } = self;
        if is_ledger || reports.has(ReportFormat::Ledger) {
            recordings.digest();
        }
        if reports.has(ReportFormat::Html) {
            recordings.keep()?;
        }
        let mut ledger = Ledger::new();
        let mut log = reports.has(ReportFormat::Findings).then(FindingsLog::new);
        recordings.each(|source, recording| match &mut log {
            Some(Ok(kept)) => {
                let (sum, observed) = check.recording_with(source, recording, spool);
                ledger.add(sum);
                if let Err(error) = kept.add(observed) {
                    log = Some(Err(error));
                }
            }
            Some(Err(_)) | None => ledger.add(check.recording(source, recording)),
        });
        let log = log.transpose().map_err(Failure::Output)?;
        let mut sources = recordings.sources(origin);
        if !is_ledger {
            sources.recordings.clone_from(&recordings.names);
        } else if sources.recordings.is_empty() {
            // A part in which there is nothing adds nothing.
            ledger = Ledger::new();
        }
        let concluding = FinishedCheck {
            contract,
            contract_path,
            sources: &sources,
            format: flags.format,
            is_ledger,
            grid_rows: flags.reports.grid_rows(),
            guard: &guard,
            settings,
        };
        let lay_out = |report: &CheckReport<'_>| exhibits(report, &recordings, opening);
        let (ledger, found) = concluding.conclude(ledger, log, reports, lay_out)?;
        Ok(recordings.outcome(&ledger.unreadable, found, is_ledger || guard.allows_unread()))
    }
}
