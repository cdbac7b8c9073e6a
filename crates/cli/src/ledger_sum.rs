//! Ledgers of several parts, added up. What does not belong together is told, and then nothing is added.

use std::collections::{BTreeMap, BTreeSet};

use faithful_clerk_check::ledger::{Ledger, LedgerError, LedgerSources, RestoredLedger};
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_insight::survey::SurveyLedger;

use crate::exit::Failure;
use crate::ledgers::LedgerInputs;
use crate::output::print_error;

/// How ledgers are added.
#[derive(Debug, Clone, Copy, Default)]
pub(crate) struct SumRules {
    /// How many there have to be.
    pub(crate) expected: Option<u64>,
    /// May two hold the same bytes?
    pub(crate) allows_duplicates: bool,
    /// Does it matter on which day they were made?
    pub(crate) has_waivers: bool,
}

impl SumRules {
    /// What the sum of ledgers is of. `read` gives what one of them is of.
    pub(crate) fn sources(
        self,
        ledgers: &LedgerInputs,
        mut read: impl FnMut(&str) -> Result<LedgerSources, LedgerError>,
    ) -> Result<LedgerSources, Failure> {
        let mut all: Option<LedgerSources> = None;
        let mut names: BTreeSet<String> = BTreeSet::new();
        let mut holders: BTreeMap<String, String> = BTreeMap::new();
        let (mut count, mut is_right) = (0_u64, true);
        let mut refuse = |file: &str, why: String| {
            print_error(&format!("can't add {file}: {why}"));
            is_right = false;
        };
        ledgers.each(|file, text| {
            count += 1;
            let of = match read(text) {
                Ok(of) => of,
                Err(why) => {
                    refuse(file, why.to_string());
                    return Ok(());
                }
            };
            let first = all.get_or_insert_with(|| {
                LedgerSources { origin: of.origin.clone(), ..LedgerSources::default() }
            });
            if let Some(difference) = of.origin.difference(&first.origin, self.has_waivers) {
                refuse(file, difference.to_string());
            }
            for digest in of.digests {
                if let Some(other) = holders.insert(digest, file.to_owned())
                    && !self.allows_duplicates
                {
                    let why = format!("{other} holds the same bytes of a recording; --allow-duplicates counts them twice");
                    refuse(file, why);
                }
            }
            names.extend(of.recordings);
            Ok(())
        })?;
        if let Some(most) = self.expected.filter(|most| *most != count) {
            let why = format!("{most} ledgers are expected, and {count} are there");
            return Err(Failure::Call(why));
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
}

/// A recording's place by its name, so that no order of the ledgers matters. Parts of one recording are that recording.
fn place<'n>(names: &'n [String]) -> impl Fn(&str) -> u32 + Copy + 'n {
    |name| {
        let place = names.binary_search_by(|known| known.as_str().cmp(name));
        place.ok().and_then(|place| u32::try_from(place).ok()).unwrap_or(u32::MAX)
    }
}

fn refused(file: &str, why: &LedgerError) -> Failure {
    Failure::Call(format!("can't add {file}: {why}"))
}

/// The sum of the ledgers of checks.
pub(crate) fn sum_of_checks(
    ledgers: &LedgerInputs,
    contract: &ErrorContract,
    names: &[String],
) -> Result<Ledger, Failure> {
    let mut sum = Ledger::new();
    ledgers.each(|file, text| {
        let restored = RestoredLedger::read(text, contract, place(names));
        sum.add(restored.map_err(|why| refused(file, &why))?.ledger);
        Ok(())
    })?;
    Ok(sum)
}

/// The sum of the ledgers of surveys.
pub(crate) fn sum_of_surveys(
    ledgers: &LedgerInputs,
    names: &[String],
) -> Result<SurveyLedger, Failure> {
    let mut sum = SurveyLedger::default();
    ledgers.each(|file, text| {
        let restored = SurveyLedger::read(text, place(names));
        sum.add(restored.map_err(|why| refused(file, &why))?);
        Ok(())
    })?;
    Ok(sum)
}
