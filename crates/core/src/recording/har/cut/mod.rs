//! Finds the entries of a HAR file (`log.entries`) without reading them.
//!
//! The cutter follows strings and brackets only, so it costs little, needs no recursion, and the
//! depth of nesting in a file does not matter. Members may come in any order. It hands out batches
//! of whole entries; the beginning of an entry that the batch did not reach is carried over. An entry
//! whose brackets or quotes do not match is named, and reading goes on where the next one starts.

mod cutter;
mod leap;
mod regain;
#[cfg(test)]
mod tests;
mod walk;

pub use cutter::Cutter;
