//! Recordings made for a test, and what a survey or a comparison makes of them.

use faithful_clerk_contract::ErrorContract;
use faithful_clerk_insight::compare::{
    Comparison, ComparisonKind, ComparisonPlan, ComparisonSide, ComparisonSurvey, compare,
};
use faithful_clerk_insight::survey::{Survey, SurveyCollector, SurveyData};
use faithful_clerk_recording::{Source, Traversal};
use serde_json::{Value, json};

/// A HAR file of these entries.
pub(crate) fn har(entries: &[Value]) -> String {
    json!({"log": {"version": "1.2", "entries": entries}}).to_string()
}

/// An exchange: `GET /berths`, without a body in the request; a body that is null is none.
pub(crate) fn got(line: &str, status: u16, body: Value) -> Value {
    let (method, path) = line.split_once(' ').unwrap();
    let media = if status < 400 { "application/json" } else { "application/problem+json" };
    let text = if body.is_null() { String::new() } else { body.to_string() };
    let url = if path.contains("://") {
        path.to_owned()
    } else {
        format!("https://harbour.example{path}")
    };
    let headers =
        if text.is_empty() { json!([]) } else { json!([{"name": "Content-Type", "value": media}]) };
    json!({
        "request": {"method": method, "url": url, "headers": [], "bodySize": 0},
        "response": {"status": status, "headers": headers, "content": {"size": text.len(), "text": text}},
    })
}

/// The same with a JSON body in the request.
pub(crate) fn sent(line: &str, request: &Value, status: u16, body: Value) -> Value {
    let mut entry = got(line, status, body);
    entry["request"]["postData"] =
        json!({"mimeType": "application/json", "text": request.to_string()});
    entry
}

/// What a survey gathers.
pub(crate) fn gathered(entries: &[Value], contract: &ErrorContract) -> SurveyData {
    let mut survey = SurveyCollector::new(contract);
    Traversal::default().visit_in_order(Source::of(har(entries).as_bytes()), 0, &mut survey);
    survey.data
}

/// Things added up in the order and the tree that some numbers say.
pub(crate) fn added_up<T>(mut parts: Vec<T>, picks: &[usize], add: impl Fn(T, T) -> T) -> T {
    let mut picks = picks.iter().copied().cycle();
    while parts.len() > 1 {
        let pick = picks.next().unwrap_or_default();
        let one = parts.swap_remove(pick % parts.len());
        let other = parts.swap_remove(pick / 7 % parts.len());
        parts.push(add(other, one));
    }
    parts.pop().unwrap()
}

/// Where a row of things is cut into parts: from where to where each goes.
pub(crate) fn parts_between(
    cuts: impl IntoIterator<Item = usize>,
    count: usize,
) -> Vec<(usize, usize)> {
    let ends: Vec<usize> = cuts.into_iter().filter(|cut| *cut < count).chain([count]).collect();
    std::iter::once(0).chain(ends.iter().copied()).zip(ends.iter().copied()).collect()
}

/// A survey without a contract.
pub(crate) fn survey(entries: &[Value]) -> Survey {
    gathered(entries, &ErrorContract::default()).conclude()
}

/// The endpoints and other places of a survey, by name.
pub(crate) fn places(survey: &Survey) -> Vec<String> {
    survey.endpoints.iter().map(|location| location.name()).collect()
}

/// A comparison of two recordings.
pub(crate) fn compared(
    before: &[Value],
    after: &[Value],
    contract: Option<&ErrorContract>,
) -> Comparison {
    compared_as(before, after, contract, ComparisonKind::Versions)
}

/// A comparison of two recordings that are what is said.
pub(crate) fn compared_as(
    before: &[Value],
    after: &[Value],
    contract: Option<&ErrorContract>,
    between: ComparisonKind,
) -> Comparison {
    let bare = ErrorContract::default();
    let first = |entries: &[Value]| {
        let mut sum = ComparisonSurvey::new(&bare);
        Traversal::default().visit_in_order(Source::of(har(entries).as_bytes()), 0, &mut sum);
        sum
    };
    let plan = ComparisonPlan::of([first(before), first(after)], contract, between);
    let side = |entries: &[Value], at: usize| {
        let mut side = ComparisonSide::new(&plan, at);
        let recording = u32::try_from(at).unwrap();
        Traversal::default().visit_in_order(
            Source::of(har(entries).as_bytes()),
            recording,
            &mut side,
        );
        side
    };
    compare(&plan, side(before, 0), side(after, 1))
}
