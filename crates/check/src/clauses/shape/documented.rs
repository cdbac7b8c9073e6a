//! What a description documents, where the contract declares no shape.

use serde_json::Value;

use crate::classify::Classified;
use crate::clauses::{ClauseOutcome, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::Because;

/// Compares a body with the schema that a description documents for it, if any.
pub(in crate::clauses) fn compare_with_documented(
    classified: &Classified<'_>,
    body: &Value,
    findings: &mut Findings,
) -> ClauseOutcome {
    let Some(schema) = classified.documented_schema() else { return ClauseOutcome::NotApplicable };
    if !schema.is_usable() {
        return ClauseOutcome::NotChecked;
    }
    for mismatch in schema.mismatches(body) {
        let location = Location::Pointer(mismatch.pointer);
        findings.add(location, mismatch.expected, mismatch.got).because(Because::Description);
    }
    ClauseOutcome::Met
}
