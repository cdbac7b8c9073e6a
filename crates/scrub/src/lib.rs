//! Scrubs recordings: a copy in which every secret is replaced by a pseudonym, and all else is to the byte as
//! it was.
//!
//! A pseudonym is as long as its secret and made of letters and digits where the secret has some, so that
//! lengths, limits and forms stay what they were, and with them the findings. The same secret gets the
//! same pseudonym wherever it stands, in whatever encoding: pseudonyms come out of the secret and a key (HMAC,
//! RFC 2104), and without the key nobody can go the way back by trying.
//!
//! There are two passes over a recording. The first collects what is a secret, and replaces it where it shows; the second finds the
//! same texts where nothing tells that they are secrets. It only reads again what may have them in it: the rest is what the
//! first pass made of it.

mod blank;
mod entry;
mod exchange;
mod first_copy;
mod json;
mod known;
mod lanes;
mod layers;
mod markup;
mod memory;
mod message;
mod pass;
mod personal;
mod pseudonym;
mod replacements;
mod report;
mod scrubber;
mod tape;
mod text;
mod wire;

pub use blank::{BETWEEN, BlankReason, BlankedPlaces, Blanks};
pub use exchange::{hidden_body, secrets_in};
pub use pass::{collect, replace};
pub use pseudonym::ScrubKey;
pub use report::{PlaceCounts, ScrubReport};
pub use scrubber::Scrubber;
