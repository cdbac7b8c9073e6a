//! What a probe meant by a request, as it writes it beside the exchange.

use serde::{Deserialize, Serialize};

use crate::situation::Situation;

/// The member of an entry that holds it. HAR leaves names with an underscore to whoever writes (HAR 1.2, custom fields).
pub const MEMBER: &str = "_intended";

/// Nobody says more than this of a request.
const LONGEST: usize = 300;

/// What a request was sent for.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Intention {
    /// What it is, in a few words: the endpoint, and what is wrong.
    pub request: String,
    /// The situation that it is to be in; none where it is to be served.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub situation: Option<Situation>,
    /// Is it sent once more, after it was served, by the same idempotency key? Then nothing but the same response is right.
    #[serde(default, skip_serializing_if = "is_not")]
    pub repeats: bool,
}

#[allow(clippy::trivially_copy_pass_by_ref, reason = "serde asks so")]
fn is_not(flag: &bool) -> bool {
    !flag
}

impl Intention {
    /// Reads it; nothing where it is none.
    #[must_use]
    pub fn read(raw: &str) -> Option<Self> {
        let mut read: Self = serde_json::from_str(raw).ok()?;
        if let Some((end, _)) = read.request.char_indices().nth(LONGEST) {
            read.request.truncate(end);
        }
        Some(read)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_none_is_passed_over() {
        let wrong = r#"{"request":"GET /a: wrong credentials","situation":"invalid-credentials"}"#;
        let read = Intention::read(wrong).unwrap();
        assert_eq!(read.situation, Some(Situation::InvalidCredentials));
        assert_eq!(serde_json::to_string(&read).unwrap(), wrong);
        let served = Intention::read(r#"{"request":"served"}"#).unwrap();
        assert_eq!((served.situation, served.repeats), (None, false));
        for other in ["null", "7", "{}", r#"{"request":1}"#, r#"{"request":"x","situation":"odd"}"#]
        {
            assert_eq!(Intention::read(other), None, "{other}");
        }
        let long = format!("{{\"request\":\"{}\"}}", "é".repeat(1000));
        assert_eq!(Intention::read(&long).unwrap().request.chars().count(), LONGEST);
    }
}
