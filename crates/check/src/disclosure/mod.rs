//! What an answer tells that is nobody's business: texts that only come from the inside of a service.
//!
//! Every pattern has to be certain by itself. A word such as 'table' or 'path', a URL that is public, an
//! id, or a sentence that only sounds technical are none; and what the caller sent and gets back is none.

mod database;
mod insides;
mod network;
mod patterns;
mod scan;
mod secrets;
mod sort;
mod traces;

pub use scan::{Disclosure, disclosed, is_looked_at};
pub use sort::DisclosureKind;
