//! A service that an OpenAPI description describes, in any number of operations, and exchanges with what is true of them by
//! the description.

mod exchanges;
mod members;
mod service;

pub use exchanges::DescribedExchange;
pub use service::{DescribedService, DescribedVersion};
