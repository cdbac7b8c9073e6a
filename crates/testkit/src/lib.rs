//! Made-up traffic of Saltmarsh Harbour in any amount, for benchmarks and tests of size.
//!
//! The same seed gives the same bytes. Nothing here is a recording of anybody: hosts end in `.example`, and
//! ids, names and times come out of a small generator of numbers.

#![forbid(unsafe_code)]
#![deny(missing_docs)]

mod chance;
mod described;
mod entry;
mod exchange;
mod stream;

pub use described::{DescribedExchange, DescribedService, DescribedVersion};
pub use stream::{Mixture, Mould, Traffic, TrafficFormat};
