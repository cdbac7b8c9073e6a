//! Findings: one clause broken at one location of one exchange, as data.
//!
//! What was expected, what was got and why it is known are values of enums ([`Expected`], [`Got`],
//! [`Because`], [`NotChecked`]); beside each variant stands its wording, and nowhere else. So a reworded message is no
//! other finding: outputs show the words, ledgers keep the values, and fingerprints are made of them.

mod because;
mod detail;
mod disclosure_kind;
mod expected;
mod got;
mod mismatch_kind;
mod observation;
mod parts;
mod record;
mod severity;
mod words;

pub use because::{Because, NotChecked};
pub use detail::Detail;
pub use disclosure_kind::DisclosureKind;
pub use expected::{Expected, Negation};
pub use got::Got;
pub use mismatch_kind::MismatchKind;
pub use observation::{ObservedValue, Subject};
pub use parts::{
    BodyForm, Difference, EntryOutcome, FaultStatus, FaultText, FieldRef, InvalidField,
    InvalidParameterRef, Measured, Pointer, Recorded, SchemaRule,
};
pub use record::Finding;
pub use severity::Severity;
