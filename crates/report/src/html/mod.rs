//! Pages for a browser: one file each, which loads nothing, and can be read without scripts.
//!
//! Text comes into a page through the templates alone, and they escape everything: what has a meaning in
//! HTML, and what would harm a reader (control characters, changes of direction). The policy in a page's
//! head lets nothing load, and lets only the page's own style and script in, by their hashes.

mod blocks;
mod check;
mod document;
mod exhibit;
mod model;

pub use check::check;
pub(crate) use document::{document, render, render_chapters};
pub use exhibit::{Exhibit, ROOM, wanted};
pub use minijinja::Error;
