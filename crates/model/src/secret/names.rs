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
    if name.is_ascii() {
        return ENDINGS.iter().any(|ending| before(name, ending).is_some())
            || WHOLE.iter().any(|whole| is_folded(name, whole));
    }
    let plain = folded(name);
    ENDINGS.iter().any(|ending| plain.ends_with(ending)) || WHOLE.contains(&plain.as_str())
}

/// What stands before an ending, without hyphens and underscores, the last byte first. Every member of every error is
/// looked at, so nothing is copied.
fn before<'n>(name: &'n str, ending: &str) -> Option<impl Iterator<Item = u8> + use<'n>> {
    let mut bytes = name.bytes().rev().filter(|byte| !matches!(byte, b'_' | b'-'));
    let is_end = ending
        .bytes()
        .rev()
        .all(|byte| bytes.next().is_some_and(|other| other.eq_ignore_ascii_case(&byte)));
    is_end.then_some(bytes)
}

fn is_folded(name: &str, whole: &str) -> bool {
    before(name, whole).is_some_and(|mut rest| rest.next().is_none())
}

/// Is a header field of that name a secret as a whole?
#[must_use]
pub fn is_secret_header(name: &str) -> bool {
    is_secret_name(name) || is_folded(name, "xauth")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_tell_by_their_end() {
        for name in [
            "access_token",
            "userPassword",
            "X-Api-Key",
            "JWT",
            "Proxy-Authorization",
            "to_ken-",
            "_p-w_d",
            "ключ_token",
        ] {
            assert!(is_secret_name(name), "{name}");
        }
        for name in
            ["tokens_left", "pass", "side", "passwords", "design", "token_type", "oken", "", "ключ"]
        {
            assert!(!is_secret_name(name), "{name}");
        }
    }
}
