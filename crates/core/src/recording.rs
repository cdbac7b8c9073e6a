//! Recordings, and reading exchanges out of them.

use std::error::Error;
use std::fmt;
use std::io::Read;

use faithful_clerk_model::exchange::Exchange;
use faithful_clerk_recording::{
    ReadOptions, Source, Traversal, Unreadable, UnreadableParts, Visitor,
};

/// A recording: HAR, JSON Lines of HAR entries, HTTP messages or WARC, told apart by its first bytes.
///
/// ```
/// use faithful_clerk_core::{Recording, read_exchanges};
///
/// let bytes = "GET /berths HTTP/1.1\r\nHost: harbour.example\r\n\r\nHTTP/1.1 204 No Content\r\n\r\n";
/// let mut statuses = Vec::new();
/// let errors = read_exchanges(Recording::new("a.http", bytes.as_bytes()), |exchange| {
///     statuses.extend(exchange.response.as_ref().map(|response| response.status));
/// });
/// assert_eq!((statuses, errors), (vec![204], vec![]));
/// ```
#[derive(Debug)]
pub struct Recording<'r> {
    pub(crate) name: String,
    pub(crate) source: Source<'r>,
}

impl<'r> Recording<'r> {
    /// A recording that is read as a stream. The name is for messages and addresses.
    pub fn new(name: impl Into<String>, bytes: impl Read + Send + 'r) -> Self {
        Self { name: name.into(), source: Source::of(bytes) }
    }

    /// Requests and their responses in two streams of HTTP messages.
    pub fn pair(
        name: impl Into<String>,
        requests: impl Read + Send + 'r,
        responses: impl Read + Send + 'r,
    ) -> Self {
        Self { name: name.into(), source: Source::pair(requests, responses) }
    }

    /// Says that it is compressed with brotli, which can't be told from its bytes; gzip and zstd can.
    #[must_use]
    pub fn compressed_with_brotli(mut self) -> Self {
        self.source = self.source.brotli(true);
        self
    }
}

/// A part of a recording that could not be read. The rest of it was.
///
/// ```
/// use faithful_clerk_core::{Recording, read_exchanges};
///
/// let errors = read_exchanges(Recording::new("b.har", "no recording".as_bytes()), |_| {});
/// assert_eq!(errors[0].recording, "b.har");
/// assert!(errors[0].to_string().starts_with("b.har, byte 0: "));
/// ```
#[derive(Debug, Clone, PartialEq, Eq, serde::Serialize)]
#[non_exhaustive]
pub struct ReadError {
    /// The recording's name.
    pub recording: String,
    /// The number of the exchange, from 1, where it is one.
    pub number: Option<u64>,
    /// Where it starts, in bytes.
    pub offset: u64,
    /// What was expected there, and what came.
    pub reason: String,
}

impl ReadError {
    pub(crate) fn of(unreadable: &Unreadable, names: &[String]) -> Self {
        let name = usize::try_from(unreadable.recording).ok().and_then(|at| names.get(at));
        Self {
            recording: name.cloned().unwrap_or_default(),
            number: unreadable.number,
            offset: unreadable.offset,
            reason: unreadable.reason.clone(),
        }
    }

    /// The first of what could not be read; at most 50 are kept.
    pub(crate) fn all(parts: &UnreadableParts, names: &[String]) -> Vec<Self> {
        parts.first.iter().map(|unreadable| Self::of(unreadable, names)).collect()
    }
}

impl fmt::Display for ReadError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.recording)?;
        self.number.iter().try_for_each(|number| write!(f, "#{number}"))?;
        write!(f, ", byte {}: {}", self.offset, self.reason)
    }
}

impl Error for ReadError {}

/// Reads every exchange of a recording, in its order. Gives what could not be read, at most 50 of it.
///
/// Memory does not grow with the recording; an entry of more than 64 MiB is a [`ReadError`].
pub fn read_exchanges(
    recording: Recording<'_>,
    each: impl FnMut(&Exchange<'_>) + Send,
) -> Vec<ReadError> {
    read_exchanges_with(ReadOptions::default(), recording, each)
}

/// The same, with a format that is known, or other limits.
///
/// ```
/// use faithful_clerk_core::{Format, ReadOptions, Recording, read_exchanges_with};
///
/// let options = ReadOptions { format: Some(Format::JsonLines), ..ReadOptions::default() };
/// let line = r#"{"request": {"method": "GET", "url": "/a", "headers": []}, "response": {"status": 200, "headers": []}}"#;
/// let mut methods = Vec::new();
/// read_exchanges_with(options, Recording::new("c.jsonl", line.as_bytes()), |exchange| {
///     methods.push(exchange.request.method.to_string());
/// });
/// assert_eq!(methods, ["GET"]);
/// ```
pub fn read_exchanges_with(
    options: ReadOptions,
    recording: Recording<'_>,
    each: impl FnMut(&Exchange<'_>) + Send,
) -> Vec<ReadError> {
    let Recording { name, source } = recording;
    let mut reader = ExchangeReader { each, unreadable: UnreadableParts::default() };
    Traversal { options, ..Traversal::default() }.visit_in_order(source, 0, &mut reader);
    ReadError::all(&reader.unreadable, &[name])
}

struct ExchangeReader<F> {
    each: F,
    unreadable: UnreadableParts,
}

impl<F: FnMut(&Exchange<'_>) + Send> Visitor for ExchangeReader<F> {
    fn exchange(&mut self, exchange: &Exchange<'_>) {
        (self.each)(exchange);
    }

    fn on_unreadable(&mut self, unreadable: Unreadable) {
        self.unreadable.enter(unreadable);
    }
}
