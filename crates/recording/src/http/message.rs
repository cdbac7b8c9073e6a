//! What tells where a message starts, and where its parts stand.

use std::ops::Range;

use super::BodyExtent;

/// Does a message start with this line?
pub(crate) fn is_start(line: &[u8]) -> bool {
    super::head::start_line(line).is_some()
}

/// The messages of one exchange: where they stand in a batch.
#[derive(Debug, Clone)]
pub(crate) struct MessageRanges {
    pub(crate) request: Range<usize>,
    /// How much of the request's body is there.
    pub(crate) request_body: BodyExtent,
    /// The final response, if any came.
    pub(crate) response: Option<Range<usize>>,
    /// How much of the response's body is there.
    pub(crate) response_body: BodyExtent,
    /// Each message stands in a block of its own, which tells where it ends.
    pub(crate) is_enclosed: bool,
    /// The URL, where it is known from elsewhere.
    pub(crate) url: Option<String>,
    /// When the request was sent, where it is known from elsewhere.
    pub(crate) started: Option<String>,
    /// The server's address, where it is known from elsewhere.
    pub(crate) server: Option<String>,
}
