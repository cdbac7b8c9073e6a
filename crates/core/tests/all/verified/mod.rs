//! What a check mark stands for: tables of what is looked at, what is left open, and what no rule switches off.

mod comparisons;
mod contracts;
mod grid;
mod requests;
mod responses;

use faithful_clerk_contract::ErrorContract;

use crate::judging::clauses;

fn contract(text: &str) -> ErrorContract {
    let parsed = faithful_clerk_check::parse_contract(text);
    parsed.contract.unwrap_or_else(|| panic!("{:#?}", parsed.diagnostics))
}

const QUAY: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]

[fault.invalid]
status = 422
when = ["invalid-body", "invalid-parameters"]

[fault.malformed]
status = 400
when = ["malformed-body"]

[fault.unsupported]
status = 415
when = ["unsupported-media-type"]

[fault.no-credentials]
status = 401
when = ["missing-credentials", "invalid-credentials"]

[fault.none]
status = 404
when = ["resource-not-found"]

[fault.taken]
status = 409

[fault.busy]
status = 429
any-request = true

[fault.down]
status = 503
when = ["service-unavailable"]

[everywhere]
faults = ["busy", "down", "no-credentials"]

[endpoint."POST /bookings"]
success = [201]
faults = ["invalid", "malformed", "unsupported", "none", "taken"]
auth = "required"
accepts = ["application/json"]
body-members = { nights = "integer from 1 to 28" }
"#;

const BOOKING: &str =
    "POST /v1/bookings\nAuthorization: Bearer x\nContent-Type: application/json\n\n";

/// What is found in an error to a booking.
fn in_errors(contract: &str, body: &str, status: u16, error: &str) -> Vec<&'static str> {
    let answer = format!("HTTP/1.1 {status} X\nContent-Type: application/json\n\n{error}");
    clauses(contract, &format!("{BOOKING}{body}"), &answer)
}
