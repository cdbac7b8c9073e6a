//! The names that services usually give to the parts of a validation error.

/// The names under which services put the field of an entry, those with more to them first.
pub(super) const LOCATIONS: [&str; 17] = [
    "pointer",
    "propertyPath",
    "property_path",
    "path",
    "loc",
    "field",
    "fieldName",
    "field_name",
    "param",
    "parameter",
    "property",
    "attribute",
    "key",
    "name",
    "source",
    "target",
    "location",
];

/// The names under which they put the reason.
pub(super) const REASONS: [&str; 15] = [
    "message",
    "msg",
    "detail",
    "reason",
    "description",
    "text",
    "defaultMessage",
    "default_message",
    "messages",
    "constraints",
    "title",
    "error",
    "errors",
    "problem",
    "hint",
];

/// The names under which they put the rule's code.
pub(super) const CODES: [&str; 8] =
    ["code", "rule", "type", "keyword", "errorCode", "error_code", "constraint", "validator"];

/// The names of members that hold the entries.
pub(super) const LISTS: [&str; 16] = [
    "errors",
    "invalid",
    "invalid_params",
    "invalid-params",
    "invalidParams",
    "violations",
    "extra",
    "details",
    "fields",
    "field_errors",
    "fieldErrors",
    "problems",
    "messages",
    "issues",
    "detail",
    "error",
];
