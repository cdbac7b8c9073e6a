//! The dialects of JSON Schema.

/// What a schema's words mean.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum SchemaDialect {
    Draft4,
    Draft6,
    Draft7,
    Draft201909,
    Draft202012,
    /// OpenAPI 3.0's own, which is near draft 7.
    OpenApi30,
    /// That of later descriptions, which is draft 2020-12.
    OpenApi31,
}

impl SchemaDialect {
    /// Do such schemas stand in a description, where members may be meant for one direction only?
    pub(super) fn is_of_description(self) -> bool {
        matches!(self, Self::OpenApi30 | Self::OpenApi31)
    }
}
