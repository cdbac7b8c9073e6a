//! JSON: what a text is, JSON Pointers into it, and a scanner that finds strings and brackets without parsing.

pub mod pointer;
pub mod scan;
mod value;

pub use value::*;
