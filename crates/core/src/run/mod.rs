//! Runs over recordings: how every exchange comes to where it is looked at, and what a check does there.

mod check;
mod pass;

pub use check::Check;
pub use pass::{Traversal, Visitor};
