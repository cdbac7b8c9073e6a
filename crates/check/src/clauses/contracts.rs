//! Other contracts for examples, each for what the harbour's own has no use for.

/// Faults by status alone: nothing is declared about media types and shapes.
pub(super) const BARE: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]

[fault.invalid]
status = 422
when = ["invalid-body", "invalid-parameters"]

[fault.none]
status = 404
when = ["resource-not-found", "unknown-route"]

[fault.taken]
status = 409
when = ["conflict"]

[fault.refused]
status = 403
when = ["forbidden"]

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

[endpoint."POST /reservations".body-members]
vessel_id = "string matching ^[A-Z]{2}[0-9]{4}$"
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
when = ["resource-not-found"]

[endpoint."GET /berths/{id}"]
success = [200]
faults = ["no-such-berth"]
"#;

/// An envelope of the service's own, with codes.
pub(super) const ENVELOPE: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]

[envelope]
status = "/meta/status"
code = "/meta/code"
success = "/ok"

[fault.no-such-berth]
status = 404
when = ["resource-not-found"]

[fault.berth-taken]
status = 409
when = ["conflict"]

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

/// An envelope with titles in two languages.
pub(super) const TWO_LANGUAGES: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]
languages = ["en", "de"]

[error]
media = "application/json"
shape = "told"

[shape.told.error]
code = "string"
titles = "map of string"

[envelope]
code = "/error/code"
title = "/error/titles/{language}"

[fault.no-such-berth]
status = 404
code = "no-such-berth"
title = { en = "There is no such berth", de = "Diesen Liegeplatz gibt es nicht" }
when = ["resource-not-found"]

[endpoint."GET /berths/{id}"]
success = [200]
faults = ["no-such-berth"]
"#;

/// Headers, deadlines, shapes of successes, and how invalid locations are written.
pub(super) const DEMANDING: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]

[error]
media = "application/problem+json"
shape = "problem"
headers = { X-Request-Id = "string matching ^[0-9a-f-]{36}$" }

[validation-errors]
pointer = "plain"
missing = "parent"
codes = ["missing", "out_of_range"]

[shape.envelope]
data = "object"

[shape.invalid-request]
like = "problem"
errors = "array of invalid-field, at least 1"
hint = "optional string"

[shape.invalid-field]
pointer = "json pointer"
code = "optional string"
detail = "optional string"

[fault.no-such-berth]
status = 404
title = "Not Found"
when = ["resource-not-found"]

[fault.invalid-request]
status = 422
title = "Unprocessable Content"
shape = "invalid-request"
when = ["invalid-body"]

[everywhere]
respond-within = "2s"
success-shape = "envelope"

[endpoint."GET /berths/{id}"]
success = [200]
faults = ["no-such-berth"]

[endpoint."POST /reservations"]
success = [201]
success-headers = { Location = "uri reference" }
faults = ["invalid-request"]

[endpoint."POST /reservations".body-members]
vessel_id = "string"
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
when = ["resource-not-found"]

[endpoint."GET /berths/{id}"]
success = [200]
faults = ["no-such-berth"]
"#;

/// A batch, whose success may hold failures.
pub(super) const BATCH: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]

[shape.failed-arrival]
id = "string"
code = "string"

[fault.unknown-reservation]
status = 404
code = "unknown-reservation"

[fault.berth-taken]
status = 409
code = "berth-taken"

[endpoint."POST /arrivals"]
success = [200]
faults = ["unknown-reservation", "berth-taken"]
partial = { failures = "/failures", shape = "failed-arrival", faults = ["unknown-reservation"], requested = "/arrivals", succeeded = "/recorded", match-by = "id" }
"#;

/// A batch whose entries have a status each, and are problems where they failed.
pub(super) const PROBLEM_BATCH: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]

[shape.failed-entry]
like = "problem"
id = "string"

[fault.unknown-reservation]
status = 404
code = "unknown-reservation"
title = "There is no such reservation"

[fault.berth-taken]
status = 409
code = "berth-taken"

[endpoint."POST /arrivals"]
success = [207]
partial = { failures = "/results", shape = "failed-entry", faults = ["unknown-reservation", "berth-taken"], requested = "/arrivals", succeeded = "/results", match-by = "id" }

[case.lost-reservations]
request = "POST /arrivals"
body = { "/arrivals/*/id" = "string matching ^lost-" }
expect = "unknown-reservation"
"#;

/// Too many requests are refused.
pub(super) const BUSY: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]
[fault.busy]
status = 429
any-request = true
[endpoint."GET /berths/{id}"]
faults = ["busy"]
"#;

/// A request for the batch.
pub(super) const ARRIVALS: &str = r#"POST /v1/arrivals
Content-Type: application/json

{"arrivals":[{"id":"r-1"},{"id":"r-2"}]}"#;

/// A shape for every error, and no media type.
pub(super) const SHAPED: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]

[error]
shape = "message"

[shape.message]
message = "string"

[fault.none]
status = 404
when = ["resource-not-found"]

[endpoint."GET /berths/{id}"]
faults = ["none"]
"#;
