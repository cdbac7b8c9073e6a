//! Writes recordings, in any form, from recordings in any form.
//!
//! Entries of HAR are carried over as they are; between other forms an exchange is read and written
//! anew. What a form can't hold is counted, so that nobody takes a copy for more than it is.

mod har;
mod http;
mod omission;
mod record;
mod warc;
mod writer;

pub use writer::{RecordingWriter, WriteSummary};
