//! Drafts a contract from what recordings show.
//!
//! The draft says what was observed, and how often. Where the recordings contradict themselves it takes the
//! better practice and asks, in a comment that starts with `decide:`. It always parses, and a check with it runs;
//! whether it is what was meant, people decide.

mod answer;
mod endpoints;
mod error;
mod fault;
mod faults;
mod shapes;
mod write;

pub use answer::{ExpectedResponse, expected_response, sample_response};

pub use write::{Draft, draft};
