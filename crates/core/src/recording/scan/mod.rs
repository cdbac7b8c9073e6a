//! Follows strings and brackets through JSON, 64 bytes at a time, without reading it.
//!
//! `marks` says of 64 bytes where quotation marks, backslashes and brackets stand, a bit each; everything
//! above works on these bits and does not care how they came about.

mod follow;
mod literal;
mod marks;
mod state;
mod stops;

#[cfg(fuzzing)]
pub use follow::agree;
pub(crate) use follow::string_end;
pub(super) use follow::{Follow, follow};
pub(crate) use literal::{unescape, unescape_bytes};
pub(super) use marks::plain_run;
pub(super) use state::State;
pub(super) use stops::Stops;
