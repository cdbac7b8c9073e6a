//! One planned request, and what `place` makes of it.

use std::borrow::Cow;
use std::collections::BTreeMap;

use serde_json::Value;

use faithful_clerk_check::classify::{Classification, Credentials, classify};
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_model::address::Address;
use faithful_clerk_model::exchange::{BodyContent, Exchange, Request, RequestBody, Timing};
use faithful_clerk_model::headers::Headers;
use faithful_clerk_model::intention::Intention;
use faithful_clerk_model::situation::Situation;

/// Stands in the headers of planned requests for what is another in each run: no two runs use one idempotency key.
const RUN: &str = "{(run)}";

/// Where a value is kept that each response has: its status. Who needs it needs a success.
pub const STATUS: &str = "(status)";

/// Any run, where a request is only looked at.
const SOME_RUN: &str = "00000000-0000-4000-8000";

/// An idempotency key of a run, of the form that clients use: a UUID.
pub(super) fn idempotency_key(number: usize) -> String {
    format!("{RUN}-{number:012}")
}

/// Which credentials a request carries.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ProbeCredentials {
    /// The right ones, if the caller has some.
    Valid,
    /// None.
    None,
    /// Wrong ones.
    Invalid,
}

/// A request that is to be sent.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PlannedRequest {
    /// What it is, in a few words: the endpoint, and what is wrong.
    pub name: String,
    /// The situation that it is in; none for a case that expects a success.
    pub situation: Option<Situation>,
    /// The method.
    pub method: String,
    /// The path below the service's base, with its query.
    pub target: String,
    /// The headers, but for credentials.
    pub headers: Vec<(String, String)>,
    /// The body.
    pub body: Option<String>,
    /// Its credentials.
    pub credentials: ProbeCredentials,
    /// What is kept of its response: names, each with a JSON Pointer into the body.
    pub saves: Vec<(String, String)>,
    /// The names of what earlier responses have to have given before it can be sent.
    pub uses: Vec<String>,
    /// Two names of what earlier responses have to have given, with values that differ: else it is not sent.
    pub differ: Option<(String, String)>,
    /// What takes away again what it creates, where it is to create nothing.
    pub undo: Option<Box<Undo>>,
    /// Is it sent once more, after it was served, with its idempotency key?
    pub repeats: bool,
    /// How deep in a body the place is that it is about; 0 where it is about none.
    pub level: usize,
}

/// What takes away what was created.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Undo {
    /// Where the creation says what it is called.
    pub saves: Vec<(String, String)>,
    /// What deletes it by that.
    pub request: PlannedRequest,
}

impl PlannedRequest {
    /// The same with the values that earlier responses gave; nothing if one is missing.
    #[must_use]
    pub fn with(&self, kept: &BTreeMap<String, String>) -> Option<Self> {
        if let Some((one, other)) = &self.differ
            && kept.get(one)? == kept.get(other)?
        {
            return None;
        }
        let mut whole = self.clone();
        for name in &self.uses {
            let value = kept.get(name)?;
            let (hole, coded) = (format!("{{{name}}}"), format!("%7B{name}%7D"));
            let segment = faithful_clerk_model::percent::encode_segment(value);
            whole.target = whole.target.replace(&hole, &segment).replace(&coded, &segment);
            for (_, header) in &mut whole.headers {
                *header = header.replace(&hole, value);
            }
            if let Some(body) = &mut whole.body {
                let text = Value::from(value.as_str()).to_string();
                *body = body.replace(&format!("\"{hole}\""), &text);
            }
        }
        Some(whole)
    }

    /// The headers in a run of its own.
    #[must_use]
    pub fn headers_in_run(&self, run: &str) -> Vec<(String, String)> {
        let of_run = |(name, value): &(String, String)| (name.clone(), value.replace(RUN, run));
        self.headers.iter().map(of_run).collect()
    }

    /// Gives a header field this value, whether it is there or not.
    pub(super) fn set_header(&mut self, name: &str, value: &str) {
        self.headers.retain(|(known, _)| !known.eq_ignore_ascii_case(name));
        self.headers.push((name.to_owned(), value.to_owned()));
    }

    /// What it is sent for.
    #[must_use]
    pub fn intention(&self) -> Intention {
        let (request, situation) = (self.name.clone(), self.situation);
        Intention { request, situation, repeats: self.repeats }
    }

    /// Can it change something, if the service does not refuse it (RFC 9110 section 9.2.1)?
    #[must_use]
    pub fn can_write(&self) -> bool {
        !matches!(self.method.as_str(), "GET" | "HEAD" | "OPTIONS" | "TRACE")
    }

    /// Is it in its situation, by the same result as a recorded one? What only a response shows is taken on
    /// trust.
    #[must_use]
    pub fn is_as_planned(&self, contract: &ErrorContract) -> bool {
        let base = contract.base_of(&self.target);
        let base = match base {
            Some(server) if server.is_on_any_host() => format!("http://127.0.0.1{}", server.text),
            Some(server) => server.text.clone(),
            None => "http://127.0.0.1".to_owned(),
        };
        let mut headers = Headers::new();
        for (name, value) in self.headers_in_run(SOME_RUN) {
            headers.push(name, value);
        }
        if let Some(name) =
            contract.credentials.first().filter(|_| self.credentials != ProbeCredentials::None)
        {
            headers.push(name.as_str(), "Bearer made-up");
        }
        let body = match self.body.as_deref() {
            None | Some("") => RequestBody::Absent,
            Some(body) => RequestBody::Present(BodyContent::Bytes(Cow::Borrowed(body.as_bytes()))),
        };
        let exchange = Exchange {
            address: Address { recording: 0, number: 1 },
            offset: 0,
            request: Request {
                method: Cow::Borrowed(&self.method),
                url: Cow::Owned(format!("{}{}", base.trim_end_matches('/'), self.target)),
                headers,
                body,
                recorded_media: None,
            },
            response: None,
            no_response: None,
            timing: Timing::default(),
            intended: None,
        };
        let Classification::Classified(classified) =
            classify(&exchange, contract, Credentials::Recorded)
        else {
            return false;
        };
        match self.situation {
            Some(situation) if situation.is_visible_in_request() => {
                classified.situations.holds.contains(situation)
            }
            // A case that is to be served is in order, unless it waits for values.
            None => !self.uses.is_empty() || classified.situations.is_valid(),
            Some(_) => true,
        }
    }
}
