//! `fclerk merge`: ledgers of several checks, added up.

use std::collections::BTreeMap;
use std::path::Path;

use faithful_clerk_check::ledger::Ledger;
use faithful_clerk_check::ledger::RestoredLedger;
use faithful_clerk_model::address::RecordingNames;

use crate::contracts::contract;
use crate::exit::{Completion, Failure};
use crate::finish::{FinishedCheck, PreparedGate, ledger_text};
use crate::flags::{MergeArgs, OutputSettings, ReportFormat};
use crate::output::print_error;
use crate::recordings::print_unreadable;
use crate::reports::ReportFiles;

pub(crate) fn run(args: &MergeArgs, settings: &OutputSettings) -> Result<Completion, Failure> {
    let expected = contract(args.contract.as_deref(), settings.stderr)?;
    let contract = &expected.contract;
    let guard = PreparedGate::of(&args.results.gate, contract)?;
    let reads = args.ledgers.iter().map(|path| path.as_path()).chain([expected.path.as_path()]);
    let reads: Vec<&Path> = reads.chain(args.results.gate.baseline.as_deref()).collect();
    let reports = ReportFiles::open(&args.results.reports.files, &reads)?;
    if reports.has(ReportFormat::Findings) {
        return Err(Failure::Call(
            "ledgers do not hold every address; --report findings=FILE belongs to `fclerk check`"
                .to_owned(),
        ));
    }
    let mut sum = Ledger::new();
    let mut names: Vec<String> = Vec::new();
    let mut from: BTreeMap<String, String> = BTreeMap::new();
    let mut is_whole = true;
    for path in &args.ledgers {
        let file = path.display().to_string();
        let first = u32::try_from(names.len()).unwrap_or(u32::MAX);
        let restored = ledger_text(path).and_then(|text| {
            let restored = RestoredLedger::read(&text, contract, first);
            restored.map_err(|why| Failure::Call(format!("can't add {file}: {why}")))
        });
        let RestoredLedger { recordings, ledger } = match restored {
            Ok(restored) => restored,
            Err(Failure::Call(message)) => {
                print_error(&message);
                is_whole = false;
                continue;
            }
            Err(failure) => return Err(failure),
        };
        for name in &recordings {
            // One recording in two ledgers is most likely counted twice.
            if let Some(other) = from.insert(name.clone(), file.clone()) {
                print_error(&format!("{name} is in both {other} and {file} and counts twice"));
            }
        }
        names.extend(recordings);
        sum.add(ledger);
    }
    if !is_whole {
        return Err(Failure::Said);
    }
    let concluding = FinishedCheck {
        contract,
        contract_path: &expected.name(),
        recordings: &names,
        format: args.results.format,
        grid_rows: args.results.reports.grid_rows(),
        guard: &guard,
        settings,
    };
    // The recordings are on other machines: a page of this has no exchanges laid out.
    let (ledger, found) = concluding.conclude(sum, None, reports, |_| Ok(Vec::new()))?;
    print_unreadable(&ledger.unreadable, RecordingNames(&names));
    Ok(if ledger.unreadable.count > 0 && !guard.allows_unread() {
        Completion::NotAllRead
    } else {
        found
    })
}
