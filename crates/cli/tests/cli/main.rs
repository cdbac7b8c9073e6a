//! Drives the built program on files in a temporary folder.

mod bad_input;
mod check;
mod contract;
mod demo;
mod docs;
mod explain;
mod har;
mod harness;
