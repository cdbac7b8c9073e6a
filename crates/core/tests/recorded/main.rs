//! What is found out from recordings alone, against recordings of which the truth is known.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    reason = "a test that cannot go on has failed"
)]

mod make;
mod pairs;
mod properties;
mod shapes;
mod templates;
