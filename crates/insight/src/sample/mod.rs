//! Sample values: one that fits what was expected, and one that does not.

mod member_rules;
mod pattern;
pub mod schema;
mod values;

pub use member_rules::{each_broken, of_body};
pub use values::{SOME_TEXT, fitting, misfitting, of_shape};
