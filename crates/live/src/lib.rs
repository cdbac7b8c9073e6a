//! Talks to a running service.
//!
//! [`Client`] sends the requests of a plan of the core's; [`Relay`] stands between clients and a service. What passes
//! becomes entries of HAR, so that everything else can read it. Credentials of planned requests are put in when they
//! are sent, and are masked in what is recorded; what others send is recorded as it was sent.
#![forbid(unsafe_code)]
#![deny(missing_docs)]

mod care;
mod entry;
mod relay;
mod send;

pub use care::{BaseUrl, UnsafeTarget};
pub use relay::{ForwardedExchange, Relay, RelayCounts, Upstream, UpstreamError};
pub use send::{ProbeClient, SendEnd, SendResult, SendSettings};
