//! Berths: all of them, and one by its id.

use serde_json::{Value, json};

use crate::message::{Fate, HarbourRequest, Reply};
use crate::problem::{FAULTS, missing, problem, raw};
use crate::service::Harbour;
use crate::store::{BERTHS, berth, shown_berth};

pub(crate) fn list(request: &HarbourRequest) -> Reply {
    let is_free = request.parameter("free_on").is_some();
    let berths = BERTHS.iter().filter(|berth| !is_free || berth.2.is_none());
    let berths: Vec<Value> = berths.map(|berth| shown_berth(berth, true)).collect();
    Reply::json(200, &json!({"berths": berths}))
}

pub(crate) fn one(harbour: &Harbour, id: &str, request: &HarbourRequest) -> Reply {
    if let Some(berth) = berth(id) {
        // after: the change took the depth away.
        return Reply::json(200, &shown_berth(berth, harbour.is_before()));
    }
    if !harbour.is_before() {
        return missing("berth", id);
    }
    let (quay, number) = id.split_once('-').unwrap_or_default();
    let is_quay = quay.len() == 1 && quay.bytes().all(|b| b.is_ascii_uppercase());
    match number.len() {
        // before: the store throws for what it could have, and the trace is told.
        2 if is_quay => failed(id),
        // before: the connection breaks off in the middle of the answer.
        1 if is_quay => missing("berth", id).fate(Fate::Cut(61)),
        // before: the title comes in the caller's language, though one title was declared.
        _ if request.header("Accept-Language").is_some_and(|of| of.starts_with("de")) => raw(
            404,
            &json!({"type": format!("{FAULTS}no-such-berth"), "title": "Diesen Liegeplatz gibt es nicht", "status": 404}),
        ),
        _ => missing("berth", id),
    }
}

fn failed(id: &str) -> Reply {
    let trace = [
        format!("example.harbour.store.NothingFound: {id}"),
        "\tat example.harbour.store.Berths.byId(Berths.java:88)".to_owned(),
        "\tat example.harbour.web.BerthHandler.get(BerthHandler.java:41)".to_owned(),
        "\tat example.harbour.web.Router.handle(Router.java:117)".to_owned(),
    ];
    let detail = Some("The berth could not be read.");
    problem(500, None, "Internal Server Error", detail, &[("trace", json!(trace))])
}
