//! Vessels: one by its id, and what is written of it.

use serde_json::{Value, json};

use crate::message::{HTML, HarbourRequest, JSON, Reply};
use crate::problem::{FAULTS, invalid, missing, plain};
use crate::rules::{InvalidMembers, is_flag};
use crate::service::Harbour;

pub(crate) fn answer(harbour: &mut Harbour, request: &HarbourRequest, id: &str) -> Reply {
    let answered =
        if request.method == "PUT" { put(harbour, request, id) } else { get(harbour, request, id) };
    answered.unwrap_or_else(|refused| refused)
}

fn shown(id: &str, vessel: &Value) -> Value {
    let mut shown = json!({"id": id});
    for name in ["name", "length_m", "draught_m", "flag"] {
        if let Some(value) = vessel.get(name) {
            shown[name] = value.clone();
        }
    }
    shown
}

fn get(harbour: &Harbour, request: &HarbourRequest, id: &str) -> Result<Reply, Reply> {
    harbour.admits(request)?;
    match harbour.store.vessels.get(id) {
        Some(vessel) => Ok(Reply::json(200, &shown(id, vessel))),
        None if !harbour.is_before() => Err(missing("vessel", id)),
        // before: what the framework writes by itself looks different from the service's own errors.
        None if id.ends_with("0000") => {
            let words = format!("Vessel {id} not found");
            let body = json!({"statusCode": 404, "message": words, "error": "Not Found"});
            Err(Reply::json(404, &body))
        }
        // before: a problem that is called HTML.
        None => {
            let uri = format!("{FAULTS}no-such-vessel");
            let body = json!({"type": uri, "title": "There is no such vessel", "status": 404});
            Err(Reply::of(404).media(HTML).text(body.to_string()))
        }
    }
}

fn put(harbour: &mut Harbour, request: &HarbourRequest, id: &str) -> Result<Reply, Reply> {
    // before: a 401 without a challenge and without a body.
    let bare = Reply::of(401);
    harbour.admits(request).map_err(|refused| if harbour.is_before() { bare } else { refused })?;
    // before: malformed JSON ends as 500.
    let broken = harbour.is_before().then(|| plain(500, "Something went wrong."));
    let body = harbour.body(request, &[JSON], broken)?;
    let mut checked = InvalidMembers::of(&body);
    checked.text("name", true, 60, "has to have 1 to 60 characters");
    checked.number("length_m", 2.0..=60.0, "has to be from 2 to 60");
    checked.number("draught_m", 0.1..=9.0, "has to be from 0.1 to 9");
    checked.form("flag", false, is_flag, "has two letters");
    // In both states: one field is reported at a time.
    if let Some(first) = checked.invalid.first() {
        return Err(invalid(std::slice::from_ref(first)));
    }
    let vessel = Value::Object(body);
    let reply = Reply::json(200, &shown(id, &vessel));
    harbour.store.vessels.insert(id.to_owned(), vessel);
    Ok(reply)
}
