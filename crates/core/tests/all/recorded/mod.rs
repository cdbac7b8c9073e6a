//! What is found out from recordings alone, against recordings of which the truth is known.

mod changes;
mod large;
pub(crate) mod make;
mod pairs;
mod properties;
mod shapes;
mod templates;
