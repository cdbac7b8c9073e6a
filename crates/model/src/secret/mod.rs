//! Secrets in recordings: what is one, by its name or by its form, and what is put in its place.
//!
//! `names` and `spans` know; `mask` hides them in everything that leaves the core, and the crate `faithful-clerk-scrub`
//! replaces them in a copy of a recording.

pub mod mask;
mod names;
mod random;
mod rules;
mod signs;
mod spans;
mod values;

pub use names::{is_secret_header, is_secret_name};
pub use random::{RandomForm, SHORTEST_RANDOM, random_spans};
pub use rules::SecretRules;
pub use signs::TextSigns;
pub use spans::{SecretKind, SecretSpan, spans};
pub use values::{can_be_secret, looks_random};
