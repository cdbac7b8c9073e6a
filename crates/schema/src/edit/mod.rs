//! Changes in the text of a JSON or YAML document that leave all else as it is, to the byte: order, layout, comments.

mod document_text;
mod json;
mod layout;
mod outline;
#[cfg(test)]
mod tests;
mod yaml;

pub use document_text::{DocumentText, EditedText};
