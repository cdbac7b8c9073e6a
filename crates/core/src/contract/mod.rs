//! The error contract: its language, its mistakes, its routes.
//!
//! [`Contract::read`] reads a text and gives the contract, if there is one to be had, and every
//! mistake in the text. What the language has is described in `docs/contract.md`.

mod endpoint;
mod fault;
mod mend;
mod mistake;
mod model;
mod nearest;
mod read;
mod router;
mod server;
mod shapes;
mod table;

pub use mistake::{Gravity, Mistake};
pub use model::{
    Contract, Endpoint, EndpointId, ErrorRule, Fault, FaultClass, FaultId, Needs, Slash, Weighing,
};
pub use nearest::nearest;
pub use read::Reading;
pub use router::{Route, Router};
pub use server::{Server, Target};
