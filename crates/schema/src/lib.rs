//! JSON Schema: where rules for bodies and parameters come from a file or a description.
//!
//! Validation itself is a general validator's work. What is done here is what it can't know: which files
//! a contract may mean, references that lead nowhere or in a ring, and from the validator's errors the
//! exact places that are invalid.

#[cfg_attr(not(feature = "json-schema"), expect(dead_code, reason = "only a validator reads it"))]
mod bundle;
mod dialect;
mod discriminator;
mod documents;
mod edit;
mod files;
mod library;
mod one_way;
mod references;
mod rules;
mod schema_dialect;
mod source;
mod spelled;
#[cfg(feature = "json-schema")]
mod validator;
#[cfg(not(feature = "json-schema"))]
#[path = "no_validator.rs"]
mod validator;
mod yaml;

pub use documents::{Document, DocumentId, DocumentSet};
pub use edit::{DocumentText, EditedText};
pub use files::{FileLoader, NoFiles, join as join_path};
pub use library::{SchemaLibrary, parse_document};
pub use one_way::Direction;
pub use rules::{CompiledSchema, FormatMode};
