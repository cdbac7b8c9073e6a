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
mod openapi;
mod places;
mod quote;
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

pub use body::{BodyPresence, BodyRules};
pub use codes::{ApplicationCodes, Envelope, LocationSource, ViolationPointers};
pub use documented::{DocumentedResponse, DocumentedResponses};
pub use mistake::{Diagnostic, DiagnosticSeverity};
pub use model::{
    Authentication, Case, CaseSensitivity, Condition, Contract, DeclaredType, DisclosureScope,
    Endpoint, EndpointId, ErrorRule, Expectation, Fault, FaultClass, FaultId, PathRules, Scope,
    SeverityOverride, TrailingSlash, Waiver, WaiverValidity,
};
pub use nearest::nearest;
pub use places::{ChoicePointer, PointerForm, PointerTarget, ValidationErrorRule};
pub use quote::{key, quoted};
pub use read::ParsedContract;
pub use router::{Router, TemplateSegment};
pub use row::EndpointRow;
pub use rules::{
    HeaderRequirement, HeaderRule, Parameter, ParameterLocation, ParameterRule, PartialSuccess,
    Rules,
};
pub use server::{RequestPath, Server};
pub use split::encoded;
