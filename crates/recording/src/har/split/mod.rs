//! Finds the entries of a HAR file (`log.entries`) without parsing them.
//!
//! Only strings and brackets are scanned, so it costs little, needs no recursion, and the depth of nesting does not
//! matter. Members may come in any order. It hands out batches of whole entries; the beginning of an entry that the batch
//! did not reach is carried over. An entry whose brackets or quotation marks do not match is reported, and splitting goes on
//! where the next one starts.

mod document;
mod resync;
mod splitter;
#[cfg(test)]
mod tests;

pub use splitter::HarSplitter;
