//! The service's errors, as they were agreed.

use serde_json::{Map, Value, json};

use crate::message::{HTML, PROBLEM, Reply};

/// Where the problem types of the harbour are.
pub(crate) const FAULTS: &str = "https://harbour.example/faults/";

/// A problem with the status's own phrase as its title.
pub(crate) fn plain(status: u16, detail: &str) -> Reply {
    problem(status, None, phrase(status), Some(detail), &[])
}

/// A problem of a type, with further members.
pub(crate) fn problem(
    status: u16,
    name: Option<&str>,
    title: &str,
    detail: Option<&str>,
    more: &[(&str, Value)],
) -> Reply {
    let mut body = Map::new();
    body.extend(name.map(|name| ("type".to_owned(), json!(format!("{FAULTS}{name}")))));
    body.insert("title".to_owned(), json!(title));
    body.insert("status".to_owned(), json!(status));
    body.extend(detail.map(|detail| ("detail".to_owned(), json!(detail))));
    body.extend(more.iter().map(|(name, value)| ((*name).to_owned(), value.clone())));
    raw(status, &Value::Object(body))
}

/// Whatever stands in it, it is called a problem.
pub(crate) fn raw(status: u16, body: &Value) -> Reply {
    Reply::of(status).media(PROBLEM).text(body.to_string())
}

/// An entry of a validation error: the member that names the place, the place, a code, words.
pub(crate) type Invalid = (&'static str, String, &'static str, &'static str);

/// What is not valid, all of it.
pub(crate) fn invalid(entries: &[Invalid]) -> Reply {
    let entry = |(at, location, code, detail): &Invalid| json!({*at: location, "code": code, "detail": detail});
    invalid_as(entries.iter().map(entry).collect())
}

/// The same, with the errors in whatever form.
pub(crate) fn invalid_as(errors: Value) -> Reply {
    problem(422, Some("invalid-request"), "The request is not valid", None, &[("errors", errors)])
}

/// There is none with that id.
pub(crate) fn missing(kind: &str, id: &str) -> Reply {
    let detail = format!("No {kind} has the id {id}.");
    let (name, title) = (format!("no-such-{kind}"), format!("There is no such {kind}"));
    problem(404, Some(&name), &title, Some(&detail), &[])
}

pub(crate) fn no_credentials() -> Reply {
    plain(401, "Send a token in Authorization.")
        .header("WWW-Authenticate", "Bearer realm=\"harbour\"")
}

/// A token came, and is not valid (RFC 6750 section 3.1).
pub(crate) fn wrong_token() -> Reply {
    let challenge = "Bearer realm=\"harbour\", error=\"invalid_token\"";
    plain(401, "The token is not valid.").header("WWW-Authenticate", challenge)
}

pub(crate) fn malformed() -> Reply {
    plain(400, "The body is not JSON: it ends too early.")
}

pub(crate) fn not_offered(allow: Option<&str>) -> Reply {
    let reply = plain(405, "This resource does not offer the method.");
    match allow {
        Some(allow) => reply.header("Allow", allow),
        None => reply,
    }
}

/// The page of the framework below the service.
pub(crate) fn framework_page() -> Reply {
    Reply::of(404).media(HTML).text(
        "<!doctype html>\n<html><head><title>404 Not Found</title></head>\n<body><h1>Not Found</h1><p>The requested \
         URL was not found on this server.</p></body></html>\n",
    )
}

pub(crate) fn phrase(status: u16) -> &'static str {
    match status {
        400 => "Bad Request",
        401 => "Unauthorized",
        404 => "Not Found",
        405 => "Method Not Allowed",
        415 => "Unsupported Media Type",
        429 => "Too Many Requests",
        503 => "Service Unavailable",
        _ => "Internal Server Error",
    }
}
