use crate::classify::{Classified, ParsedBody};
use crate::clauses::example::NO_SUCH_BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, NotChecked, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "body.present",
    statement: "An error response has a body that explains the error.",
    basis: &[Basis::rfc(9110, "15.5"), Basis::rfc(9110, "15.6"), Basis::Contract("error")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Errors,
    reason: "A bare status leaves the caller guessing which of its meanings applies, and whether a retry would help.",
    fix: "Write the body where the status is set. Empty error responses often come from a layer in front of the service's code: authentication, the router, a gateway.",
    check,
    met: &[Example::met("an error with a body", "GET /v1/berths/Z-99", NO_SUCH_BERTH)],
    broken: &[Example::broken(
        "an error without a body",
        "GET /v1/berths/Z-99",
        "HTTP/1.1 404 Not Found\nContent-Length: 0",
        &[("the body", "no body")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    if classified.exchange.request.method == "HEAD" {
        return ClauseOutcome::NotApplicable;
    }
    match classified.body() {
        ParsedBody::Empty => {
            let error = &classified.style().error;
            let (expected, weight) =
                match (classified.expected_media(), classified.expected_shape()) {
                    (Some(media), _) => {
                        (Expected::BodyOfMediaType(media.to_owned()), Severity::Breach)
                    }
                    (None, Some(shape)) => {
                        (Expected::BodyOfShape(shape.name.clone()), Severity::Breach)
                    }
                    (None, None) => (Expected::ExplanatoryBody, CLAUSE.severity),
                };
            let found = findings.add(Location::Body, expected, Got::NoBody);
            found.severity(weight);
            if error.media.is_some() || error.shape.is_some() {
                found.not_checked(NotChecked::MediaTypeAndMembers);
            }
            ClauseOutcome::Met
        }
        ParsedBody::Unknown(_) => ClauseOutcome::NotChecked,
        _ => ClauseOutcome::Met,
    }
}
