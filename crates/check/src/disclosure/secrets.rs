//! Passwords, tokens, keys.

use super::patterns::{DisclosurePattern, Needs};
use faithful_clerk_model::finding::DisclosureKind;

const fn secret(what: &'static str, regex: &'static str, auth: Needs) -> DisclosurePattern {
    DisclosurePattern { kind: DisclosureKind::Secret, what, regex, literals: auth }
}

pub(super) const PATTERNS: [DisclosurePattern; 10] = [
    secret("a token", r"\beyJ[A-Za-z0-9_-]{8,}\.eyJ[A-Za-z0-9_-]{4,}\.[A-Za-z0-9_-]*", &[".eyJ"]),
    secret("a token", r"\b(?:Bearer|bearer) [A-Za-z0-9._~+/-]{16,}", &["earer "]),
    secret("credentials", r"\b(?:Basic|basic) [A-Za-z0-9+/]{16,}={0,2}(?:$|[^\w])", &["asic "]),
    secret("a private key", r"-----BEGIN (?:[A-Z]+ )*PRIVATE KEY-----", &["PRIVATE KEY-----"]),
    secret(
        "an access key",
        r"\b(?:AKIA|ASIA)[0-9A-Z]{16}\b|\bgh[pousr]_[A-Za-z0-9]{30,}|\bsk_(?:live|test)_[A-Za-z0-9]{16,}|\bxox[abprs]-[A-Za-z0-9-]{10,}|\bAIza[0-9A-Za-z_-]{35}\b",
        &[
            "AKIA", "ASIA", "ghp_", "gho_", "ghu_", "ghs_", "ghr_", "sk_live_", "sk_test_", "xox",
            "AIza",
        ],
    ),
    secret(
        "a connection string",
        r"\b(?:postgres(?:ql)?|mysql|mariadb|mongodb(?:\+srv)?|rediss?|amqps?|mssql|sqlserver)(?:\+\w+)?://[^\s\x22'<>]+",
        &["postgres", "mysql", "mariadb", "mongodb", "redis", "amqp", "mssql", "sqlserver"],
    ),
    secret(
        "credentials in a URL",
        r"\b[a-z][a-z0-9+.-]*://[^\s/:@\x22'<>]{1,64}:[^\s/@\x22'<>]{1,128}@[\w\[]",
        &["://"],
    ),
    secret("a connection string", r"\bjdbc:[a-z0-9]+:[^\s\x22'<>]+", &["jdbc:"]),
    secret(
        "a connection string",
        r"(?i)\b(?:server|data source|host)=[^;\n\x22]{1,100};(?:[^;\n\x22]{1,100};){0,8} ?(?:password|pwd)=[^;\n\x22]+",
        &["="],
    ),
    secret(
        "credentials",
        r"(?i)\b(?:password|passwd|pwd|secret|client_secret|api[_-]?key|access[_-]?key|access_token|refresh_token)=[^\s\x22'<>&,;]{6,}",
        &["="],
    ),
];
