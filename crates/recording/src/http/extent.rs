//! How much of a message a recording has.

use super::frame::{BodyLength, framing};
use super::head::{Head, Start};
use faithful_clerk_model::media;

/// How much of a body a recording has.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum BodyExtent {
    /// All of it that came.
    Whole,
    /// Nothing, or not all of it: what it was can't be told.
    NotKept,
    /// All that came, which is less than was announced: the service, or the way to it, broke off.
    BrokenOff,
}

impl BodyExtent {
    /// How much there is of the body of a message that has less of it than it announces, and what is to be told of that. A head
    /// without anything of the body behind it is how those write messages who don't keep bodies: that says nothing
    /// is damaged. `method` is that of the request, for a response.
    pub(crate) fn of_cut(message: &[u8], method: &str) -> (Self, Option<String>) {
        let Some(head) = Head::read(message) else { return (Self::NotKept, None) };
        let kept = message.len().saturating_sub(head.length);
        let what = match head.start {
            Start::Request(..) => "request",
            Start::Response(..) => "response",
        };
        let told = match framing(&head, method) {
            BodyLength::Length(length) => {
                format!("the {what} is cut: {kept} of the {length} bytes of its body are recorded")
            }
            BodyLength::Chunked if kept == 0 => return (Self::NotKept, None),
            _ => format!("the {what} is cut: its last chunk is not recorded"),
        };
        (Self::NotKept, Some(told))
    }

    /// The same of a message in a block of its own, which may be cut or not.
    pub(crate) fn of_block(message: &[u8], method: &str) -> (Self, Option<String>) {
        let Some(head) = Head::read(message) else { return (Self::Whole, None) };
        let kept = message.len().saturating_sub(head.length) as u64;
        match framing(&head, method) {
            BodyLength::Length(1..) | BodyLength::Chunked if kept == 0 => (Self::NotKept, None),
            // A coding may have been undone, or a secret masked: then there is less than was announced, and it is whole.
            BodyLength::Length(length) if kept < length && breaks_off(&head, message) => {
                Self::of_cut(message, method)
            }
            _ => (Self::Whole, None),
        }
    }
}

/// Does a body of JSON end as no JSON does?
fn breaks_off(head: &Head<'_>, message: &[u8]) -> bool {
    let media = media::essence(head.headers.get("content-type").unwrap_or_default());
    let body = message.get(head.length..).unwrap_or_default().trim_ascii();
    let ends = |first: &[u8], last: &[u8]| body.starts_with(first) && !body.ends_with(last);
    media::is_json(&media) && (ends(b"{", b"}") || ends(b"[", b"]"))
}
