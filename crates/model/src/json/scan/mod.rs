//! Scans JSON 64 bytes at a time, for strings and brackets only.
//!
//! `block` marks the quotation marks, backslashes and brackets of 64 bytes, a bit each; everything above works on these
//! bits.

mod block;
mod brackets;
mod literal;
mod special;
mod state;

pub use brackets::string_end;
pub use brackets::{BracketScan, scan_brackets};
pub use literal::{unescape, unescape_bytes};
pub use special::SpecialBytes;
pub use state::ScanState;
