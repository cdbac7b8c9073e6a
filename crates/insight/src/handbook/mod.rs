//! The contract as documentation: a page for each problem type, and the shapes as JSON Schema.

mod advice;
mod book;
mod paths;
mod schema;

pub use advice::{advice, comes_when};
pub use book::{FaultChapter, FaultForm, Handbook};
pub use paths::{PagePath, page_of};
pub use schema::{component_name, components, shape_schema, shape_schemas};
