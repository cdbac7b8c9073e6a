//! The sum itself: entering and adding.

use std::borrow::Cow;
use std::collections::{BTreeMap, BTreeSet};

use super::compared::{ComparisonBound, ConsistencyResult, Outlier};
use super::entries::keep_first;
use super::{
    ClauseFindings, ClauseTallies, Column, EndpointRow, FindingKey, FindingOccurrences, LedgerCell,
    ObservedValues,
};
use crate::classify::{CUT, Classified, NOT_OWN, ParsedBody, StatusVerdict};
use crate::clauses::{ExchangeResult, Observation, clause, index_of};
use faithful_clerk_contract::{ErrorContract, SeverityOverride, WaiverValidity, url_start};
use faithful_clerk_model::address::Address;
use faithful_clerk_model::finding::{Expected, Finding, Got, ObservedValue, Severity, Subject};
use faithful_clerk_model::secret::mask::masked;
use faithful_clerk_recording::UnreadableParts;

/// So many places are kept to which requests lead that are not the service's.
pub(super) const MOST_FOREIGN: usize = 5;

/// Before the situation that a response tells of instead of the one that its request shows.
const INSTEAD: &str = "the response tells of something else: ";

/// The sum of a check.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Ledger {
    /// Exchanges that were checked.
    pub checked: u64,
    /// Exchanges that are none of the service's, by reason.
    pub excluded: BTreeMap<Cow<'static, str>, u64>,
    /// Where requests lead that are not the service's, the first few: scheme, host, port and a segment of the path.
    pub foreign: BTreeSet<String>,
    /// Responses that could not be checked wholly, by reason, in exchanges.
    pub not_checked: BTreeMap<Cow<'static, str>, u64>,
    /// The grid.
    pub grid: BTreeMap<(EndpointRow, Column), LedgerCell>,
    /// The findings.
    pub findings: BTreeMap<(EndpointRow, &'static str), ClauseFindings>,
    /// Each clause's count.
    pub clauses: ClauseTallies,
    /// How many findings there are of each severity.
    pub tallies: BTreeMap<Severity, u64>,
    /// What could not be read.
    pub unreadable: UnreadableParts,
    /// The recordings without any credentials in them, in which `missing-credentials` was therefore
    /// not checked though an endpoint needs credentials.
    pub without_credentials: BTreeSet<u32>,
    /// The findings that a waiver covers, by the waiver's place in the contract.
    pub waived: BTreeMap<usize, ClauseFindings>,
    /// Waivers that should go, by their place in the contract.
    pub stale: BTreeMap<usize, StaleWaiver>,
    /// How often each fault came, by its name.
    pub faults: BTreeMap<String, u64>,
    /// How often each of the contract's cases was tried, by its place in the contract.
    pub cases: BTreeMap<usize, u64>,
    /// The bounds that clauses which compare exchanges reached.
    pub bounds: BTreeSet<(&'static str, ComparisonBound)>,
    /// What clauses that compare exchanges saw, until the ledger is concluded.
    pub compared: ObservedValues,
    /// What can only be decided once all parts of a recording are there, by recording.
    pub undecided: BTreeMap<u32, UndecidedCredentials>,
}

/// Exchanges that are checked in two ways, as long as nobody knows whether their recording holds credentials: whether a request
/// without any is wrong is only known once any request was seen to carry some.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct UndecidedCredentials {
    /// Was a request with credentials seen? Then nothing is undecided any more.
    pub has_credentials: bool,
    /// What counts if there is one, where that is anything.
    pub if_recorded: Option<Box<Ledger>>,
    /// What counts if there is none, where that is anything.
    pub if_not: Option<Box<Ledger>>,
}

/// Why a waiver should go.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum StaleWaiver {
    /// Its day is over: a breach.
    Expired,
    /// It covers no finding: a note.
    Unused,
}

impl StaleWaiver {
    /// What it counts.
    #[must_use]
    pub fn weight(self) -> Severity {
        match self {
            Self::Expired => Severity::Breach,
            Self::Unused => Severity::Note,
        }
    }
}

impl Ledger {
    /// An empty ledger.
    #[must_use]
    pub fn new() -> Self {
        Self::default()
    }

    /// Enters an exchange that is none of the service's.
    pub fn exclude(&mut self, reason: &'static str, url: &str) {
        *self.excluded.entry(Cow::Borrowed(reason)).or_default() += 1;
        if reason == NOT_OWN
            && let Some(start) = url_start(url)
        {
            self.keep_foreign([masked(&start).into_owned()]);
        }
    }

    /// Keeps where excluded requests lead; the first few by their order, whichever come.
    pub(super) fn keep_foreign(&mut self, starts: impl IntoIterator<Item = String>) {
        self.foreign.extend(starts);
        while self.foreign.len() > MOST_FOREIGN {
            self.foreign.pop_last();
        }
    }

    /// Enters what was found in one exchange.
    pub fn enter(&mut self, classified: &Classified<'_>, result: ExchangeResult) {
        let ExchangeResult { mut findings, met: kept, not_checked: unjudged, observations: sights } =
            result;
        self.checked += 1;
        let row = classified.row();
        let unknown = why_not_checked(classified);
        let is_unknown = unknown.is_some();
        if let Some(reason) = unknown {
            *self.not_checked.entry(reason).or_default() += 1;
        }
        if let Some(fault) = classified.fault() {
            match self.faults.get_mut(&fault.name) {
                Some(count) => *count += 1,
                None => _ = self.faults.insert(fault.name.clone(), 1),
            }
        }
        for case in &classified.situations.cases {
            *self.cases.entry(*case).or_default() += 1;
        }
        let column = classified.grid_situation();
        for observation in sights {
            self.compared.enter(observation, &row, column, classified.exchange.address);
        }
        findings.retain(|finding| !self.waive(classified.contract, &row, finding));
        let cell = self.grid.entry((row.clone(), column)).or_default();
        let address = classified.exchange.address;
        if findings.iter().any(|finding| finding.severity == Severity::Breach) {
            cell.broken += 1;
            keep_first(&mut cell.first_broken, address);
        } else if is_unknown {
            cell.not_checked += 1;
        } else {
            cell.met += 1;
        }
        keep_first(&mut cell.first, address);
        for location in kept.iter() {
            self.clauses.at(location).into_iter().for_each(|tally| tally.met += 1);
        }
        for location in unjudged.iter() {
            self.clauses.at(location).into_iter().for_each(|tally| tally.not_checked += 1);
        }
        // What a clause found stands together.
        for found in findings.chunk_by(|one, other| one.clause == other.clause) {
            let tally = found.first().and_then(|finding| self.clauses.of(finding.clause));
            tally.into_iter().for_each(|tally| tally.broken += 1);
        }
        for finding in findings {
            self.find(&row, finding);
        }
    }

    fn find(&mut self, row: &EndpointRow, finding: Finding) {
        let (key, entry) = keyed(finding);
        *self.tallies.entry(key.severity).or_default() += entry.count;
        self.findings.entry((row.clone(), key.clause)).or_default().add(key, entry);
    }

    /// Enters a finding as waived, if a waiver covers it.
    fn waive(&mut self, contract: &ErrorContract, row: &EndpointRow, finding: &Finding) -> bool {
        let Some(waiver) = contract.waiver_for(finding.clause, row) else {
            return false;
        };
        let (key, entry) = keyed(finding.clone());
        self.waived.entry(waiver).or_default().add(key, entry);
        true
    }

    /// Checks what can only be checked when everything was seen: what exchanges have in common, and
    /// which waivers should go. To be called once, after all ledgers were added up.
    pub fn conclude(&mut self, contract: &ErrorContract) {
        self.settle();
        self.bounds.append(&mut self.compared.bounds);
        let ConsistencyResult { met, outliers } = std::mem::take(&mut self.compared).conclude();
        for (name, count) in met {
            self.clauses.of(name).into_iter().for_each(|tally| tally.met += count);
        }
        for outlier in outliers {
            self.enter_outlier(contract, outlier);
        }
        for (at, waiver) in contract.waivers.iter().enumerate() {
            let stale = match waiver.validity {
                WaiverValidity::Expired => StaleWaiver::Expired,
                WaiverValidity::InForce if !self.waived.contains_key(&at) => StaleWaiver::Unused,
                WaiverValidity::InForce => continue,
            };
            *self.tallies.entry(stale.weight()).or_default() += 1;
            self.stale.insert(at, stale);
        }
    }

    /// What comparing will find, of a ledger that is not concluded.
    #[must_use]
    pub fn comparisons(&self, contract: &ErrorContract) -> ComparisonFindings {
        let outliers = self.compared.clone().conclude().outliers.into_iter();
        let found = outliers.map(|outlier| {
            let Outlier { clause, subject, value, expected, got, conforming, locations: _ } =
                outlier;
            let severity = severity_of(clause, contract);
            let of = ComparisonFinding { severity, expected, got, conforming };
            ((clause, subject, value), of)
        });
        ComparisonFindings(found.collect())
    }

    fn enter_outlier(&mut self, contract: &ErrorContract, outlier: Outlier) {
        let Outlier { clause: name, expected, got, conforming, locations, .. } = outlier;
        let severity = severity_of(name, contract);
        for ((row, column, location), entry) in locations {
            let (expected, got) = (expected.clone(), got.clone());
            let key = FindingKey {
                severity,
                clause: name,
                location,
                expected,
                got,
                because: None,
                not_checked: None,
                conforming,
            };
            self.clauses.of(name).into_iter().for_each(|tally| tally.broken += entry.count);
            if let Some(waiver) = contract.waiver_for(name, &row) {
                self.waived.entry(waiver).or_default().add(key, entry);
                continue;
            }
            *self.tallies.entry(severity).or_default() += entry.count;
            if severity == Severity::Breach {
                let cell = self.grid.entry((row.clone(), column)).or_default();
                cell.from_comparison += entry.count;
                entry.first.iter().for_each(|at| keep_first(&mut cell.first_broken, *at));
            }
            self.findings.entry((row, name)).or_default().add(key, entry);
        }
    }

    /// Decides what was open, as no other part comes any more.
    pub fn settle(&mut self) {
        for (_, undecided) in std::mem::take(&mut self.undecided) {
            self.add(undecided.if_not.map(|ledger| *ledger).unwrap_or_default());
        }
    }

    /// Enters what is undecided in a part of a recording.
    pub(crate) fn enter_undecided(&mut self, recording: u32, part: UndecidedCredentials) {
        let sum = self.undecided.entry(recording).or_default();
        sum.has_credentials |= part.has_credentials;
        for (kept, new) in
            [(&mut sum.if_recorded, part.if_recorded), (&mut sum.if_not, part.if_not)]
        {
            // Most parts have nothing that is undecided, and there may be a million of them.
            if let Some(new) = new.filter(|new| **new != Self::default()) {
                kept.get_or_insert_default().add(*new);
            }
        }
        if sum.has_credentials {
            sum.if_not = None;
            let decided = sum.if_recorded.take();
            self.add(decided.map(|ledger| *ledger).unwrap_or_default());
        }
    }

    /// Adds another ledger to this one.
    pub fn add(&mut self, other: Self) {
        let Self {
            checked: outcome,
            excluded: aside,
            foreign,
            not_checked: unjudged,
            grid,
            findings,
            clauses,
            tallies: severities,
            unreadable,
            without_credentials,
            waived,
            stale,
            faults,
            cases,
            bounds,
            compared,
            undecided,
        } = other;
        for (recording, undecided) in undecided {
            self.enter_undecided(recording, undecided);
        }
        self.checked += outcome;
        for (reason, count) in aside {
            *self.excluded.entry(reason).or_default() += count;
        }
        self.keep_foreign(foreign);
        for (reason, count) in unjudged {
            *self.not_checked.entry(reason).or_default() += count;
        }
        for (location, cell) in grid {
            let sum = self.grid.entry(location).or_default();
            sum.met += cell.met;
            sum.broken += cell.broken;
            sum.not_checked += cell.not_checked;
            sum.from_comparison += cell.from_comparison;
            cell.first.into_iter().for_each(|at| keep_first(&mut sum.first, at));
            cell.first_broken.into_iter().for_each(|at| keep_first(&mut sum.first_broken, at));
        }
        for (location, entries) in findings {
            self.findings.entry(location).or_default().merge(entries);
        }
        self.clauses.add(&clauses);
        for (severity, count) in severities {
            *self.tallies.entry(severity).or_default() += count;
        }
        self.unreadable.add(unreadable);
        self.without_credentials.extend(without_credentials);
        for (waiver, entries) in waived {
            self.waived.entry(waiver).or_default().merge(entries);
        }
        self.stale.extend(stale);
        for (fault, count) in faults {
            *self.faults.entry(fault).or_default() += count;
        }
        for (case, count) in cases {
            *self.cases.entry(case).or_default() += count;
        }
        self.bounds.extend(bounds);
        self.compared.add(compared);
    }

    /// How many findings there are of a severity.
    #[must_use]
    pub fn count(&self, severity: Severity) -> u64 {
        self.tallies.get(&severity).copied().unwrap_or_default()
    }
}

/// The severity of a clause's findings under the contract.
fn severity_of(name: &str, contract: &ErrorContract) -> Severity {
    match index_of(name).and_then(|index| contract.severity_override(index)) {
        Some(SeverityOverride::As(severity)) => severity,
        Some(SeverityOverride::Off) | None => {
            clause(name).map_or(Severity::Note, |clause| clause.severity)
        }
    }
}

/// What comparing finds of one value.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ComparisonFinding {
    /// How severe it is.
    pub severity: Severity,
    /// What the others have.
    pub expected: Expected,
    /// What it is.
    pub got: Got,
    /// An exchange in which it is as expected.
    pub conforming: Option<Address>,
}

/// What comparing finds, by clause, subject, and part and value.
#[derive(Debug, Clone, Default)]
pub struct ComparisonFindings(BTreeMap<ObservationKey, ComparisonFinding>);

/// A clause, a subject, and a part of the recordings with what it has.
type ObservationKey = (&'static str, Subject, (Option<String>, ObservedValue));

impl ComparisonFindings {
    /// What was found of an observation, if anything was.
    #[must_use]
    pub fn of(&self, observation: &Observation) -> Option<&ComparisonFinding> {
        let Observation { clause, subject, value, location: _, part } = observation;
        self.0.get(&(*clause, subject.clone(), (part.clone(), value.clone())))
    }
}

/// A finding as an entry of its own.
fn keyed(finding: Finding) -> (FindingKey, FindingOccurrences) {
    let Finding {
        clause,
        severity,
        address,
        location,
        expected,
        got,
        because,
        not_checked,
        conforming,
    } = finding;
    let key =
        FindingKey { severity, clause, location, expected, got, because, not_checked, conforming };
    (key, FindingOccurrences { count: 1, first: BTreeSet::from([address]) })
}

/// Why it can't be known whether an exchange is as it should be, where nothing in it is broken.
pub(crate) fn why_not_checked(classified: &Classified<'_>) -> Option<Cow<'static, str>> {
    // Into a success nobody looks, so it does not matter if the recording kept its body; but one
    // that was cut is no success to rely on.
    let unknown = match classified.body_if_read() {
        Some(ParsedBody::Unknown(reason)) => Some(*reason),
        None if classified.is_truncated() => Some(CUT),
        _ => match classified.verdict {
            StatusVerdict::NotChecked(reason) => Some(reason),
            _ => None,
        },
    };
    // Whether the request is valid nobody knows without its body.
    let unread = classified.situations.unread.filter(|_| classified.situations.is_valid());
    let elsewhere = || classified.told_instead().map(|told| format!("{INSTEAD}{told}"));
    unknown.or(unread).map(Cow::Borrowed).or_else(|| elsewhere().map(Cow::Owned))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ledger::MOST_ENTRIES;
    use faithful_clerk_model::address::{Address, Location};
    use faithful_clerk_model::finding::{Expected, Got};
    use faithful_clerk_recording::{MOST_UNREADABLE, Unreadable};

    fn ledger(texts: &[u32], recording: u32) -> Ledger {
        let mut ledger = Ledger::new();
        for (number, text) in (1..).zip(texts) {
            ledger.find(
                &EndpointRow::UnknownRoute,
                Finding {
                    clause: "status.declared",
                    severity: if text % 3 == 0 { Severity::Note } else { Severity::Breach },
                    address: Address { recording, number },
                    location: Location::StatusLine,
                    expected: Expected::NoError,
                    got: Got::Code(format!("{text:04}")),
                    because: None,
                    not_checked: None,
                    conforming: None,
                },
            );
            ledger.unreadable.enter(Unreadable {
                recording,
                offset: number,
                number: None,
                reason: String::new(),
            });
        }
        ledger
    }

    /// The same few are kept in whatever order they come.
    #[test]
    fn where_excluded_requests_lead_is_kept_in_part() {
        let urls: Vec<String> = (0..20).map(|n| format!("https://{n:02}.example/v1/x")).collect();
        let mut ledger = Ledger::new();
        let mut other = Ledger::new();
        urls.iter().rev().for_each(|url| ledger.exclude(NOT_OWN, url));
        urls.iter().for_each(|url| other.exclude(NOT_OWN, url));
        assert_eq!(ledger.foreign, other.foreign);
        assert_eq!(ledger.foreign.len(), MOST_FOREIGN);
        assert_eq!(ledger.foreign.first().unwrap(), "https://00.example/v1");
        other.exclude("another reason", "https://0.example/");
        assert_eq!(ledger.foreign, other.foreign);
    }

    /// More texts, addresses and unreadable parts than are kept: the sum is the same whatever the order.
    #[test]
    fn ledgers_add_up_in_any_order() {
        let parts = [
            ledger(&(0..80).collect::<Vec<_>>(), 0),
            ledger(&(40..200).rev().collect::<Vec<_>>(), 1),
            ledger(&[3; 90], 2),
        ];
        let sum = |precedence: [usize; 3]| {
            let mut sum = Ledger::new();
            for at in precedence {
                sum.add(parts[at].clone());
            }
            sum
        };
        let first = sum([0, 1, 2]);
        for precedence in [[0, 2, 1], [1, 0, 2], [1, 2, 0], [2, 0, 1], [2, 1, 0]] {
            assert_eq!(sum(precedence), first);
        }
        let entries = &first.findings[&(EndpointRow::UnknownRoute, "status.declared")];
        let kept: u64 = entries.kept.values().map(|entry| entry.count).sum();
        let more: u64 = entries.more.values().sum();
        assert_eq!((entries.kept.len(), kept + more), (MOST_ENTRIES, 330));
        assert_eq!((first.unreadable.first.len(), first.unreadable.count), (MOST_UNREADABLE, 330));
    }
}
