//! Every form of recording, whole, in pieces and broken, always gives the same exchanges.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    reason = "a test that cannot go on has failed"
)]

mod broken;
mod corpus;
mod look;
mod round;
mod whole;
