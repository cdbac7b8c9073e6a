//! What everything speaks of: exchanges and their headers, JSON values and pointers, media types, status codes, secrets,
//! situations and findings.
//!
//! Computation only: no files, no clock, no network. An [`exchange::Exchange`] borrows from the recording that it was read
//! from; [`json::Json`] is what a body turns out to be; a [`finding::Finding`] is one clause broken at one location.

pub mod address;
pub mod coding;
pub mod exchange;
pub mod finding;
pub mod headers;
pub mod intention;
pub mod invisible;
pub mod json;
pub mod media;
pub mod method;
pub mod percent;
pub mod secret;
pub mod situation;
pub mod snippet;
pub mod stable_hash;
pub mod status;
