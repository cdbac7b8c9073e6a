use crate::classify::{Classified, ParsedBody, TextEncoding};
use crate::clauses::example::NO_SUCH_BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "media.utf-8",
    statement: "JSON is written in UTF-8, without a byte order mark.",
    basis: &[Basis::rfc(8259, "8.1")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Errors,
    reason: "A strict parser rejects the mark, and any other encoding as broken text.",
    fix: "Write UTF-8, and check for a template file that was saved with a byte order mark.",
    check,
    met: &[Example::met("UTF-8 without a mark", "GET /v1/berths/Z-99", NO_SUCH_BERTH)],
    broken: &[Example::broken(
        "a byte order mark",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

﻿{"title":"There is no such berth","type":"https://harbour.example/faults/no-such-berth"}"#,
        &[("the body", "a byte order mark")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    match classified.body() {
        ParsedBody::Json(_) | ParsedBody::BrokenJson { .. } => {}
        ParsedBody::Unknown(_) => return ClauseOutcome::NotChecked,
        _ => return ClauseOutcome::NotApplicable,
    }
    match classified.text_encoding() {
        TextEncoding::Utf8 => {}
        TextEncoding::Utf8WithMark => {
            findings.add(Location::Body, Expected::Utf8WithoutMark, Got::ByteOrderMark);
        }
        TextEncoding::Other => {
            findings.add(Location::Body, Expected::Utf8, Got::NotUtf8);
        }
    }
    ClauseOutcome::Met
}
