//! Names that say that a value is a secret.

/// Whatever ends so, without regard to case, hyphens and underscores.
const ENDINGS: [&str; 20] = [
    "password",
    "passwd",
    "passphrase",
    "passcode",
    "secret",
    "apikey",
    "accesskey",
    "secretkey",
    "privatekey",
    "signingkey",
    "encryptionkey",
    "token",
    "sessionid",
    "authorization",
    "authorizationcode",
    "codeverifier",
    "recoverycode",
    "cookie",
    "credential",
    "onetimecode",
];

/// Too short to be the end of other words: they are whole names, or the last word of one.
const WORDS: [&str; 12] =
    ["pwd", "pin", "otp", "totp", "cvv", "cvc", "jwt", "sid", "sig", "signature", "csrf", "xsrf"];

/// What stands behind such a name and leaves it one: `password_confirmation`.
const BEHIND: [&str; 6] = ["confirmation", "confirm", "repeat", "again", "value", "hash"];

/// What a header field that carries a secret may end with, as a word.
const HEADER_ENDINGS: [&str; 5] = ["key", "token", "otp", "secret", "signature"];

/// Header fields that end so and carry none: names that a client or a cache gives to requests and responses, and what
/// CORS says of credentials.
const OPEN_HEADERS: [&str; 7] = [
    "idempotency-key",
    "surrogate-key",
    "cache-key",
    "x-cache-key",
    "sec-websocket-key",
    "access-control-allow-credentials",
    "x-idempotency-key",
];

/// Is a member, parameter or cookie of that name a secret by its name? A name in brackets counts, too (`user[password]`),
/// and so does more than one (`api_keys`).
#[must_use]
pub fn is_secret_name(name: &str) -> bool {
    let last = name.strip_suffix(']').and_then(|name| name.rsplit_once('['));
    if let Some((before, inner)) = last {
        return is_secret_name(inner) || inner.is_empty() && is_secret_name(before);
    }
    is_secret_word(name)
        || singular(name).is_some_and(is_secret_word)
        || BEHIND.iter().any(|behind| {
            last_letter(name) == behind.as_bytes().last().copied()
                && without(name, behind).is_some_and(is_secret_word)
        })
}

/// The last letter, as a small one.
fn last_letter(name: &str) -> Option<u8> {
    let last = name.bytes().rev().find(|byte| !matches!(byte, b'_' | b'-'))?;
    Some(last.to_ascii_lowercase())
}

fn is_secret_word(name: &str) -> bool {
    let Some(last) = last_letter(name) else { return false };
    // Every member of every error is looked at, and most end in another letter.
    let may_end = |ending: &&&str| ending.as_bytes().last() == Some(&last);
    ENDINGS.iter().filter(may_end).any(|ending| without(name, ending).is_some())
        || WORDS.iter().filter(may_end).any(|word| {
            without(name, word).is_some_and(|before| {
                let first = name.get(before.len()..).and_then(|word| word.chars().next());
                let is_camel = before.ends_with(|c: char| c.is_lowercase() || c.is_ascii_digit())
                    && first.is_some_and(char::is_uppercase);
                let is_apart =
                    before.is_empty() || before.ends_with(['_', '-', '.', ' ', '/', ':', '$', '@']);
                is_camel || is_apart
            })
        })
}

/// A plural without its ending; of what is counted (`max_tokens`) there is more than a secret.
fn singular(name: &str) -> Option<&str> {
    const COUNTED: [&str; 9] =
        ["max", "min", "total", "prompt", "completion", "input", "output", "used", "remaining"];
    let one = name.strip_suffix(['s', 'S'])?;
    let counts =
        |word: &&str| name.get(..word.len()).is_some_and(|start| start.eq_ignore_ascii_case(word));
    (!COUNTED.iter().any(counts)).then_some(one)
}

/// What stands before an ending, which may have hyphens and underscores in it. Nothing is copied.
fn without<'n>(name: &'n str, ending: &str) -> Option<&'n str> {
    let mut rest = name;
    for letter in ending.bytes().rev() {
        rest = rest.trim_end_matches(['_', '-']);
        let last = rest.as_bytes().last()?;
        if !last.eq_ignore_ascii_case(&letter) {
            return None;
        }
        rest = rest.get(..rest.len() - 1)?;
    }
    Some(rest)
}

/// Is a header field of that name a secret as a whole?
#[must_use]
pub fn is_secret_header(name: &str) -> bool {
    if OPEN_HEADERS.iter().any(|open| open.eq_ignore_ascii_case(name)) {
        return false;
    }
    let is_word = |ending: &&str| {
        without(name, ending).is_some_and(|before| before.is_empty() || before.ends_with('-'))
    };
    is_secret_name(name)
        || HEADER_ENDINGS.iter().any(is_word)
        || name.eq_ignore_ascii_case("x-auth")
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
            "password_confirmation",
            "newPasswordAgain",
            "user[password]",
            "api_keys[]",
            "api_keys",
            "credentials",
            "pin",
            "card_pin",
            "userPin",
            "otp",
            "passcode",
            "code_verifier",
            "authorization_code",
            "client_secret",
            "recovery_codes",
            "csrf",
        ] {
            assert!(is_secret_name(name), "{name}");
        }
        for name in [
            "tokens_left",
            "pass",
            "side",
            "design",
            "token_type",
            "oken",
            "",
            "ключ",
            "spin",
            "shipping",
            "opinion",
            "max_tokens",
            "promptTokens",
            "code",
            "key",
            "secretary",
            "boats[name]",
            "Sid[]x",
        ] {
            assert!(!is_secret_name(name), "{name}");
        }
    }

    #[test]
    fn header_fields_tell_by_their_last_word() {
        for name in ["X-Quay-Key", "X-Otp", "Webhook-Signature", "X-Shared-Secret", "Key", "X-Auth"]
        {
            assert!(is_secret_header(name), "{name}");
        }
        for name in
            ["Idempotency-Key", "Sec-WebSocket-Key", "X-Monkey", "Access-Control-Allow-Credentials"]
        {
            assert!(!is_secret_header(name), "{name}");
        }
    }
}
