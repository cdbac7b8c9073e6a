use crate::classify::{Classified, ParsedBody};
use crate::clauses::contracts::BARE;
use crate::clauses::example::NO_SUCH_BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "media.present",
    statement: "A response with content has a Content-Type.",
    basis: &[Basis::rfc(9110, "8.3")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Errors,
    reason: "Without a media type the receiver has to guess, and may take text for a page.",
    fix: "Set Content-Type wherever a body is written.",
    check,
    met: &[Example::met("content with its type", "GET /v1/berths/Z-99", NO_SUCH_BERTH).under(BARE)],
    broken: &[Example::broken(
        "content without a type",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found

no such berth"#,
        &[("header Content-Type", "no such header")],
    )
    .under(BARE)],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    // Where a media type is declared, its absence is `media.declared`'s.
    if classified.expected_media().is_some() || matches!(classified.body(), ParsedBody::Empty) {
        return ClauseOutcome::NotApplicable;
    }
    if classified.media().is_none() {
        let location = Location::header("Content-Type");
        findings.add(location, Expected::ContentMediaType, Got::NoHeader);
    }
    ClauseOutcome::Met
}
