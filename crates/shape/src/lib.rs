//! Shapes: what a JSON value has to look like, said in type expressions, and where a value does not.

mod compare;
mod difference;
mod format;
mod kind;
mod order;
mod outline;
mod phrase;
mod settled;
mod sketch;

pub use faithful_clerk_model::finding::MismatchKind;

pub use compare::{
    HeaderLookup, MOST_MISMATCHES, Mismatch, compare, compare_value, compare_with_headers,
    text_fits, value_fits, values_equal,
};
pub use difference::{DifferenceKind, ShapeDifference, differences};
pub use format::{is_date, is_date_time, is_language_tag, is_uri, is_uri_reference};
pub use kind::{
    ConstrainedType, Limit, PROBLEM_MEMBERS, Shape, ShapeId, ShapeMember, ShapeTable, TypeName,
    is_extension_name,
};
pub use order::order;
pub use outline::{DataLocations, is_told_wholly, outline};
pub use phrase::{TypeExpression, TypeExpressionError, parse, type_names};
pub use settled::are_data_names;
pub use sketch::{InferredShape, LEAST_LIKENESS, MOST_MEMBERS};
