//! Hosts and addresses that are not public.

use super::pattern::{DisclosurePattern, Needs};
use faithful_clerk_model::finding::DisclosureKind;

const fn host(regex: &'static str, auth: Needs) -> DisclosurePattern {
    DisclosurePattern {
        kind: DisclosureKind::InternalHost,
        what: "an internal host or address",
        regex,
        literals: auth,
    }
}

pub(super) const PATTERNS: [DisclosurePattern; 8] = [
    // RFC 1918 section 3, RFC 1122 section 3.2.1.3, RFC 3927 section 2.1. A version may look alike, and
    // is written behind a `v` or a word for it.
    host(
        r"(?:^|[^\w.v-])(?:10\.\d{1,3}|192\.168|172\.(?:1[6-9]|2\d|3[01])|127\.\d{1,3}|169\.254)\.\d{1,3}\.\d{1,3}(?::\d{2,5})?(?:$|[^\w.])",
        &["10.", "192.168", "172.", "127.", "169.254"],
    ),
    host(r"\blocalhost:\d{2,5}\b", &["localhost:"]),
    host(
        r"(?:^|[^\w.@-])(?:[a-z0-9][a-z0-9-]*\.)*[a-z0-9][a-z0-9-]*\.(?:internal|intra|intranet|corp|lan|svc|consul|localdomain|cluster\.local)(?::\d{2,5})?(?:$|[^\w.-])",
        &[
            ".internal",
            ".intra",
            ".corp",
            ".lan",
            ".svc",
            ".consul",
            ".localdomain",
            ".cluster.local",
        ],
    ),
    host(
        r"(?:^|[^\w.@-])[a-z0-9][a-z0-9-]*(?:\.[a-z0-9-]+)*\.local(?::\d{2,5}|[/\s\x22']|$)",
        &[".local"],
    ),
    // RFC 4193 section 3.1.
    host(r"\[f[cd][0-9a-f]{2}:[0-9a-f:]+\]", &["[fc", "[fd"]),
    host(
        r"(?:^|[^\w.-])[a-z][\w.-]*:(?:5432|3306|6379|27017|9092|5672|1433|1521|9200|11211|2181)\b",
        &[
            ":5432", ":3306", ":6379", ":27017", ":9092", ":5672", ":1433", ":1521", ":9200",
            ":11211", ":2181",
        ],
    ),
    host(
        r"\b(?:ECONNREFUSED|ENOTFOUND|EHOSTUNREACH|ECONNRESET|EAI_AGAIN)\b",
        &["ECONNREFUSED", "ENOTFOUND", "EHOSTUNREACH", "ECONNRESET", "EAI_AGAIN"],
    ),
    host(
        r"\bdial tcp[ :]|\bgetaddrinfo |\bupstream connect error\b|Connection refused \(os error|\bNo route to host\b|Failed to connect to /",
        &[
            "dial tcp",
            "getaddrinfo ",
            "upstream connect error",
            "Connection refused (os error",
            "No route to host",
            "Failed to connect to /",
        ],
    ),
];
