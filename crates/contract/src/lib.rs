//! The error contract: its language, its model, its routes.
//!
//! [`ErrorContract::parse`] parses a text and gives the contract, if one can be made of it, and every diagnostic. The language
//! itself is described in `docs/contract.md`.

mod cases;
mod credential_scheme;
mod diagnostics;
mod documented;
mod endpoint_row;
mod envelope;
mod key_docs;
mod member_rules;
mod model;
mod nearest;
mod openapi;
mod parse;
mod path_pattern;
mod places;
mod public_texts;
mod region;
mod router;
mod rules;
mod servers;
mod signature;
mod toml_text;
mod url_parts;
mod validation_errors;

pub use credential_scheme::CredentialScheme;
pub use diagnostics::{Diagnostic, DiagnosticSeverity};
pub use documented::{DocumentedHeader, DocumentedResponse, DocumentedResponses};
pub use endpoint_row::EndpointRow;
pub use envelope::{ApplicationCodes, Envelope, LANGUAGE, LocationSource, ViolationPointers};
pub use key_docs::{CONTRACT_SCHEMA, KeyDescription, key_descriptions};
pub use member_rules::{MemberRelation, MemberRule};
pub use model::{
    Authentication, Case, CaseSensitivity, Condition, DeclaredType, DisclosureScope,
    DocumentedRanges, Endpoint, EndpointId, ErrorContract, ErrorRule, Expectation, Fault,
    FaultClass, FaultId, FaultOrigin, KeyLine, KeyLines, PathRules, Scope, SeverityOverride,
    TrailingSlash, Waiver, WaiverValidity,
};
pub use nearest::nearest;
pub use openapi::{METHODS, OTHER_METHODS};
pub use parse::{ParsedContract, contract_keys};
pub use path_pattern::PathPattern;
pub use region::{ErrorStyle, Region, RegionId};
pub use router::{Router, TemplateSegment};
pub use rules::{
    BodyPresence, BodyRules, ExtraParameters, HeaderRequirement, HeaderRule, Parameter,
    ParameterLocation, ParameterRule, PartialSuccess, Rules,
};
pub use servers::{RequestPath, Server, ServerDifference, plain_origin, url_start};
pub use signature::EndpointSignature;
pub use toml_text::{key, plain_name, quoted};
pub use validation_errors::{
    ChoicePointer, DuplicateRule, LocationSpelling, PointerForm, PointerTarget, ValidationErrorRule,
};
