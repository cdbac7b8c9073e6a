use serde_json::Value;

use super::inner::{PartialFailures, at, inner};
use crate::classify::Classified;
use crate::clauses::contracts::{ARRIVALS, BATCH};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{EntryOutcome, Expected, Got, Measured, Recorded, Severity};
use faithful_clerk_model::json::in_brief;

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
    let (Some(entries), Some(done)) = (&partial.requested, &partial.succeeded) else {
        return ClauseOutcome::NotApplicable;
    };
    let Some(request) = &classified.situations.body else { return ClauseOutcome::NotChecked };
    let asked = at(request, entries).and_then(Value::as_array);
    let failed = at(body, &partial.failures).and_then(Value::as_array);
    let (Some(asked), Some(failed)) = (asked, failed) else { return ClauseOutcome::NotApplicable };
    let location = Location::Pointer(String::new());
    match (at(body, done), &partial.match_by) {
        (Some(Value::Array(done)), Some(by)) => {
            // A failure that does not say which entry it is about breaks its shape.
            if failed
                .iter()
                .any(|item| item.is_object() && item.get(by).is_none() || item.is_string())
            {
                return ClauseOutcome::NotChecked;
            }
            let key = |item: &Value| item.get(by).unwrap_or(item).clone();
            let keys = |list: &[Value]| list.iter().map(key).collect::<Vec<_>>();
            let (done, failed) = (keys(done), keys(failed));
            let has = |list: &[Value], key: &Value| list.contains(key);
            let odd = |key: &Value| match (has(&done, key), has(&failed, key)) {
                (false, false) => Some(EntryOutcome::InNeither(Recorded::text(plain(key)))),
                (true, true) => Some(EntryOutcome::InBoth(Recorded::text(plain(key)))),
                _ => None,
            };
            let odd: Vec<EntryOutcome> =
                asked.iter().map(key).filter_map(|key| odd(&key)).collect();
            if !odd.is_empty() {
                findings.add(location, Expected::EachEntryOnce, Got::Entries(odd));
            }
        }
        (Some(Value::Array(done)), None) => {
            count(asked.len(), done.len(), failed.len(), location, findings);
        }
        (Some(Value::Number(done)), _) => {
            let done = done.as_u64().and_then(|done| usize::try_from(done).ok()).unwrap_or(0);
            count(asked.len(), done, failed.len(), location, findings);
        }
        _ => return ClauseOutcome::NotApplicable,
    }
    ClauseOutcome::Met
}

fn count(asked: usize, done: usize, failed: usize, location: Location, findings: &mut Findings) {
    if done + failed != asked {
        let got = Got::EntryCounts(Measured::count(done), Measured::count(failed));
        findings.add(location, Expected::EntryCount(Measured::count(asked)), got);
    }
}

fn plain(key: &Value) -> String {
    key.as_str().map_or_else(|| in_brief(key), str::to_owned)
}
