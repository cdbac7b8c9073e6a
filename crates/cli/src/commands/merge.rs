//! `fclerk merge`: ledgers of several checks, added up.

use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;

use faithful_clerk_check::ledger::{Ledger, LedgerSources, RestoredLedger};
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_model::address::RecordingNames;

use crate::contracts::contract;
use crate::exit::{Completion, Failure};
use crate::finish::{FinishedCheck, PreparedGate};
use crate::flags::{MergeArgs, OutputSettings, ReportFormat};
use crate::ledgers::LedgerInputs;
use crate::output::print_error;
use crate::recordings::print_unreadable;
use crate::reports::ReportFiles;

pub(crate) fn run(args: &MergeArgs, settings: &OutputSettings) -> Result<Completion, Failure> {
    let mut expected = contract(args.contract.as_deref(), settings.stderr)?;
    let ledgers = LedgerInputs::of(&args.ledgers)?;
    let sources = sources(&ledgers, &expected.contract, args)?;
    // Waivers are those of the day on which the parts were checked.
    if let Ok(day) = sources.origin.today.parse() {
        expected.contract.set_today(day);
    }
    let contract = &expected.contract;
    let guard = PreparedGate::of(&args.results.gate, contract)?;
    let reads = ledgers.paths().chain([expected.path.as_path()]);
    let reads: Vec<&Path> = reads.chain(args.results.gate.baseline.as_deref()).collect();
    let reports = ReportFiles::open(&args.results.reports.files, &reads)?;
    if reports.has(ReportFormat::Findings) {
        return Err(Failure::Call(
            "ledgers do not hold every address; --report findings=FILE belongs to `fclerk check`"
                .to_owned(),
        ));
    }
    let sum = sum(&ledgers, contract, &sources.recordings)?;
    let concluding = FinishedCheck {
        contract,
        contract_path: &expected.name(),
        sources: &sources,
        format: args.results.format,
        is_ledger: args.ledger,
        grid_rows: args.results.reports.grid_rows(),
        guard: &guard,
        settings,
    };
    // The recordings are on other machines: a page of this has no exchanges laid out.
    let (ledger, found) = concluding.conclude(sum, None, reports, |_| Ok(Vec::new()))?;
    print_unreadable(&ledger.unreadable, RecordingNames(&sources.recordings));
    let is_unread = ledger.unreadable.count > 0 && !guard.allows_unread();
    Ok(if is_unread && !args.ledger { Completion::NotAllRead } else { found })
}

/// What the sum is of. What can't be added is told, and then nothing is.
fn sources(
    ledgers: &LedgerInputs,
    contract: &ErrorContract,
    args: &MergeArgs,
) -> Result<LedgerSources, Failure> {
    let mut all: Option<LedgerSources> = None;
    let mut names: BTreeSet<String> = BTreeSet::new();
    let mut holders: BTreeMap<String, String> = BTreeMap::new();
    let (mut count, mut is_right) = (0_u64, true);
    let mut refuse = |file: &str, why: String| {
        print_error(&format!("can't add {file}: {why}"));
        is_right = false;
    };
    let has_waivers = !contract.waivers.is_empty();
    ledgers.each(|file, text| {
        count += 1;
        let of = match RestoredLedger::sources(text, contract) {
            Ok(of) => of,
            Err(why) => {
                refuse(file, why.to_string());
                return Ok(());
            }
        };
        let first = all.get_or_insert_with(|| {
            LedgerSources { origin: of.origin.clone(), ..LedgerSources::default() }
        });
        if let Some(difference) = of.origin.difference(&first.origin, has_waivers) {
            refuse(file, difference.to_string());
        }
        for digest in of.digests {
            if let Some(other) = holders.insert(digest, file.to_owned())
                && !args.allow_duplicates
            {
                let why = format!("{other} holds the same bytes of a recording; --allow-duplicates counts them twice");
                refuse(file, why);
            }
        }
        names.extend(of.recordings);
        Ok(())
    })?;
    if let Some(most) = args.expect.filter(|most| *most != count) {
        return Err(Failure::Call(format!("{most} ledgers are expected, and {count} are there")));
    }
    match all {
        Some(LedgerSources { origin, .. }) if is_right => Ok(LedgerSources {
            origin,
            recordings: names.into_iter().collect(),
            digests: holders.into_keys().collect(),
        }),
        _ => Err(Failure::Said),
    }
}

/// The sum. Parts of one recording are that recording; recordings have their places by their names, so that no order of the
/// ledgers matters.
fn sum(
    ledgers: &LedgerInputs,
    contract: &ErrorContract,
    names: &[String],
) -> Result<Ledger, Failure> {
    let place = |name: &str| {
        let place = names.binary_search_by(|known| known.as_str().cmp(name));
        place.ok().and_then(|place| u32::try_from(place).ok()).unwrap_or(u32::MAX)
    };
    let mut sum = Ledger::new();
    ledgers.each(|file, text| {
        let restored = RestoredLedger::read(text, contract, place);
        let restored = restored.map_err(|why| Failure::Call(format!("can't add {file}: {why}")))?;
        sum.add(restored.ledger);
        Ok(())
    })?;
    Ok(sum)
}
