//! Requests and replies, without a network.

use serde_json::Value;

/// The media type of a problem (RFC 9457 section 4.1).
pub(crate) const PROBLEM: &str = "application/problem+json";
pub(crate) const JSON: &str = "application/json";
pub(crate) const HTML: &str = "text/html; charset=utf-8";

/// A request.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct HarbourRequest {
    /// The method.
    pub method: String,
    /// The path, from `/` on.
    pub path: String,
    /// The query, without its question mark.
    pub query: String,
    /// The headers.
    pub headers: Vec<(String, String)>,
    /// The body.
    pub body: Vec<u8>,
}

impl HarbourRequest {
    /// The value of a header.
    #[must_use]
    pub fn header(&self, name: &str) -> Option<&str> {
        let found = self.headers.iter().find(|(known, _)| known.eq_ignore_ascii_case(name));
        found.map(|(_, value)| value.as_str())
    }

    /// The value of a parameter of the query.
    #[must_use]
    pub fn parameter(&self, name: &str) -> Option<&str> {
        self.query.split('&').find_map(|pair| pair.strip_prefix(name)?.strip_prefix('='))
    }
}

/// What becomes of a reply.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Fate {
    /// It is sent.
    #[default]
    Whole,
    /// So many bytes of its body are sent, and the connection is closed.
    Cut(usize),
    /// It never comes.
    Never,
}

/// A reply.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Reply {
    /// The status.
    pub status: u16,
    /// The headers, but for those that the connection needs.
    pub headers: Vec<(&'static str, String)>,
    /// The body; none is not the same as an empty one.
    pub body: Option<String>,
    /// What becomes of it.
    pub fate: Fate,
}

impl Reply {
    pub(crate) fn of(status: u16) -> Self {
        Self { status, ..Self::default() }
    }

    pub(crate) fn json(status: u16, body: &Value) -> Self {
        Self::of(status).media(JSON).text(body.to_string())
    }

    pub(crate) fn header(mut self, name: &'static str, value: impl Into<String>) -> Self {
        self.headers.push((name, value.into()));
        self
    }

    pub(crate) fn media(self, media: &str) -> Self {
        self.header("Content-Type", media)
    }

    pub(crate) fn text(mut self, text: impl Into<String>) -> Self {
        self.body = Some(text.into());
        self
    }

    pub(crate) fn fate(mut self, fate: Fate) -> Self {
        self.fate = fate;
        self
    }
}
