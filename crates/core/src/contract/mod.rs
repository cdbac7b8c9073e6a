//! The error contract: its language, its mistakes, its routes.
//!
//! [`Contract::read`] reads a text and gives the contract, if there is one to be had, and every
//! mistake in the text. What the language has is described in `docs/contract.md`.

mod body;
mod case;
mod codes;
mod digest;
mod documented;
mod endpoint;
mod fault;
mod group;
mod known;
mod mend;
mod mistake;
mod model;
mod nearest;
mod places;
mod read;
mod router;
mod row;
mod rules;
mod rules_read;
mod server;
mod service;
mod shapes;
mod split;
mod table;
mod waiver;

pub use body::{BodyRules, Required};
pub use codes::{Codes, FieldsAt, LocationAt, ReadingRule};
pub use documented::{Documented, DocumentedAnswer};
pub use mistake::{Gravity, Mistake};
pub use model::{
    Case, Condition, Contract, Disclosures, Endpoint, EndpointId, ErrorRule, Expect, Fault,
    FaultClass, FaultId, Letters, Needs, Paths, Phrased, Scope, Slash, Validity, Waiver, Weighing,
};
pub use nearest::nearest;
pub use places::{Choice, Named, PlaceRule, PointerForm};
pub use read::Reading;
pub use router::{Router, Segment};
pub use row::Row;
pub use rules::{HeaderAsks, HeaderRule, In, Parameter, ParameterRule, Partial, Rules};
pub use server::{Server, Target};
pub use split::encoded;
