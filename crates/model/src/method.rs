//! Methods of requests.

use http::Method;

/// The standard methods (RFC 9110 section 9.1, RFC 5789), in the order in which a list of endpoints has them.
pub const METHODS: [Method; 9] = [
    Method::GET,
    Method::HEAD,
    Method::POST,
    Method::PUT,
    Method::PATCH,
    Method::DELETE,
    Method::OPTIONS,
    Method::CONNECT,
    Method::TRACE,
];

/// The position of a method among the standard ones; methods are case-sensitive (RFC 9110 section 9.1).
#[must_use]
pub fn position(method: &str) -> Option<usize> {
    METHODS.iter().position(|known| known.as_str() == method)
}

/// Is it one of the standard methods?
#[must_use]
pub fn is_standard(method: &str) -> bool {
    position(method).is_some()
}

/// Is a request with it expected to have a body?
#[must_use]
pub fn usually_has_body(method: &str) -> bool {
    [Method::POST, Method::PUT, Method::PATCH].iter().any(|known| known.as_str() == method)
}
