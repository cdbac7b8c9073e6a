//! What tells where a message starts, and where its parts stand.

use std::ops::Range;

/// Does a message start with this line?
pub(crate) fn is_start(line: &[u8]) -> bool {
    super::head::start_line(line).is_some()
}

/// The messages of one exchange: where they stand in a batch.
#[derive(Debug, Clone)]
pub(crate) struct MessageRanges {
    pub(crate) request: Range<usize>,
    /// Less of the request is there than it announces.
    pub(crate) request_is_truncated: bool,
    /// The final response, if any came.
    pub(crate) response: Option<Range<usize>>,
    /// Less of the response came than it announces.
    pub(crate) response_is_truncated: bool,
    /// The response's content stands elsewhere.
    pub(crate) response_is_elsewhere: bool,
    /// Each message stands in a block of its own, which tells where it ends.
    pub(crate) is_enclosed: bool,
    /// The URL, where it is known from elsewhere.
    pub(crate) url: Option<String>,
    /// When the request was sent, where it is known from elsewhere.
    pub(crate) started: Option<String>,
    /// The server's address, where it is known from elsewhere.
    pub(crate) server: Option<String>,
}
