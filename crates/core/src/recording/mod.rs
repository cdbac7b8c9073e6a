//! Recordings: bytes in, exchanges out, one at a time.
//!
//! A recording is never held as a whole. [`Cutter`] finds where each entry starts and ends and hands
//! entries over in batches; [`har::exchange`] reads one entry. What can't be read is a [`Loss`], and
//! the rest goes on.

mod cut;
pub mod har;
mod loss;

pub use cut::{Batch, Cutter, LARGEST_ENTRY};
pub use loss::{Loss, Losses, MOST_LOSSES};
