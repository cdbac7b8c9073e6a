//! Saltmarsh Harbour: a small harbour that lets berths, as a service.
//!
//! It comes in two states. `before` goes wrong in the ways that services do, each of them written down where
//! it happens with the words 'before:'; `after` is fixed, with one thing still wrong (`routes`: vessels
//! report one invalid field at a time) and one success that the change broke (a berth by itself has lost
//! its depth). All is in memory, and the same requests in the same order get the same responses, but for
//! the clock.
//!
//! [`Harbour::answer`] is the service itself, without any network; [`serve`] puts it on a socket.
#![forbid(unsafe_code)]
#![deny(missing_docs)]

mod message;
mod problem;
mod routes;
mod rules;
mod serve;
mod service;
mod store;

pub use message::{Fate, HarbourRequest, Reply};
pub use serve::serve;
pub use service::{Edition, Harbour, TOKEN};
