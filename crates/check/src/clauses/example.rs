//! Examples: exchanges that keep or break a clause. They are text, tests and documentation at once.

use std::borrow::Cow;

use faithful_clerk_model::address::Address;
use faithful_clerk_model::exchange::{
    BodyContent, Exchange, Request, RequestBody, Response, ResponseBody, Timing,
};
use faithful_clerk_model::headers::Headers;

/// Exchanges, as raw HTTP messages with bare line ends.
#[derive(Debug, Clone, Copy)]
pub struct Example {
    /// What it shows, in a few words.
    pub shows: &'static str,
    /// The contract.
    pub contract: &'static str,
    /// The description that the contract names as `quay.openapi.json`, where it has one.
    pub description: Option<&'static str>,
    /// Exchanges that come before this one, for clauses that compare.
    pub beside: &'static [(&'static str, &'static str)],
    /// The request.
    pub request: &'static str,
    /// The response; empty where none came.
    pub response: &'static str,
    /// What the clause finds: the place, as it is written in messages, and what was seen, in full.
    /// Nothing where the clause is kept.
    pub findings: &'static [(&'static str, &'static str)],
}

impl Example {
    /// An exchange that keeps the clause, under the contract of all examples.
    pub(super) const fn met(
        shows: &'static str,
        request: &'static str,
        response: &'static str,
    ) -> Self {
        Self::broken(shows, request, response, &[])
    }

    /// An exchange that breaks it.
    pub(super) const fn broken(
        shows: &'static str,
        request: &'static str,
        response: &'static str,
        findings: &'static [(&'static str, &'static str)],
    ) -> Self {
        let (contract, description, beside) = (HARBOUR, None, &[]);
        Self { shows, contract, description, beside, request, response, findings }
    }

    /// The same under another contract.
    pub(super) const fn under(self, contract: &'static str) -> Self {
        Self { contract, ..self }
    }

    /// The same under a contract that is no more than this description.
    pub(super) const fn described(self, description: &'static str) -> Self {
        Self { contract: DESCRIBED, description: Some(description), ..self }
    }

    /// The same with other exchanges before it.
    pub(super) const fn beside(self, beside: &'static [(&'static str, &'static str)]) -> Self {
        Self { beside, ..self }
    }
}

/// A contract with a description alone.
const DESCRIBED: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]
openapi = "quay.openapi.json"
"#;

/// The contract of all examples: a part of the harbour's.
pub const HARBOUR: &str = r#"contract = 1
service = "Saltmarsh Harbour"
servers = ["https://harbour.example/v1"]

[error]
media = "application/problem+json"
shape = "problem"

[shape.invalid-request]
like = "problem"
errors = "array of invalid-field, at least 1"

[shape.invalid-field]
pointer = "json pointer"
detail = "string"

[fault.invalid-request]
status = 422
type = "https://harbour.example/faults/invalid-request"
title = "The request is not valid"
shape = "invalid-request"
when = ["invalid-body"]

[fault.malformed]
status = 400
title = "Bad Request"
when = ["malformed-body", "missing-body"]

[fault.no-credentials]
status = 401
title = "Unauthorized"
when = ["missing-credentials", "invalid-credentials"]

[fault.no-such-berth]
status = 404
type = "https://harbour.example/faults/no-such-berth"
title = "There is no such berth"
when = ["resource-not-found"]

[fault.berth-taken]
status = 409
type = "https://harbour.example/faults/berth-taken"
title = "The berth is taken"

[fault.not-offered]
status = 405
title = "Method Not Allowed"
when = ["method-not-allowed"]

[fault.no-route]
status = 404
title = "Not Found"
when = ["unknown-route"]

[fault.unexpected]
status = 500
title = "Internal Server Error"

[everywhere]
faults = ["not-offered", "no-route", "unexpected"]

[endpoint."GET /berths/{id}"]
success = [200]
faults = ["no-such-berth"]

[endpoint."POST /reservations"]
success = [201]
faults = ["invalid-request", "malformed", "no-credentials", "berth-taken"]
auth = "required"

[endpoint."POST /reservations".body-members]
vessel_id = "string matching ^[A-Z]{2}[0-9]{4}$"
nights = "integer from 1 to 28"
note = "optional string, at most 200"

[endpoint."DELETE /reservations/{id}"]
success = [204]
"#;

// Messages that several examples share.

/// The response about a berth that does not exist, as declared.
pub(super) const NO_SUCH_BERTH: &str = concat!(
    "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n",
    "{\"type\":\"https://harbour.example/faults/no-such-berth\",",
    "\"title\":\"There is no such berth\",",
    "\"status\":404}",
);

/// The response about a berth that exists.
pub(super) const BERTH: &str =
    concat!("HTTP/1.1 200 OK\nContent-Type: application/json\n\n", "{\"id\":\"A-3\"}",);

/// The service's own failure, as declared.
pub(super) const FAILED: &str = concat!(
    "HTTP/1.1 500 Internal Server Error\nContent-Type: application/problem+json\n\n",
    "{\"title\":\"Internal Server Error\",",
    "\"status\":500}",
);

/// The response to a wrong number of nights, as declared.
pub(super) const NIGHTS_REFUSED: &str = concat!(
    "HTTP/1.1 422 Unprocessable Content\nContent-Type: application/problem+json\n\n",
    "{\"type\":\"https://harbour.example/faults/invalid-request\",",
    "\"title\":\"The request is not valid\",",
    "\"status\":422,",
    "\"errors\":[{\"pointer\":\"/nights\",",
    "\"detail\":\"at most 28\"}]}",
);

/// The response to a wrong number of nights and no vessel, as declared.
pub(super) const BOTH_REFUSED: &str = concat!(
    "HTTP/1.1 422 Unprocessable Content\nContent-Type: application/problem+json\n\n",
    "{\"type\":\"https://harbour.example/faults/invalid-request\",",
    "\"title\":\"The request is not valid\",",
    "\"status\":422,",
    "\"errors\":[{\"pointer\":\"/nights\",",
    "\"detail\":\"at most 28\"},",
    "{\"pointer\":\"#/vessel_id\",",
    "\"detail\":\"is missing\"}]}",
);

/// A reservation for too many nights.
pub(super) const TOO_MANY_NIGHTS: &str = concat!(
    "POST /v1/reservations\nAuthorization: Bearer x\nContent-Type: application/json\n\n",
    "{\"vessel_id\":\"OB1234\",",
    "\"nights\":99}",
);

/// The same, for no vessel.
pub(super) const TOO_MANY_NIGHTS_NO_VESSEL: &str = concat!(
    "POST /v1/reservations\nAuthorization: Bearer x\nContent-Type: application/json\n\n",
    "{\"nights\":99}",
);

/// A reservation whose JSON ends too early.
pub(super) const ENDS_TOO_EARLY: &str = concat!(
    "POST /v1/reservations\nAuthorization: Bearer x\nContent-Type: application/json\n\n",
    "{\"nights\": ",
);

impl Example {
    /// All exchanges of the example; the last is the one that it shows.
    #[must_use]
    pub fn exchanges(&self) -> Vec<Exchange<'static>> {
        let all = self.beside.iter().copied().chain([(self.request, self.response)]);
        (1..)
            .zip(all)
            .map(|(number, (request, answer))| exchange(number, request, answer))
            .collect()
    }
}

/// An exchange written as a request and a response with bare line ends; no response is an empty text.
///
/// A target without a host is on `https://harbour.example`; a header `Recorded-Time` of the response is the time in milliseconds that it took.
#[must_use]
pub fn exchange(number: u64, request: &'static str, answer: &'static str) -> Exchange<'static> {
    let (line, headers, body) = message(request);
    let (method, url) = line.split_once(' ').unwrap_or((line, ""));
    let url = url.split(' ').next().unwrap_or_default();
    let request = Request {
        method: Cow::Borrowed(method),
        url: match url.contains("://") {
            true => Cow::Borrowed(url),
            false => Cow::Owned(format!("https://harbour.example{url}")),
        },
        headers,
        body: if body.is_empty() { RequestBody::Absent } else { RequestBody::Present(bytes(body)) },
        recorded_media: None,
    };
    let (line, headers, body) = message(answer);
    let known = headers.get("recorded-time").and_then(|time| time.parse().ok());
    let time = Timing { known, ..Timing::default() };
    let response = if answer.is_empty() {
        None
    } else {
        let status = line.split(' ').nth(1).and_then(|code| code.parse().ok());
        let cut = headers.content_length().is_some_and(|length| length > body.len() as u64);
        let body = match body {
            _ if cut => ResponseBody::Truncated,
            "" => ResponseBody::Empty,
            body => ResponseBody::Present(bytes(body)),
        };
        let status = status.unwrap_or_default();
        Some(Response { status, headers, recorded_media: None, body })
    };
    let address = Address { recording: 0, number };
    Exchange {
        address,
        offset: 0,
        request,
        response,
        no_response: None,
        timing: time,
        intended: None,
    }
}

fn bytes(body: &'static str) -> BodyContent<'static> {
    BodyContent::Bytes(Cow::Borrowed(body.as_bytes()))
}

/// First line, header fields, body.
fn message(text: &'static str) -> (&'static str, Headers<'static>, &'static str) {
    let (head, body) = text.split_once("\n\n").unwrap_or((text, ""));
    let (line, fields) = head.split_once('\n').unwrap_or((head, ""));
    let headers = fields.lines().filter_map(|field| field.split_once(": ")).collect();
    (line, headers, body)
}
