//! What is found out from recordings alone, against recordings of which the truth is known.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::needless_pass_by_value,
    reason = "a test that cannot go on has failed, and its helpers are for reading"
)]

mod make;
mod pairs;
mod properties;
mod shapes;
mod templates;
