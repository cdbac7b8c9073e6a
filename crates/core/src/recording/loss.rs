//! What could not be read.

/// A part of a recording that could not be read.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub struct Loss {
    /// Which recording of the run, from 0.
    pub recording: u32,
    /// Where it stands, in bytes from the start of the file.
    pub offset: u64,
    /// The entry's number, from 1, where the loss is an entry.
    pub number: Option<u64>,
    /// What was expected there and what came.
    pub reason: String,
}
