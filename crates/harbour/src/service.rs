//! From a request to a reply.

use serde_json::{Map, Value};

use crate::message::{Fate, HarbourRequest, Reply};
use crate::problem::{framework_page, malformed, no_credentials, not_offered, plain, wrong_token};
use crate::routes::{arrivals, berths, fees, reservations, tides, vessels};
use crate::store::Store;

/// The token that the harbour office has.
pub const TOKEN: &str = "made-up-token-of-the-harbour-office";

/// Before or after its errors were fixed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Edition {
    /// As it was.
    Before,
    /// Fixed, but for one thing.
    After,
}

/// The service.
#[derive(Debug)]
pub struct Harbour {
    pub(crate) state: Edition,
    pub(crate) store: Store,
    /// How many fees were asked for.
    pub(crate) fees: u32,
    /// How many responses it has given, for their ids.
    answers: u64,
}

impl Harbour {
    /// A harbour with nothing booked.
    #[must_use]
    pub fn new(state: Edition) -> Self {
        Self { state, store: Store::default(), fees: 0, answers: 0 }
    }

    pub(crate) fn is_before(&self) -> bool {
        self.state == Edition::Before
    }

    /// Answers a request.
    pub fn answer(&mut self, request: &HarbourRequest) -> Reply {
        self.answers += 1;
        let mut reply = self.routed(request);
        let server = if self.is_before() { "saltmarsh/2.4" } else { "saltmarsh/2.5" };
        let id = request_id(self.state, self.answers);
        reply.headers.splice(0..0, [("Server", server.to_owned()), ("X-Request-Id", id)]);
        reply
    }

    fn routed(&mut self, request: &HarbourRequest) -> Reply {
        let path = request.path.strip_prefix("/v1/").unwrap_or_default();
        let steps: Vec<&str> = path.split('/').collect();
        let method = request.method.as_str();
        let preflight = request.header("Access-Control-Request-Method").is_some();
        match (steps.as_slice(), method) {
            (["berths"], "OPTIONS") if preflight => Reply::of(204)
                .header("Access-Control-Allow-Methods", "GET")
                .header("Access-Control-Allow-Origin", "*"),
            (["berths"], "GET" | "HEAD") => berths::list(request),
            (["berths"], _) => not_offered(Some("GET")),
            (["berths", id], "GET" | "HEAD") => berths::one(self, id, request),
            // before: a 405 that does not say what is offered.
            (["berths", _], _) => not_offered((!self.is_before()).then_some("GET")),
            (["vessels", id], "GET" | "HEAD" | "PUT") => vessels::answer(self, request, id),
            (["vessels", _], _) => not_offered(Some("GET, PUT")),
            (["reservations"], "POST") => reservations::book(self, request),
            (["reservations"], _) => not_offered(Some("POST")),
            (["reservations", id], "GET" | "HEAD") => reservations::one(self, request, id),
            (["reservations", id], "PATCH") => reservations::change(self, request, id),
            (["reservations", id], "DELETE") => reservations::cancel(self, request, id),
            (["reservations", _], _) => not_offered(Some("GET, PATCH, DELETE")),
            (["reservations", id, "check-in"], "POST") => reservations::check_in(self, request, id),
            // before: Allow names the very method that was refused.
            (["reservations", _, "check-in"], _) if self.is_before() => {
                not_offered(Some("GET, POST"))
            }
            (["reservations", _, "check-in"], _) => not_offered(Some("POST")),
            (["arrivals"], "POST") => arrivals::record(self, request),
            (["arrivals"], _) => not_offered(Some("POST")),
            (["tides", day], "GET" | "HEAD") => tides::table(self, day),
            (["tides", _], _) => not_offered(Some("GET")),
            (["moorage-fees"], "GET" | "HEAD") => fees::fee(self, request),
            (["moorage-fees"], _) => not_offered(Some("GET, HEAD")),
            // before: where no part of the service is asked, the framework answers with a page of its own.
            (steps, _) if self.is_before() && steps.first() != Some(&"reservations") => {
                framework_page()
            }
            _ => plain(404, "Nothing is here."),
        }
    }

    /// Is the token there, and the right one?
    pub(crate) fn admits(&self, request: &HarbourRequest) -> Result<(), Reply> {
        let token = request.header("Authorization").and_then(|value| value.strip_prefix("Bearer "));
        match token {
            Some(TOKEN) => Ok(()),
            // before: a wrong token gets a response as if none had come.
            Some(_) if !self.is_before() => Err(wrong_token()),
            Some(_) | None => Err(no_credentials()),
        }
    }

    /// The body as an object; `broken` is the response where it is no JSON.
    pub(crate) fn body(
        &self,
        request: &HarbourRequest,
        media: &[&str],
        broken: Option<Reply>,
    ) -> Result<Map<String, Value>, Reply> {
        if request.body.is_empty() {
            return Err(plain(400, "A body is needed."));
        }
        let sent = request.header("Content-Type").unwrap_or_default();
        let sent = sent.split(';').next().unwrap_or_default().trim();
        if !media.iter().any(|media| media.eq_ignore_ascii_case(sent)) {
            let reply = plain(415, "This resource reads application/json.");
            // before: a 415 that does not say what is read.
            let hint = (!self.is_before()).then(|| media.join(", "));
            return Err(hint.into_iter().fold(reply, |reply, hint| reply.header("Accept", hint)));
        }
        match serde_json::from_slice(&request.body) {
            Ok(Value::Object(body)) => Ok(body),
            Ok(_) | Err(_) => Err(broken.unwrap_or_else(malformed)),
        }
    }
}

/// Before: the service hangs.
pub(crate) fn never() -> Reply {
    Reply::of(0).fate(Fate::Never)
}

/// A UUID of the answer's own, the same in every run (RFC 9562 section 5.8).
fn request_id(state: Edition, number: u64) -> String {
    let mut mixed = number.wrapping_mul(0x9e37_79b9_7f4a_7c15)
        ^ if state == Edition::Before { 0 } else { u64::MAX };
    let mut next = || {
        mixed ^= mixed >> 29;
        mixed = mixed.wrapping_mul(0xbf58_476d_1ce4_e5b9);
        mixed ^= mixed >> 32;
        mixed
    };
    let (high, low) = (next(), next());
    format!(
        "{:08x}-{:04x}-8{:03x}-a{:03x}-{:012x}",
        high >> 32,
        high >> 16 & 0xffff,
        high & 0xfff,
        low >> 48 & 0xfff,
        low & 0xffff_ffff_ffff
    )
}
