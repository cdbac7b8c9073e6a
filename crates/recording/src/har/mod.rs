//! HAR 1.2 files: split into entries, each entry parsed into an exchange.

mod entry;
mod exchange;
mod parser;
mod split;

pub use exchange::exchange;
#[cfg(fuzzing)]
pub use exchange::parsers_agree;
pub use split::HarSplitter;
