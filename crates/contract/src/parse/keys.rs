//! The keys of the contract language, table by table.

/// Of the contract as a whole.
pub(super) const TOP: &[&str] = &[
    "contract",
    "like",
    "service",
    "servers",
    "openapi",
    "credentials",
    "public",
    "disclosure-scope",
    "languages",
    "schema-formats",
    "documented",
    "undocumented-errors",
    "paths",
    "secret",
    "error",
    "envelope",
    "codes",
    "validation-errors",
    "shape",
    "fault",
    "everywhere",
    "region",
    "group",
    "endpoint",
    "case",
    "severity",
    "waiver",
    "probe",
];

/// Of `[paths]`.
pub(super) const PATHS: &[&str] =
    &["trailing-slash", "case-sensitive", "exclude", "exclude-methods", "exclude-hosts"];

/// Of `[probe]`.
pub(super) const PROBE: &[&str] = &["credentials"];

/// Of `[secret]`.
pub(super) const SECRET: &[&str] = &["headers", "names", "patterns"];

/// Of `[error]`.
pub(super) const ERROR: &[&str] = &["media", "shape", "headers", "respond-within"];

/// Of `[envelope]`.
pub(super) const ENVELOPE: &[&str] =
    &["status", "code", "title", "message", "members", "success", "fields"];

/// Of `fields` in `[envelope]`.
pub(super) const FIELDS: &[&str] = &["each", "location", "message", "code"];

/// Of a code in `[codes]`, which also has `range`.
pub(super) const CODE: &[&str] = &["fault"];

/// Of `[validation-errors]`.
pub(super) const VALIDATION_ERRORS: &[&str] = &[
    "pointer",
    "locations",
    "parameters",
    "missing",
    "missing-member",
    "unknown",
    "one-of",
    "root",
    "duplicates",
    "codes",
];

/// Of `[shape.*]`; all others are members.
pub(super) const SHAPE: &[&str] = &["like", "closed", "members"];

/// Of `[fault.*]`.
pub(super) const FAULT: &[&str] = &[
    "status",
    "type",
    "title",
    "code",
    "media",
    "shape",
    "members",
    "headers",
    "when",
    "any-request",
    "internal",
];

/// Of `[everywhere]`, `[group.*]` and `[endpoint.*]`.
pub(super) const RULES: &[&str] = &[
    "faults",
    "success",
    "auth",
    "accepts",
    "produces",
    "precedence",
    "requires",
    "max-request-body",
    "respond-within",
    "success-headers",
    "error-headers",
    "success-shape",
    "parameters",
    "unknown-parameters",
    "repeated-parameters",
    "partial",
];

/// Of `[group.*]` alone.
pub(super) const GROUP: &[&str] = &["endpoints", "with"];

/// Of `[region.*]` alone.
pub(super) const REGION: &[&str] = &["error", "envelope", "validation-errors", "servers"];

/// Of `[endpoint.*]` alone.
pub(super) const ENDPOINT: &[&str] = &["body", "body-members", "body-required", "body-rules"];

/// Of a rule of `body-rules`.
pub(super) const BODY_RULE: &[&str] =
    &["member", "later-than", "differs-from", "required-with", "one-of"];

/// Of `parameters`.
pub(super) const PARAMETERS: &[&str] = &["path", "query", "header"];

/// Of a parameter.
pub(super) const PARAMETER: &[&str] = &["is", "if-invalid"];

/// Of `partial`.
pub(super) const PARTIAL: &[&str] = &[
    "failures",
    "shape",
    "faults",
    "requested",
    "succeeded",
    "match-by",
    "index",
    "pointer",
    "status",
    "code",
];

/// Of `[case.*]`.
pub(super) const CASE: &[&str] =
    &["request", "group", "path", "query", "headers", "body", "situation", "expect", "save"];

/// Of `[[waiver]]`.
pub(super) const WAIVER: &[&str] = &["clause", "endpoint", "reason", "until"];

/// Every key of the contract language.
pub fn contract_keys() -> impl Iterator<Item = &'static str> {
    let tables = [
        TOP,
        PATHS,
        PROBE,
        SECRET,
        ERROR,
        ENVELOPE,
        FIELDS,
        CODE,
        VALIDATION_ERRORS,
        SHAPE,
        FAULT,
        RULES,
        GROUP,
        REGION,
        ENDPOINT,
        BODY_RULE,
        PARAMETERS,
        PARAMETER,
        PARTIAL,
        CASE,
        WAIVER,
    ];
    tables.into_iter().flatten().copied().chain(["range"])
}
