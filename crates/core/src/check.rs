//! Checks recordings, and says what of the contract they cover.

use faithful_clerk_check::Check;
use faithful_clerk_check::ledger::{FindingKey, FindingOccurrences, Ledger};
use faithful_clerk_insight::coverage::{CellCounts, Coverage};
use faithful_clerk_model::address::{Address, Location, RecordingNames};
use faithful_clerk_model::finding::{Because, Expected, Got, NotChecked, Severity};

use crate::{Contract, ReadError, Recording};

/// Checks recordings against a contract. Exchanges of all recordings are compared with one another where a clause asks
/// for it.
///
/// The findings that the contract's waivers cover are left out. Waivers never expire here: this library has no clock.
///
/// ```
/// use faithful_clerk_core::{Contract, Recording, Severity, check};
///
/// let contract = Contract::parse("contract = 1\n[endpoint.\"GET /berths\"]\n").unwrap();
/// let recording = "GET /berths HTTP/1.1\r\nHost: harbour.example\r\n\r\n\
///     HTTP/1.1 500 Internal Server Error\r\nContent-Length: 0\r\n\r\n";
/// let result = check(&contract, [Recording::new("a.http", recording.as_bytes())]);
/// assert_eq!((result.checked(), result.read_errors().len()), (1, 0));
/// let breach = result.findings().find(|finding| finding.severity == Severity::Breach).unwrap();
/// assert_eq!((breach.endpoint.as_str(), breach.addresses[0].as_str()), ("GET /berths", "a.http#1"));
/// ```
#[must_use]
pub fn check<'r>(
    contract: &Contract,
    recordings: impl IntoIterator<Item = Recording<'r>>,
) -> CheckResult<'_> {
    let check = Check::new(&contract.inner);
    let (mut ledger, mut names) = (Ledger::new(), Vec::new());
    for (at, Recording { name, source }) in (0..).zip(recordings) {
        ledger.add(check.recording(source, at));
        names.push(name);
    }
    ledger.conclude(&contract.inner);
    CheckResult { contract, ledger, names }
}

/// How many cells of the contract's grid, situations by endpoints, the checked recordings cover.
///
/// ```
/// use faithful_clerk_core::{Contract, Recording, check, coverage};
///
/// let contract = Contract::parse("contract = 1\n[endpoint.\"GET /berths\"]\n").unwrap();
/// let nothing = check(&contract, [] as [Recording<'_>; 0]);
/// assert_eq!(coverage(&nothing).verified(), 0);
/// assert!(coverage(&nothing).not_covered > 0);
/// ```
#[must_use]
pub fn coverage(result: &CheckResult<'_>) -> CellCounts {
    Coverage::of(&result.contract.inner, &result.ledger).cells
}

/// What a check found.
#[derive(Debug)]
pub struct CheckResult<'c> {
    contract: &'c Contract,
    ledger: Ledger,
    names: Vec<String>,
}

impl CheckResult<'_> {
    /// How many exchanges were checked.
    #[must_use]
    pub fn checked(&self) -> u64 {
        self.ledger.checked
    }

    /// How many exchanges were left out, as they are none of the service's.
    #[must_use]
    pub fn excluded(&self) -> u64 {
        self.ledger.excluded.values().sum()
    }

    /// How many findings of a severity there are, in exchanges.
    #[must_use]
    pub fn count(&self, severity: Severity) -> u64 {
        self.ledger.count(severity)
    }

    /// The findings, equal ones together: endpoint by endpoint, clause by clause. Of one clause at one endpoint at most 50
    /// different ones are kept; [`Self::count`] has them all.
    pub fn findings(&self) -> impl Iterator<Item = EndpointFinding> {
        let (contract, names) = (&self.contract.inner, &self.names);
        self.ledger.findings.iter().flat_map(move |((row, _), findings)| {
            let endpoint = row.name(contract);
            findings.kept.iter().map(move |(key, occurrences)| {
                EndpointFinding::of(endpoint.clone(), key, occurrences, names)
            })
        })
    }

    /// What of the recordings could not be read, at most 50 parts of it.
    #[must_use]
    pub fn read_errors(&self) -> Vec<ReadError> {
        ReadError::all(&self.ledger.unreadable, &self.names)
    }
}

/// A finding at an endpoint, and the exchanges that have it.
///
/// ```
/// use faithful_clerk_core::{Contract, Recording, check};
///
/// let contract = Contract::parse("contract = 1\n[endpoint.\"GET /berths\"]\n").unwrap();
/// let recording = "GET /berths HTTP/1.1\r\nHost: harbour.example\r\n\r\n\
///     HTTP/1.1 500 Internal Server Error\r\nContent-Length: 0\r\n\r\n";
/// let result = check(&contract, [Recording::new("a.http", recording.as_bytes())]);
/// let finding = result.findings().find(|finding| finding.clause == "body.present").unwrap();
/// let json = serde_json::to_value(finding).unwrap();
/// assert_eq!((&json["endpoint"], &json["location"]), (&"GET /berths".into(), &"body".into()));
/// ```
#[derive(Debug, Clone, PartialEq, Eq, serde::Serialize)]
#[non_exhaustive]
pub struct EndpointFinding {
    /// The endpoint, as `METHOD /path`.
    pub endpoint: String,
    /// The clause's name; [`crate::clause`] has its text.
    pub clause: &'static str,
    /// How severe it is.
    pub severity: Severity,
    /// Where in the exchange.
    pub location: Location,
    /// What was expected; it displays as words and serialises as data.
    pub expected: Expected,
    /// What is there.
    pub got: Got,
    /// How the situation was recognised, or what else shows it.
    pub because: Option<Because>,
    /// What could not be checked because of it.
    pub not_checked: Option<NotChecked>,
    /// How many exchanges have it.
    pub count: u64,
    /// The first of them, at most five, each as `NAME#NUMBER`.
    pub addresses: Vec<String>,
}

impl EndpointFinding {
    fn of(
        endpoint: String,
        key: &FindingKey,
        occurrences: &FindingOccurrences,
        names: &[String],
    ) -> Self {
        let address = |address: &Address| RecordingNames(names).address(*address);
        Self {
            endpoint,
            clause: key.clause,
            severity: key.severity,
            location: key.location.clone(),
            expected: key.expected.clone(),
            got: key.got.clone(),
            because: key.because.clone(),
            not_checked: key.not_checked.clone(),
            count: occurrences.count,
            addresses: occurrences.first.iter().map(address).collect(),
        }
    }
}
