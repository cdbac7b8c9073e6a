//! Endpoints from an OpenAPI description (3.0 and 3.1).
//!
//! A description is read for what a check needs: paths and methods, parameters, bodies, security, and the
//! answers that are documented. What is not understood is a notice, each sort of it once, and the rest is
//! used all the same.

mod answers;
mod description;
mod lines;
mod operation;
mod parameters;

pub(crate) use description::{Description, Operation};
pub(crate) use lines::PathLines;
