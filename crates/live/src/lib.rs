//! Talks to a running service.
//!
//! Requests come from a plan of the core's; what passes becomes entries of HAR (one a line), so that everything
//! else can read it. Credentials are put into a request when it is sent, and are masked in what is recorded.
#![forbid(unsafe_code)]
#![deny(missing_docs)]

mod care;
mod entry;
mod send;

pub use care::{Base, Unsafe};
pub use send::{Client, Ended, Settings};
