//! Shapes: what a JSON value has to look like, said in phrases, and where a value does not.

mod compare;
mod format;
mod kind;
mod phrase;

pub use compare::{MOST_MISMATCHES, Mismatch, Sort, compare};
pub use kind::{Kind, Limit, Member, Shape, ShapeId, Shapes, Typed};
pub use phrase::{Phrase, PhraseError, phrase, phrase_kinds};
