//! Passes requests and responses between clients and a service, and keeps what passed.
//!
//! Bytes go through as they come, while they come. For each connection of a client there is one to the service,
//! so that what the two agree on (keep-alive, chunks, interim responses) is theirs. What is changed is said in
//! [`head`]: the target gets the service's base path, `Host` its name, and no upgrade to HTTP/2 is offered.

mod body_buffer;
mod connection;
mod exchange;
mod forwarded;
mod framing;
#[cfg(fuzzing)]
mod fuzzing;
mod head;
mod listen;
mod notice;
mod target;
mod tunnel;
mod upstream;

pub use forwarded::ForwardedExchange;
#[cfg(fuzzing)]
pub use fuzzing::read_heads;
pub use listen::{Relay, RelayCounts};
pub use notice::{RelayEvent, RelayNotice};
pub use upstream::{Destination, Upstream, UpstreamError};
