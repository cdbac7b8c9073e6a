//! Endpoints from an OpenAPI description (3.0, 3.1 and 3.2).
//!
//! A description is read for what a check needs: paths and methods, parameters, bodies, security, and the
//! responses that are documented. What is not understood is a warning, each kind of it once, and the rest is
//! used all the same.

mod description;
mod faults;
mod lines;
mod operation;
mod parameters;
mod responses;
mod servers;

pub(crate) use description::{Description, Operation};
pub use description::{METHODS, OTHER_METHODS};
pub(crate) use faults::documented_faults;
pub(crate) use lines::PathLines;
