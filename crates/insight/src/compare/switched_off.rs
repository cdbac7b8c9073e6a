//! What a contract has switched off, and so is no difference either.

use std::collections::BTreeSet;

use faithful_clerk_check::clauses::index_of;
use faithful_clerk_contract::{ErrorContract, SeverityOverride};
use faithful_clerk_model::finding::DisclosureKind;

/// Kinds of disclosures, each with the clause about it.
const DISCLOSURES: [(DisclosureKind, &str); 9] = [
    (DisclosureKind::StackTrace, "disclosure.stack-trace"),
    (DisclosureKind::DebugPage, "disclosure.debug-page"),
    (DisclosureKind::Secret, "disclosure.secret"),
    (DisclosureKind::Database, "disclosure.database"),
    (DisclosureKind::Environment, "disclosure.environment"),
    (DisclosureKind::FilePath, "disclosure.file-path"),
    (DisclosureKind::CodeName, "disclosure.code-name"),
    (DisclosureKind::InternalHost, "disclosure.network"),
    (DisclosureKind::Version, "disclosure.version"),
];

/// Header fields that a clause asks for.
const HEADERS: [(&str, &str); 6] = [
    ("allow", "header.allow"),
    ("www-authenticate", "header.challenge"),
    ("proxy-authenticate", "header.challenge"),
    ("retry-after", "header.retry-after"),
    ("upgrade", "header.upgrade"),
    ("content-language", "language.labelled"),
];

/// What is not compared, since a clause about it is off.
#[derive(Debug, Clone, Default)]
pub(super) struct SwitchedOff {
    /// What a response discloses.
    pub(super) disclosures: BTreeSet<DisclosureKind>,
    /// Header fields, by name in lower case.
    pub(super) headers: BTreeSet<&'static str>,
    /// Which invalid fields are reported.
    pub(super) reported_fields: bool,
    /// Is there an error in a success?
    pub(super) embedded_error: bool,
    /// The media type of an error.
    pub(super) error_media: bool,
}

impl SwitchedOff {
    /// What a contract switches off.
    pub(super) fn by(contract: &ErrorContract) -> Self {
        if contract.severities.is_empty() {
            return Self::default();
        }
        let is_off = |clause: &str| {
            let found = index_of(clause).and_then(|at| contract.severity_override(at));
            matches!(found, Some(SeverityOverride::Off))
        };
        let disclosures = DISCLOSURES.into_iter().filter(|(_, clause)| is_off(clause));
        let headers = HEADERS.into_iter().filter(|(_, clause)| is_off(clause));
        Self {
            disclosures: disclosures.map(|(kind, _)| kind).collect(),
            headers: headers.map(|(name, _)| name).collect(),
            reported_fields: is_off("validation.complete"),
            embedded_error: is_off("success.no-error-inside"),
            error_media: is_off("media.declared"),
        }
    }
}
