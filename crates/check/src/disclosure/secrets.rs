//! Passwords, tokens, keys.

use super::pattern::{DisclosurePattern, Needs};
use faithful_clerk_model::finding::DisclosureKind;

const fn secret(what: &'static str, regex: &'static str, auth: Needs) -> DisclosurePattern {
    DisclosurePattern { kind: DisclosureKind::Secret, what, regex, literals: auth }
}

pub(super) const PATTERNS: [DisclosurePattern; 13] = [
    secret("a token", r"\beyJ[A-Za-z0-9_-]{8,}\.eyJ[A-Za-z0-9_-]{4,}\.[A-Za-z0-9_-]*", &[".eyJ"]),
    // What `scrub` and `show` take for a secret by its form or by the name before it; here the value has to look like one.
    secret("a token", r"\beyJ[A-Za-z0-9_-]{8,}\.[A-Za-z0-9_-]{8,}", &["eyJ"]),
    secret("a token", r"\b[Bb]earer [A-Za-z]{0,15}[0-9][A-Za-z0-9._~+/-]{5,}", &["earer "]),
    secret(
        "credentials",
        r"\b\w*(?:[Pp]assword|[Pp]asswd|[Pp]assphrase|[Ss]ecret|[Aa]pi[_-]?[Kk]ey|[Aa]ccess[_-]?[Kk]ey|[Tt]oken|[Ss]ession[_-]?[Ii]d|[Ss]ignature)\\?[\x22']?[ \t]*[:=][ \t]*\\?[\x22']?[A-Za-z]{0,16}[0-9][A-Za-z0-9._~+/-]{6,}",
        &[
            "assword",
            "asswd",
            "assphrase",
            "ecret",
            "oken",
            "ession",
            "ignature",
            "pi_key",
            "pi-key",
            "pikey",
            "pi_Key",
            "pi-Key",
            "piKey",
            "ccess_key",
            "ccess-key",
            "ccesskey",
            "ccess_Key",
            "ccess-Key",
            "ccessKey",
        ],
    ),
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
