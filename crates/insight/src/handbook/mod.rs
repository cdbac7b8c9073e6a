//! The contract as documentation: a page for each problem type, and the shapes as JSON Schema.

mod advice;
mod book;
mod components;
mod description;
mod openapi_3_0;
mod paths;
mod schema;

pub use advice::{advice, comes_when};
pub use book::{FaultChapter, FaultForm, Handbook};
pub use description::{MergedDescription, merged_description};
pub use paths::{PagePath, page_of};
pub use schema::{component_name, components, shape_schema, shape_schemas};
