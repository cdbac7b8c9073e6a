//! Drafts a contract from what recordings show.
//!
//! The draft says what was observed, and how often. Where the recordings contradict themselves it takes the
//! better practice and asks, in a comment that starts with `decide:`. It always parses, and a check with it runs; what
//! that check finds in the draft's own recording is asked about, too ([`Draft::ask_about`]);
//! whether it is what was meant, people decide.

mod body_rules;
mod endpoints;
mod envelope;
mod error;
mod fault;
mod faults;
mod own_recording;
mod regions;
mod response;
mod response_headers;
mod shapes;
mod validation_errors;
mod violations;
mod write;

pub use response::{ExpectedResponse, expected_response, sample_response};

pub use write::{Draft, ServiceDescription, draft};
