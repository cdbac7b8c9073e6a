//! Sample values: one that fits what was expected, and one that does not.

mod pattern;
pub mod schema;
mod values;

pub use values::{SOME_TEXT, fitting, misfitting, of_shape};
