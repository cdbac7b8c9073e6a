//! Other contracts for examples, each for what the harbour's own has no use for.

/// Faults by status alone: nothing is agreed about media types and shapes.
pub(super) const BARE: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]

[fault.invalid]
status = 422
answers = ["fields-invalid", "parameters-invalid"]

[fault.none]
status = 404
answers = ["resource-missing", "route-unknown"]

[fault.taken]
status = 409
answers = ["conflict"]

[fault.refused]
status = 403
answers = ["not-permitted"]

[everywhere]
faults = ["none", "taken", "refused"]

[endpoint."GET /berths/{id}"]
success = [200]

[endpoint."DELETE /berths/{id}"]
success = [204]

[endpoint."GET /vessels/{id}"]
success = [200]

[endpoint."POST /reservations"]
success = [201]
faults = ["invalid"]

[endpoint."POST /reservations".body-fields]
vessel_id = "text matching ^[A-Z]{2}[0-9]{4}$"
nights = "integer from 1 to 28"
arrives = "optional date"
"#;

/// Titles in two languages.
pub(super) const LANGUAGES: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]
languages = ["en", "de"]

[error]
media = "application/problem+json"
shape = "problem"

[fault.no-such-berth]
status = 404
type = "https://harbour.example/faults/no-such-berth"
title = { en = "There is no such berth", de = "Diesen Liegeplatz gibt es nicht" }
answers = ["resource-missing"]

[endpoint."GET /berths/{id}"]
success = [200]
faults = ["no-such-berth"]
"#;

/// An envelope of the service's own, with codes.
pub(super) const ENVELOPE: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]

[reading]
status = "/meta/status"
code = "/meta/code"
success = "/ok"

[fault.no-such-berth]
status = 404
answers = ["resource-missing"]

[fault.berth-taken]
status = 409
answers = ["conflict"]

[codes]
range = "4000 to 4999"
4004 = { fault = "no-such-berth" }
4017 = { fault = "berth-taken" }

[endpoint."GET /berths/{id}"]
success = [200]
faults = ["no-such-berth", "berth-taken"]

[endpoint."DELETE /berths/{id}"]
success = [200]
faults = ["no-such-berth", "berth-taken"]
"#;

/// Headers, deadlines, shapes of successes, and how invalid places are written.
pub(super) const DEMANDING: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]

[error]
media = "application/problem+json"
shape = "problem"
headers = { X-Request-Id = "text matching ^[0-9a-f-]{36}$" }

[invalid-places]
pointer = "plain"
missing = "parent"
codes = ["missing", "out_of_range"]

[shape.envelope]
data = "object"

[shape.invalid-request]
like = "problem"
errors = "list of invalid-field, at least 1"
hint = "optional text"

[shape.invalid-field]
pointer = "json pointer"
code = "optional text"
detail = "optional text"

[fault.no-such-berth]
status = 404
title = "Not Found"
answers = ["resource-missing"]

[fault.invalid-request]
status = 422
title = "Unprocessable Content"
shape = "invalid-request"
answers = ["fields-invalid"]

[everywhere]
answer-within = "2s"
success-shape = "envelope"

[endpoint."GET /berths/{id}"]
success = [200]
faults = ["no-such-berth"]

[endpoint."POST /reservations"]
success = [201]
success-headers = { Location = "uri reference" }
faults = ["invalid-request"]

[endpoint."POST /reservations".body-fields]
vessel_id = "text"
nights = "integer from 1 to 28"
"#;

/// JSON:API's error objects.
pub(super) const JSON_API: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]

[error]
media = "application/vnd.api+json"
shape = "jsonapi-errors"

[fault.no-such-berth]
status = 404
answers = ["resource-missing"]

[endpoint."GET /berths/{id}"]
success = [200]
faults = ["no-such-berth"]
"#;

/// A batch, whose success may hold failures.
pub(super) const BATCH: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]

[shape.failed-arrival]
id = "text"
code = "text"

[fault.unknown-reservation]
status = 404
code = "unknown-reservation"

[fault.berth-taken]
status = 409
code = "berth-taken"

[endpoint."POST /arrivals"]
success = [200]
faults = ["unknown-reservation", "berth-taken"]
partial = { at = "/failures", shape = "failed-arrival", faults = ["unknown-reservation"], entries = "/arrivals", done = "/recorded", by = "id" }
"#;

/// Too many requests are refused.
pub(super) const BUSY: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]
[fault.busy]
status = 429
any-time = true
[endpoint."GET /berths/{id}"]
faults = ["busy"]
"#;

/// A request for the batch.
pub(super) const ARRIVALS: &str = r#"POST /v1/arrivals
Content-Type: application/json

{"arrivals":[{"id":"r-1"},{"id":"r-2"}]}"#;
