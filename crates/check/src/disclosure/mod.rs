//! Internal details that a response discloses: stack traces, SQL, file paths, versions, secrets.
//!
//! Every pattern has to be certain by itself. A word such as 'table' or 'path', a public URL, an id, or a sentence
//! that only sounds technical is no disclosure; nor is anything that the caller sent and gets back.

mod database;
mod debug_pages;
mod insides;
mod network;
mod pattern;
mod patterns;
mod scan;
mod secrets;
mod structures;
mod traces;

pub use faithful_clerk_model::finding::DisclosureKind;
pub use scan::{Disclosure, disclosed};
