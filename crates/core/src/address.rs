//! Where something stands: in which recording, and where in an exchange.

use std::borrow::Cow;
use std::fmt;

/// The address of an exchange: the recording's place in the call, and the exchange's number in it.
///
/// It is written `FILE#N`; the file's name is kept once, in the ledger.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default)]
pub struct Address {
    /// Which recording of the run, from 0, in the order they were given.
    pub recording: u32,
    /// Which exchange of the recording, from 1, in the file's order.
    pub number: u64,
}

/// Where in an exchange a finding stands.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
pub enum Place {
    /// The exchange as a whole, such as one that got no answer.
    Exchange,
    /// The answer's status line.
    StatusLine,
    /// A header of the answer, by name.
    Header(Cow<'static, str>),
    /// The answer's body as a whole, where it isn't JSON or isn't there.
    Body,
    /// A place in the answer's JSON body, as a JSON Pointer (RFC 6901); empty for the whole document.
    Pointer(String),
}

impl Place {
    /// A header that a standard names.
    #[must_use]
    pub const fn header(name: &'static str) -> Self {
        Self::Header(Cow::Borrowed(name))
    }
}

impl fmt::Display for Place {
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
