//! Scans JSON 64 bytes at a time, for strings and brackets only.
//!
//! `block` marks the quotation marks, backslashes and brackets of 64 bytes, a bit each; everything above works on these
//! bits.

mod block;
mod brackets;
mod literal;
mod special;
mod state;

pub use brackets::{BracketScan, plain_string_end, scan_brackets, string_end};
pub use literal::{unescape, unescape_bytes, unescape_inner};
pub use special::SpecialBytes;
pub use state::ScanState;
