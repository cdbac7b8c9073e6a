//! Drives the built program on files in a temporary folder.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    reason = "a test that cannot go on has failed"
)]

mod bad_input;
mod check;
mod contract;
mod demo;
mod docs;
mod dunlin;
mod explain;
mod har;
mod harness;
mod styles;
