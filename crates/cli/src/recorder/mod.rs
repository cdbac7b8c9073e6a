//! What `record` does beside forwarding: where it listens, what it writes down, and what it says meanwhile.

mod deadline;
mod live_screen;
mod notices;
mod reporter;
mod services;

pub(crate) use deadline::Deadline;
pub(crate) use live_screen::LiveScreen;
pub(crate) use notices::Notices;
pub(crate) use reporter::LiveReporter;
pub(crate) use services::{ListeningService, greeting, listening, services, started};
