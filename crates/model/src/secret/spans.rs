//! Where secrets stand in free text, told by their form or by the name before them.

use std::ops::Range;
use std::sync::LazyLock;

use regex::{Captures, Regex};
use serde::{Deserialize, Serialize};

use super::signs::TextSigns;

/// What kind of secret it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub enum SecretKind {
    /// Behind an authentication scheme: `Authorization`, `Proxy-Authorization`.
    Credentials,
    /// The value of a cookie.
    Cookie,
    /// Told by the name of a header field, a parameter or a member.
    Named,
    /// A JSON Web Token (RFC 7519), wherever it stands.
    WebToken,
    /// A key in the form that its maker gives to keys.
    Key,
    /// A private key in PEM (RFC 7468).
    PrivateKey,
    /// User information in a URL (RFC 3986 section 3.2.1).
    UserInformation,
    /// The same text as one that is a secret elsewhere.
    Repeated,
    /// By a rule of the contract.
    Declared,
    /// Of a person: a name, an address of e-mail, a number of a telephone or card.
    Personal,
}

impl SecretKind {
    /// What it is called.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Credentials => "credentials",
            Self::Cookie => "cookie",
            Self::Named => "secret by name",
            Self::WebToken => "web token",
            Self::Key => "key",
            Self::PrivateKey => "private key",
            Self::UserInformation => "user information",
            Self::Repeated => "secret repeated",
            Self::Declared => "secret by the contract",
            Self::Personal => "personal data",
        }
    }
}

/// A secret in a text.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SecretSpan {
    /// Where it stands, in bytes.
    pub range: Range<usize>,
    /// What it is.
    pub kind: SecretKind,
}

static SECRETS: LazyLock<Option<Regex>> = LazyLock::new(|| {
    // ASCII classes: a tenth of the automaton that `\w` and `\s` would make.
    let pattern = concat!(
        r"(?i)(?P<scheme>(?:bearer|basic|digest|negotiate)[ \t]+)[A-Za-z0-9._~+/=-]{6,}",
        r"|(?P<jwt>eyJ[A-Za-z0-9_-]{6,}\.[A-Za-z0-9_-]*(?:\.[A-Za-z0-9_-]*){0,3})",
        r#"|(?P<name>(?:[A-Za-z0-9_-]*(?:password|passwd|passphrase|secret|api[_-]?key|access[_-]?key|account[_-]?key|private[_-]?key|token|session[_-]?id|passcode|code[_-]?verifier|(?:authorization|recovery)[_-]?code|pwd|signature|credentials?)|\b(?:[A-Za-z0-9]+[_-])*(?:pin|t?otp|cvv|cvc|jwt|csrf|xsrf))\\?["']?[ \t]*[:=][ \t]*\\?["']?)(?:(?:bearer|basic|digest|negotiate)[ \t]+)?[^ \t\n"',;&\\]+"#,
        r"|(?P<user>://)[^ \t\n/@:]+(?::[^ \t\n/@]*)?@",
        r"|(?P<pem>-----BEGIN (?:[A-Z]+ )*PRIVATE KEY(?: BLOCK)?-----|Private-Lines: [0-9]+)(?:[^-]|-[^-])+",
        r"|(?-i:(?P<prefixed>\b(?:[A-Za-z][A-Za-z0-9]{1,9}[-_]){1,3})[A-Za-z0-9]{24,}|(?P<key>\b(?:AKIA|ASIA)[0-9A-Z]{16}\b|\bgh[pousr]_[A-Za-z0-9]{30,}|\bsk_(?:live|test)_[A-Za-z0-9]{16,}|\bxox[abprs]-[A-Za-z0-9-]{10,}|\bAIza[0-9A-Za-z_-]{35}))",
    );
    Regex::new(pattern).ok()
});

/// The parameters that challenges have (RFC 7617, RFC 6750, RFC 7616).
const PARAMETERS: [&str; 13] = [
    "realm",
    "charset",
    "scope",
    "error",
    "error_description",
    "error_uri",
    "nonce",
    "opaque",
    "qop",
    "stale",
    "algorithm",
    "domain",
    "userhash",
];

/// The secrets in a text, in their order; `None` if nobody can tell, and it is to be taken for one.
#[must_use]
pub fn spans(text: &str) -> Option<Vec<SecretSpan>> {
    if !TextSigns::of(text).may_have_spans {
        return Some(Vec::new());
    }
    let secrets = SECRETS.as_ref()?;
    Some(secrets.captures_iter(text).filter_map(|found| span(text, &found)).collect())
}

/// Words that go on with a sentence behind the name of a secret and a colon: `password: required`.
const PROSE: [&str; 20] = [
    "required",
    "missing",
    "invalid",
    "wrong",
    "incorrect",
    "expired",
    "unknown",
    "empty",
    "blank",
    "must",
    "should",
    "may",
    "cannot",
    "is",
    "has",
    "not",
    "no",
    "too",
    "this",
    "the",
];

/// Can this stand behind an authentication scheme? In a sentence, words do.
fn is_credential(token: &str) -> bool {
    let has = |what: fn(&u8) -> bool| token.as_bytes().iter().any(what);
    let inner = token.get(1..).unwrap_or_default();
    let is_mixed =
        inner.bytes().any(|byte| byte.is_ascii_uppercase()) && has(u8::is_ascii_lowercase);
    token.len() >= 20
        || has(u8::is_ascii_digit)
        || is_mixed
        || token.contains(['=', '+', '/', '_', '~'])
}

fn span(text: &str, found: &Captures<'_>) -> Option<SecretSpan> {
    let whole = found.get(0)?.range();
    let end = |name: &str| found.name(name).map(|group| group.end());
    let text_from = |start: usize| text.get(start..whole.end).unwrap_or_default();
    let (start, stop, kind) = if let Some(start) = end("scheme") {
        if !is_credential(text_from(start)) {
            return None;
        }
        // A challenge such as `Bearer realm="harbour"` has parameters, and no token. In JSON a token has a
        // quotation mark behind it, too.
        let token = text.get(start..whole.end).unwrap_or_default();
        let behind = text.get(whole.end..).unwrap_or_default();
        let name = token.strip_suffix('=').unwrap_or_default();
        let is_challenge = behind.starts_with(['"', '\\']);
        if is_challenge && PARAMETERS.contains(&name.to_lowercase().as_str()) {
            return None;
        }
        (start, whole.end, SecretKind::Credentials)
    } else if let Some(start) = end("prefixed") {
        // An id may look like a key, but for the letters that it is made of.
        let token = text_from(start);
        let has = |what: fn(&u8) -> bool| token.as_bytes().iter().any(what);
        let is_key =
            has(u8::is_ascii_digit) && has(u8::is_ascii_lowercase) && has(u8::is_ascii_uppercase);
        if !is_key {
            return None;
        }
        (whole.start, whole.end, SecretKind::Key)
    } else if let Some(start) = end("name") {
        // `password: required` is a sentence.
        let is_prose = text.get(..start).is_some_and(|before| before.ends_with([' ', '\t']));
        let value = text_from(start);
        let word = value.trim_end_matches(['.', '!', '?', ')']);
        if is_prose && PROSE.iter().any(|known| known.eq_ignore_ascii_case(word)) {
            return None;
        }
        (start, whole.end, SecretKind::Named)
    } else if let Some(start) = end("user") {
        (start, whole.end - 1, SecretKind::UserInformation)
    } else if let Some(start) = end("pem") {
        (start, whole.end, SecretKind::PrivateKey)
    } else if found.name("jwt").is_some() {
        (whole.start, whole.end, SecretKind::WebToken)
    } else {
        (whole.start, whole.end, SecretKind::Key)
    };
    Some(SecretSpan { range: start..stop, kind })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Parts of which secrets are made, and what may stand between them.
    fn part() -> impl Strategy<Value = String> {
        let words = prop::sample::select(vec![
            "bearer",
            "Basic",
            "ba\u{17f}ic",
            "DIGEST",
            "negotiate",
            "eyJ",
            "EYJ",
            "password",
            "passwd",
            "passphrase",
            "secret",
            "api_key",
            "Access-Key",
            "accountkey",
            "private_\u{212a}ey",
            "token",
            "session-id",
            "sessionId",
            "passcode",
            "code_verifier",
            "authorization_code",
            "recoveryCode",
            "pwd",
            "signature",
            "credential",
            "credentials",
            "pin",
            "totp",
            "cvv",
            "cvc",
            "jwt",
            "csrf",
            "xsrf",
            "-----BEGIN ",
            "PRIVATE KEY",
            "-----",
            "Private-Lines: ",
            "AKIA",
            "ASIA",
            "ghp_",
            "sk_live_",
            "sk_test_",
            "xoxb-",
            "AIza",
            "quay",
            "é",
            "id",
        ]);
        prop_oneof![
            3 => words.prop_map(str::to_owned),
            2 => "[ \t:=\"'\\\\@/._,;&-]{1,3}",
            2 => "[A-Za-z0-9]{1,9}",
            1 => "[A-Z0-9]{16}",
            1 => "[A-Za-z0-9_-]{24,40}",
            1 => "://[a-z]{1,3}:?[a-z]{0,3}@",
        ]
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(4000))]

        #[test]
        fn no_secret_is_without_a_sign(parts in prop::collection::vec(part(), 1..9)) {
            let text = parts.concat();
            if SECRETS.as_ref().unwrap().is_match(&text) {
                prop_assert!(TextSigns::of(&text).may_have_spans, "{:?}", text);
            }
        }
    }
}
