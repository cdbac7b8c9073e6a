//! Talks to a running service.
//!
//! [`ProbeClient`] sends the requests of a probe plan; [`Relay`] stands between clients and a service. What passes
//! becomes entries of HAR, so that everything else can read it. Credentials of planned requests are put in when they
//! are sent, and are masked in what is recorded; what others send is recorded as it was sent.
#![forbid(unsafe_code)]
#![deny(missing_docs)]

mod base_url;
mod entry;
mod own_secrets;
mod pace;
mod relay;
mod send;

pub use base_url::{BaseUrl, UnsafeTarget};
#[cfg(fuzzing)]
pub use relay::read_heads;
pub use relay::{
    Destination, ForwardedExchange, Relay, RelayCounts, RelayEvent, RelayNotice, Upstream,
    UpstreamError,
};
pub use send::{KeptValues, ProbeClient, SendEnd, SendResult, SendSettings, keep, run_of};
