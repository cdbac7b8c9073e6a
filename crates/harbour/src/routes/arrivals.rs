//! Arrivals: a batch, of which a part can fail.

use serde_json::{Value, json};

use crate::message::{HarbourRequest, JSON, Reply};
use crate::problem::{Invalid, invalid, invalid_as};
use crate::rules::{InvalidMembers, is_day, is_moment};
use crate::service::{Harbour, never};

pub(crate) fn record(harbour: &Harbour, request: &HarbourRequest) -> Reply {
    recorded(harbour, request).unwrap_or_else(|refused| refused)
}

fn recorded(harbour: &Harbour, request: &HarbourRequest) -> Result<Reply, Reply> {
    harbour.admits(request)?;
    // before: it waits for a body that does not come.
    if harbour.is_before() && request.body.is_empty() {
        return Err(never());
    }
    let body = harbour.body(request, &[JSON], None)?;
    let mut checked = InvalidMembers::of(&body);
    checked.form("day", true, is_day, "is no date");
    let mut entries = checked.invalid;
    let wrong = |location: String, code, detail| -> Invalid { ("pointer", location, code, detail) };
    let list = match body.get("arrivals") {
        None => {
            entries.push(wrong("/arrivals".to_owned(), "missing", "is needed"));
            &[][..]
        }
        Some(Value::Array(list)) if list.is_empty() => {
            entries.push(wrong("/arrivals".to_owned(), "too_short", "has at least one item"));
            &[][..]
        }
        Some(Value::Array(list)) => list,
        Some(_) => {
            entries.push(wrong("/arrivals".to_owned(), "wrong_kind", "has to be a list"));
            &[][..]
        }
    };
    for (at, arrival) in list.iter().enumerate() {
        if !arrival.is_object() {
            entries.push(wrong(format!("/arrivals/{at}"), "wrong_kind", "has to be an object"));
            continue;
        }
        let text = |name: &str| arrival.get(name).and_then(Value::as_str);
        for (name, fits) in
            [("reservation_id", true), ("arrived_at", text("arrived_at").is_some_and(is_moment))]
        {
            let location = format!("/arrivals/{at}/{name}");
            match arrival.get(name) {
                None => entries.push(wrong(location, "missing", "is needed")),
                Some(value) if !value.is_string() => {
                    entries.push(wrong(location, "wrong_kind", "has to be a text"));
                }
                Some(_) if !fits => entries.push(wrong(location, "wrong_form", "has no offset")),
                Some(_) => {}
            }
        }
    }
    if !entries.is_empty() && harbour.is_before() {
        // before: what is wrong is told in words alone.
        let words = |(_, location, code, _): &Invalid| {
            let name = location.trim_start_matches('/');
            match *code {
                "too_short" => format!("{name} must not be empty"),
                _ => format!("{name} has to be a date"),
            }
        };
        return Err(invalid_as(entries.iter().map(words).collect()));
    }
    if !entries.is_empty() {
        return Err(invalid(&entries));
    }
    let mut failures = Vec::new();
    for arrival in list {
        let id = arrival.get("reservation_id").and_then(Value::as_str).unwrap_or_default();
        if !harbour.store.reservations.contains_key(id) {
            failures.push(
                json!({"reservation_id": id, "detail": format!("No reservation has the id {id}.")}),
            );
        }
    }
    Ok(Reply::json(200, &json!({"recorded": list.len() - failures.len(), "failures": failures})))
}
