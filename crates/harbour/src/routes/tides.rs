//! Tides: the table of a day, from a gateway that is older than the service.

use jiff::civil::Date;
use serde_json::json;

use crate::message::{HTML, Reply};
use crate::problem::{plain, problem};
use crate::rules::is_day;
use crate::service::Harbour;

/// What the gateway says to what is no day.
const TRACE: [&str; 2] = [
    "<!doctype html>\n<html><head><title>ValueError at /v1/tides/",
    "</title></head><body>\n<h1>ValueError</h1><pre>Traceback (most recent call last):\n  File \
     &quot;/srv/tides/service.py&quot;, line 57, in get_table\n    day = date.fromisoformat(text)\nValueError: \
     Invalid isoformat string: &#x27;",
];

pub(crate) fn table(harbour: &Harbour, day: &str) -> Reply {
    let none = |detail| {
        problem(
            404,
            Some("no-tide-table"),
            "There is no tide table for this day",
            Some(detail),
            &[],
        )
    };
    let Some(date) = day.parse::<Date>().ok().filter(|_| is_day(day)) else {
        if !harbour.is_before() {
            return none("Write the day as 2027-04-05.");
        }
        // before: the gateway's own page, with its trace. It escapes what it shows.
        let shown = day.replace('&', "&amp;").replace('<', "&lt;").replace('\'', "&#x27;");
        let [head, trace] = TRACE;
        let page = format!("{head}{shown}{trace}{shown}&#x27;\n</pre></body></html>\n");
        return Reply::of(500).media(HTML).text(page);
    };
    if date.year() < 1950 {
        return none("Tables begin in 1950.");
    }
    // before: on Wednesdays the gateway sleeps.
    if harbour.is_before() && date.weekday() == jiff::civil::Weekday::Wednesday {
        return plain(503, "The tide gateway does not answer.");
    }
    let (high, low) =
        (json!([["03:12", 4.1], ["15:37", 4.3]]), json!([["09:24", 0.8], ["21:48", 0.9]]));
    let table =
        json!({"day": day, "station": "Saltmarsh Bar", "unit": "m", "high": high, "low": low});
    Reply::json(200, &table)
}
