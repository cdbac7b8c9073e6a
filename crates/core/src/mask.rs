//! Masks secrets in text that came from a recording, before it leaves the core.
//!
//! What is masked: credentials behind a scheme, JSON Web Tokens, values named as a secret, and user
//! information in URLs. A mask is `***`, whatever the length.

use std::borrow::Cow;
use std::sync::LazyLock;

use regex::{Captures, Regex};

use crate::json::folded;

const MASK: &str = "***";

/// The whole pattern is looked for once; what stands in the group `keep` is left.
static SECRETS: LazyLock<Option<Regex>> = LazyLock::new(|| {
    // ASCII classes: a tenth of the automaton that `\w` and `\s` would make.
    let pattern = concat!(
        r"(?i)(?P<scheme>(?:bearer|basic|digest|negotiate)[ \t]+)[A-Za-z0-9._~+/=-]{6,}",
        r"|eyJ[A-Za-z0-9_-]{6,}\.[A-Za-z0-9_-]{4,}(?:\.[A-Za-z0-9_-]*)?",
        r#"|(?P<name>[A-Za-z0-9_-]*(?:password|passwd|secret|api[_-]?key|token|session[_-]?id)\\?["']?[ \t]*[:=][ \t]*\\?["']?)(?:(?:bearer|basic|digest|negotiate)[ \t]+)?[^ \t\n"',;&\\]+"#,
        r"|(?P<user>://)[^ \t\n/@:]+(?::[^ \t\n/@]*)?@",
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

/// The text with its secrets masked.
#[must_use]
pub fn masked(text: &str) -> Cow<'_, str> {
    // A secret stands behind a space, a colon or an equals sign, or is a token of three parts.
    let has_sign = text.bytes().any(|byte| matches!(byte, b' ' | b'\t' | b':' | b'='));
    if !has_sign && !text.contains('.') {
        return Cow::Borrowed(text);
    }
    let Some(secrets) = SECRETS.as_ref() else { return Cow::Borrowed(MASK) };
    secrets.replace_all(text, |found: &Captures<'_>| {
        let kept = |name: &str| found.name(name).map(|kept| kept.as_str());
        // A challenge such as `Bearer realm="harbour"` has parameters, and no token. In JSON a token has a
        // quotation mark behind it, too.
        if let (Some(whole), Some(scheme)) = (found.get(0), found.name("scheme")) {
            let token = whole.as_str().get(scheme.as_str().len()..).unwrap_or_default();
            let behind = text.get(whole.end()..).unwrap_or_default();
            let name = token.strip_suffix('=').unwrap_or_default();
            if behind.starts_with(['"', '\\']) && PARAMETERS.contains(&name.to_lowercase().as_str())
            {
                return whole.as_str().to_owned();
            }
        }
        if let Some(user) = kept("user") {
            return format!("{user}{MASK}@");
        }
        format!("{}{MASK}", kept("scheme").or_else(|| kept("name")).unwrap_or_default())
    })
}

/// Is a member of that name a secret by its name?
#[must_use]
pub fn is_secret_name(name: &str) -> bool {
    let plain = folded(name);
    ["password", "passwd", "secret", "apikey", "token", "sessionid", "authorization", "cookie"]
        .iter()
        .any(|secret| plain.ends_with(secret))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn secrets_are_masked_and_other_words_are_not() {
        for (text, safe) in [
            ("Bearer abc.def-123", "Bearer ***"),
            ("sent eyJhbGciOi.eyJzdWIiOi.c2ln today", "sent *** today"),
            ("{\"password\":\"hunter2\",\"nights\":2}", "{\"password\":\"***\",\"nights\":2}"),
            ("access_token=abc&x=1", "access_token=***&x=1"),
            ("postgres://harbour:tide@db/x", "postgres://***@db/x"),
            ("a token: Bearer abc.def-123", "a token: ***"),
            ("the token is missing", "the token is missing"),
            ("Basic rules of the harbour", "Basic rules of the harbour"),
            ("Bearer", "Bearer"),
            ("Bearer realm=\"harbour\"", "Bearer realm=\"harbour\""),
            ("{\"note\":\"Bearer abc.def-123\"}", "{\"note\":\"Bearer ***\"}"),
            ("\"Basic dXNlcjpwYXNz=\"", "\"Basic ***\""),
            ("Digest realm=\"a\", nonce=\"b\"", "Digest realm=\"a\", nonce=\"b\""),
            ("https://harbour.example/faults/x", "https://harbour.example/faults/x"),
        ] {
            assert_eq!(masked(text), safe);
        }
        assert!(is_secret_name("access_token") && is_secret_name("userPassword"));
        assert!(!is_secret_name("tokens_left") && !is_secret_name("pass"));
    }
}
