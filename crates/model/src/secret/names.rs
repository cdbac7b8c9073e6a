//! Names that say that a value is a secret.

use crate::json::folded;

/// Whatever ends so, without regard to case, hyphens and underscores.
const ENDINGS: [&str; 14] = [
    "password",
    "passwd",
    "passphrase",
    "secret",
    "apikey",
    "accesskey",
    "secretkey",
    "privatekey",
    "token",
    "sessionid",
    "authorization",
    "cookie",
    "credential",
    "credentials",
];

/// Names too short to be the end of others.
const WHOLE: [&str; 8] = ["pwd", "otp", "cvv", "cvc", "jwt", "sid", "sig", "signature"];

/// Is a member, parameter or cookie of that name a secret by its name?
#[must_use]
pub fn is_secret_name(name: &str) -> bool {
    let plain = folded(name);
    ENDINGS.iter().any(|ending| plain.ends_with(ending)) || WHOLE.contains(&plain.as_str())
}

/// Is a header field of that name a secret as a whole?
#[must_use]
pub fn is_secret_header(name: &str) -> bool {
    is_secret_name(name) || folded(name) == "xauth"
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_tell_by_their_end() {
        for name in ["access_token", "userPassword", "X-Api-Key", "JWT", "Proxy-Authorization"] {
            assert!(is_secret_name(name), "{name}");
        }
        for name in ["tokens_left", "pass", "side", "passwords", "design", "token_type"] {
            assert!(!is_secret_name(name), "{name}");
        }
    }
}
