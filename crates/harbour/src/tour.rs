//! The requests of the demo.
