//! The dialects of JSON Schema that a document may be written in.

/// A dialect of JSON Schema.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum SchemaDialect {
    Draft4,
    Draft6,
    Draft7,
    Draft201909,
    Draft202012,
}
