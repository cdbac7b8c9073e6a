//! What a berth costs.

use serde_json::{Value, json};

use crate::message::{HarbourRequest, Reply};
use crate::problem::{Invalid, invalid, plain, raw};
use crate::service::Harbour;

/// So many fees are told before the office wants a pause.
const MOST: u32 = 100;

pub(crate) fn fee(harbour: &mut Harbour, request: &HarbourRequest) -> Reply {
    harbour.fees += 1;
    if harbour.fees > MOST {
        let detail = "The office has told a hundred fees and rests for half a minute.";
        // before: a pause of which nobody can tell how long it is.
        let pause = if harbour.is_before() { "a while" } else { "30" };
        return plain(429, detail).header("Retry-After", pause);
    }
    let mut wrong: Vec<Invalid> = Vec::new();
    let mut say =
        |name: &str, code, detail| wrong.push(("parameter", name.to_owned(), code, detail));
    let length = match request.parameter("length_m").map(str::parse::<f64>) {
        None => {
            say("length_m", "missing", "is needed");
            None
        }
        Some(Err(_)) => {
            say("length_m", "wrong_kind", "has to be a number");
            None
        }
        // before: nobody has thought of a vessel that long.
        Some(Ok(length)) if length > 60.0 && harbour.is_before() => {
            return raw(520, &json!({"title": "Unknown Error", "status": 520}));
        }
        Some(Ok(length)) if !(2.0..=60.0).contains(&length) => {
            say("length_m", "out_of_range", "has to be from 2 to 60");
            None
        }
        Some(Ok(length)) => Some(length),
    };
    let nights = match request.parameter("nights").map(str::parse::<i32>) {
        None => 1,
        Some(Ok(nights)) if (1..=28).contains(&nights) => nights,
        Some(Ok(_)) => {
            say("nights", "out_of_range", "has to be from 1 to 28");
            1
        }
        Some(Err(_)) => {
            say("nights", "wrong_kind", "has to be a whole number");
            1
        }
    };
    let Some(length) = length.filter(|_| wrong.is_empty()) else {
        let reply = invalid(&wrong);
        if !harbour.is_before() {
            return reply;
        }
        // before: the status as a text.
        let body = reply.body.as_deref().and_then(|body| serde_json::from_str::<Value>(body).ok());
        let mut body = body.unwrap_or_default();
        body["status"] = json!("422");
        return raw(422, &body);
    };
    let per_night = (length * 2250.0).round() / 1000.0;
    let total = (per_night * f64::from(nights) * 1000.0).round() / 1000.0;
    Reply::json(200, &json!({"currency": "XTS", "total": total, "per_night": per_night}))
}
