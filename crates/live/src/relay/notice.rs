//! What a recorder can't record, told while it happens.

use super::forwarded::ForwardedExchange;

/// What comes from a relay.
#[derive(Debug)]
pub enum RelayEvent {
    /// An exchange passed.
    Passed(Box<ForwardedExchange>),
    /// Something else did, or could not.
    Notice(RelayNotice),
}

/// What is not in the recording, and why.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub enum RelayNotice {
    /// A connection was switched to another protocol (RFC 9110 section 7.8).
    Upgrade {
        /// The protocol.
        protocol: String,
        /// The URL that was asked for.
        url: String,
    },
    /// A tunnel was opened through the proxy (RFC 9110 section 9.3.6).
    Tunnel {
        /// Host and port.
        to: String,
    },
    /// As many clients as are let in at once are there, and one that sent nothing had to go.
    Crowd,
    /// The service does not speak HTTP/1.1.
    OnlyHttp2 {
        /// The service.
        to: String,
    },
}
