//! Every form of recording, whole, in pieces and broken, always gives the same exchanges.

mod broken;
mod corpus;
mod look;
mod maps;
mod round;
mod whole;
