//! Where something stands: in which recording, and where in an exchange.

use std::borrow::Cow;
use std::fmt;

/// The address of an exchange: the recording's place in the call, and the exchange's number in it.
///
/// It is written `FILE#N`; the file's name is kept once, in the ledger.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    PartialOrd,
    Ord,
    Hash,
    Default,
    serde::Serialize,
    serde::Deserialize,
)]
pub struct Address {
    /// Which recording of the run, from 0, in the order they were given.
    pub recording: u32,
    /// Which exchange of the recording, from 1, in the file's order.
    pub number: u64,
}

/// A URL with its scheme. HTTP messages don't tell the scheme, and a URL read from them starts with `//`:
/// it is taken for https, or for http on loopback.
#[must_use]
pub fn absolute(url: &str) -> Cow<'_, str> {
    let Some(rest) = url.strip_prefix("//") else { return Cow::Borrowed(url) };
    let host = rest.split('/').next().unwrap_or_default();
    let name = host.rsplit_once(':').map_or(host, |(name, _)| name);
    let is_loopback = name.starts_with("127.") || name == "[::1]" || name.ends_with("localhost");
    Cow::Owned(format!("{}:{url}", if is_loopback { "http" } else { "https" }))
}

/// Where in an exchange a finding stands.
#[derive(
    Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize, serde::Deserialize,
)]
#[serde(rename_all = "kebab-case")]
pub enum Location {
    /// The exchange as a whole, such as one that got no response.
    Exchange,
    /// The response's status line.
    StatusLine,
    /// A header of the response, by name.
    Header(Cow<'static, str>),
    /// The response's body as a whole, where it isn't JSON or isn't there.
    Body,
    /// A location in the response's JSON body, as a JSON Pointer (RFC 6901); empty for the whole document.
    Pointer(String),
}

impl Location {
    /// A header that a standard names.
    #[must_use]
    pub const fn header(name: &'static str) -> Self {
        Self::Header(Cow::Borrowed(name))
    }
}

impl fmt::Display for Location {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Exchange => f.write_str("the exchange"),
            Self::StatusLine => f.write_str("the status line"),
            Self::Header(name) => write!(f, "header {name}"),
            Self::Body => f.write_str("the body"),
            Self::Pointer(pointer) if pointer.is_empty() => f.write_str("the whole body"),
            Self::Pointer(pointer) => write!(f, "body {pointer}"),
        }
    }
}

/// The names of the recordings of a run, in their order.
#[derive(Debug, Clone, Copy)]
pub struct RecordingNames<'r>(pub &'r [String]);

impl<'r> RecordingNames<'r> {
    /// The name of a recording.
    #[must_use]
    pub fn recording(self, at: u32) -> &'r str {
        usize::try_from(at).ok().and_then(|at| self.0.get(at)).map_or("?", String::as_str)
    }

    /// An address as it is written: `FILE#N`.
    #[must_use]
    pub fn address(self, address: Address) -> String {
        format!("{}#{}", self.recording(address.recording), address.number)
    }

    /// Addresses, each as it is written.
    #[must_use]
    pub fn each<'a>(self, first: impl IntoIterator<Item = &'a Address>) -> Vec<String> {
        first.into_iter().map(|address| self.address(*address)).collect()
    }

    /// `before.har#3 #7 after.har#2 and 4 more`: a recording's name stands before its first number only.
    #[must_use]
    pub fn list<'a>(self, count: u64, first: impl IntoIterator<Item = &'a Address>) -> String {
        let mut words = Vec::new();
        let mut last = None;
        for address in first {
            words.push(if last == Some(address.recording) {
                format!("#{}", address.number)
            } else {
                self.address(*address)
            });
            last = Some(address.recording);
        }
        match count.saturating_sub(words.len() as u64) {
            0 => words.join(" "),
            more => format!("{} and {more} more", words.join(" ")),
        }
    }
}
