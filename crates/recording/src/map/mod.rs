//! Lines of JSON that are no entries of HAR: logs, spans, rows of a table. A map, a small TOML, says by JSON Pointers
//! where in a line the parts of an exchange stand.
//!
//! What a map does not name was not recorded, and so was what is `null` or not there; that is never taken for 'not sent'.
//! Only a method, a URL and a status are needed: a line without one is unreadable.

mod exchange;
mod fields;
mod file;
mod pointers;
mod values;

pub use file::LineMap;
