//! Compares recordings of the same requests.

use faithful_clerk_contract::ErrorContract;
use faithful_clerk_insight::compare::{
    Change, Comparison, ComparisonKind, ComparisonPlan, ComparisonSide, ComparisonSurvey, Grade,
    PairCounts,
};
use faithful_clerk_recording::Traversal;

use crate::{Contract, ReadError, Recording};

/// Compares two sets of recordings, such as the same requests before and after a change. A contract, where there is one,
/// says which of two responses is right.
///
/// The recordings are read twice, so each is given as a function that opens it.
///
/// ```
/// use faithful_clerk_core::{ComparisonKind, Grade, Recording, compare};
///
/// fn recording(status: &str) -> Vec<u8> {
///     format!("GET /berths HTTP/1.1\r\nHost: harbour.example\r\n\r\nHTTP/1.1 {status}\r\nContent-Length: 0\r\n\r\n").into_bytes()
/// }
/// let (before, after) = (recording("200 OK"), recording("500 Internal Server Error"));
/// let comparison = compare(
///     ComparisonKind::Versions,
///     None,
///     || [Recording::new("before.http", before.as_slice())],
///     || [Recording::new("after.http", after.as_slice())],
/// );
/// assert_eq!((comparison.counts().pairs(), comparison.counts().regressed), (1, 1));
/// assert!(comparison.changes().all(|change| change.grade == Grade::Regressed));
/// ```
#[must_use]
pub fn compare<'r, B, A>(
    kind: ComparisonKind,
    contract: Option<&Contract>,
    before: impl Fn() -> B,
    after: impl Fn() -> A,
) -> ComparisonResult
where
    B: IntoIterator<Item = Recording<'r>>,
    A: IntoIterator<Item = Recording<'r>>,
{
    let bare = ErrorContract::default();
    let mut names = Vec::new();
    let mut paths = |recordings: &mut dyn Iterator<Item = Recording<'r>>| {
        let mut data = ComparisonSurvey::new(&bare);
        for Recording { name, source } in recordings {
            let at = u32::try_from(names.len()).unwrap_or(u32::MAX);
            Traversal::default().visit_in_order(source, at, &mut data);
            names.push(name);
        }
        data
    };
    let first = paths(&mut before().into_iter());
    let second = paths(&mut after().into_iter());
    let plan = ComparisonPlan::of([first, second], contract.map(|one| &one.inner), kind);
    let mut at = 0;
    let mut side = |side: usize, recordings: &mut dyn Iterator<Item = Recording<'r>>| {
        let mut compared = ComparisonSide::new(&plan, side);
        for Recording { source, .. } in recordings {
            Traversal::default().visit_in_order(source, at, &mut compared);
            at += 1;
        }
        compared
    };
    let first = side(0, &mut before().into_iter());
    let second = side(1, &mut after().into_iter());
    let comparison = faithful_clerk_insight::compare::compare(&plan, first, second);
    ComparisonResult { comparison, names }
}

/// What a comparison found.
#[derive(Debug)]
pub struct ComparisonResult {
    comparison: Comparison,
    names: Vec<String>,
}

impl ComparisonResult {
    /// How many pairs of exchanges there are, by what came of them.
    #[must_use]
    pub fn counts(&self) -> PairCounts {
        self.comparison.counts
    }

    /// The changes, equal ones together, the worst first.
    pub fn changes(&self) -> impl Iterator<Item = ComparedChange<'_>> {
        self.comparison.changes.iter().map(|((grade, endpoint, change), occurrence)| {
            ComparedChange { grade: *grade, endpoint, change, count: occurrence.count }
        })
    }

    /// What of the recordings could not be read, at most 50 parts of it.
    #[must_use]
    pub fn read_errors(&self) -> Vec<ReadError> {
        ReadError::all(&self.comparison.unreadable, &self.names)
    }
}

/// A change at an endpoint.
#[derive(Debug, Clone, Copy)]
#[non_exhaustive]
pub struct ComparedChange<'c> {
    /// Better, worse, or only other.
    pub grade: Grade,
    /// The endpoint, as `METHOD /path`.
    pub endpoint: &'c str,
    /// What changed.
    pub change: &'c Change,
    /// In how many pairs.
    pub count: u64,
}
