use serde_json::Value;

use super::inner::{PartialFailures, at, failed, index_of, inner};
use crate::classify::Classified;
use crate::clauses::contracts::{ARRIVALS, BATCH};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{EntryOutcome, Expected, Got, Measured, Recorded, Severity};
use faithful_clerk_model::json::in_brief;
use faithful_clerk_model::json::pointer::resolve;

pub(super) static CLAUSE: Clause = Clause {
    name: "partial.each-once",
    statement: "Every entry of a request has either succeeded or failed.",
    basis: &[Basis::Contract("partial")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Successes,
    reason: "An entry in neither list is lost, and one in both is processed twice.",
    fix: "Go through the entries of the request once, and put each into exactly one list.",
    check,
    met: &[Example::met(
        "each in one list",
        ARRIVALS,
        r#"HTTP/1.1 200 OK
Content-Type: application/json

{"recorded":[{"id":"r-1"}],"failures":[{"id":"r-2","code":"unknown-reservation"}]}"#,
    )
    .under(BATCH)],
    broken: &[
        Example::broken(
            "an entry in neither list",
            ARRIVALS,
            r#"HTTP/1.1 200 OK
Content-Type: application/json

{"recorded":[{"id":"r-1"}],"failures":[]}"#,
            &[("the whole body", "r-2 in neither")],
        )
        .under(BATCH),
        Example::broken(
            "an entry in both",
            ARRIVALS,
            r#"HTTP/1.1 200 OK
Content-Type: application/json

{"recorded":[{"id":"r-1"},{"id":"r-2"}],"failures":[{"id":"r-2","code":"unknown-reservation"}]}"#,
            &[("the whole body", "r-2 in both")],
        )
        .under(BATCH),
    ],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let (partial, body) = match inner(classified) {
        PartialFailures::Found(partial, body) => (partial, body),
        PartialFailures::None => return ClauseOutcome::NotApplicable,
        PartialFailures::Unknown => return ClauseOutcome::NotChecked,
    };
    let (Some(requested), Some(succeeded)) = (&partial.requested, &partial.succeeded) else {
        return ClauseOutcome::NotApplicable;
    };
    let Some(request) = &classified.situations.body else { return ClauseOutcome::NotChecked };
    let Some(asked) = at(request, requested).and_then(Value::as_array) else {
        return ClauseOutcome::NotApplicable;
    };
    if !at(body, &partial.failures).is_some_and(Value::is_array) {
        return ClauseOutcome::NotApplicable;
    }
    let failed = failed(partial, body);
    let is_failed = |item: &Value| failed.iter().any(|entry| std::ptr::eq(entry.item, item));
    let done: Vec<&Value> = match at(body, succeeded) {
        Some(Value::Array(done)) => done.iter().filter(|item| !is_failed(item)).collect(),
        Some(Value::Number(done)) => {
            let done = done.as_u64().and_then(|done| usize::try_from(done).ok()).unwrap_or(0);
            count(asked.len(), done, failed.len(), findings);
            return ClauseOutcome::Met;
        }
        _ => return ClauseOutcome::NotApplicable,
    };
    // A failure that does not say which entry it is about breaks its shape.
    let said_by = partial.index.as_ref().or(partial.pointer.as_ref());
    let lacks = |item: &Value| match (&partial.match_by, said_by) {
        (Some(by), _) => item.is_object() && item.get(by).is_none() || item.is_string(),
        (None, Some(steps)) => partial.shape.is_some() && resolve(item, steps).is_none(),
        (None, None) => false,
    };
    if failed.iter().any(|entry| lacks(entry.item)) {
        return ClauseOutcome::NotChecked;
    }
    if partial.match_by.is_none() && partial.index.is_none() && partial.pointer.is_none() {
        count(asked.len(), done.len(), failed.len(), findings);
        return ClauseOutcome::Met;
    }
    let mut is_told = true;
    let mut failed_indexes = Vec::new();
    for entry in &failed {
        match entry.index(partial, asked).filter(|index| *index < asked.len()) {
            Some(index) => failed_indexes.push(index),
            // What has the name of another thing than an entry is told by nobody, an index of none here.
            None if partial.match_by.is_some() => {}
            None => {
                is_told = false;
                let location = Location::Pointer(entry.pointer.clone());
                let got = match said_by {
                    Some(steps) => resolve(entry.item, steps).map_or(Got::Nothing, Got::value),
                    None => Got::Nothing,
                };
                findings.add(location, Expected::RequestedEntry, got);
            }
        }
    }
    let done_indexes: Vec<_> = done.iter().map(|item| index_of(item, partial, asked)).collect();
    if partial.match_by.is_none() && done_indexes.iter().any(Option::is_none) {
        if is_told {
            count(asked.len(), done.len(), failed.len(), findings);
        }
        return ClauseOutcome::Met;
    }
    let odd = (0..asked.len()).filter_map(|index| {
        let name = Recorded::text(name_of(asked, index, partial.match_by.as_deref()));
        match (done_indexes.contains(&Some(index)), failed_indexes.contains(&index)) {
            (false, false) => Some(EntryOutcome::InNeither(name)),
            (true, true) => Some(EntryOutcome::InBoth(name)),
            _ => None,
        }
    });
    let odd: Vec<EntryOutcome> = odd.collect();
    if !odd.is_empty() && is_told {
        let location = Location::Pointer(String::new());
        findings.add(location, Expected::EachEntryOnce, Got::Entries(odd));
    }
    ClauseOutcome::Met
}

fn count(asked: usize, done: usize, failed: usize, findings: &mut Findings) {
    if done + failed != asked {
        let got = Got::EntryCounts(Measured::count(done), Measured::count(failed));
        let location = Location::Pointer(String::new());
        findings.add(location, Expected::EntryCount(Measured::count(asked)), got);
    }
}

/// What a requested entry is called: by the member that identifies it, else by its place.
fn name_of(asked: &[Value], index: usize, match_by: Option<&str>) -> String {
    let Some(by) = match_by else { return format!("entry {index}") };
    let key = asked.get(index).map(|item| item.get(by).unwrap_or(item));
    key.map_or_else(String::new, |key| key.as_str().map_or_else(|| in_brief(key), str::to_owned))
}
