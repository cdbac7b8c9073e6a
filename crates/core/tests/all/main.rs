//! The computation as a whole, crate by crate and together: one binary, a module a theme.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::needless_pass_by_value,
    clippy::print_stdout,
    missing_docs,
    reason = "a test that cannot go on has failed, and its helpers are for reading"
)]

mod agreed;
mod agreements;
mod catalogue;
mod contract;
mod corpus;
mod description;
mod disclosure;
mod door;
mod envelopes;
mod forms;
mod json_api;
mod judging;
mod language;
mod ledgers;
mod like;
mod notices;
mod partial;
mod probing;
mod properties;
mod recorded;
mod regions;
mod rules;
mod structure;
mod verified;
