use crate::classify::{Classified, ReportedField};
use crate::clauses::contracts::BARE;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{ObservedValue, Severity, Subject};
use faithful_clerk_model::json::pointer::join;

pub(super) static CLAUSE: Clause = Clause {
    name: "shape.one-naming-style",
    statement: "The names of members have one style in all errors.",
    basis: &[Basis::rfc(9457, "3.2")],
    severity: Severity::Note,
    applies_to: AppliesTo::Errors,
    reason: "Two naming styles mean that two layers write errors, and callers can't remember which uses which.",
    fix: "Set the naming style once, where bodies are written.",
    check,
    met: &[Example::met(
        "one style twice",
        "GET /v1/vessels/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"error_text":"no vessel"}"#,
    )
    .under(BARE)
    .beside(&[(
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"error_text":"no berth","berth_id":"Z-99"}"#,
    )])],
    broken: &[Example::broken(
        "another style",
        "GET /v1/vessels/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"errorText":"no vessel"}"#,
        &[("body /errorText", "camelCase")],
    )
    .under(BARE)
    .beside(&[(
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"error_text":"no berth","berth_id":"Z-99"}"#,
    )])],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(members) = classified.members() else { return ClauseOutcome::NotApplicable };
    let mut told: Vec<&str> = Vec::new();
    for name in members.keys() {
        let Some(style) = style(name) else { continue };
        let is_agreed =
            classified.expected_shape().is_some_and(|shape| shape.member(name).is_some());
        let is_named = |entry: &ReportedField| entry.location.as_deref() == Some(name.as_str());
        // Each style once a response, so that long responses do not count for more.
        if !is_agreed
            && !classified.reported_fields().iter().any(is_named)
            && !told.contains(&style)
        {
            told.push(style);
            let value = ObservedValue::Style(style.to_owned());
            findings.compare(Subject::Errors, value, Location::Pointer(join("", name)));
        }
    }
    ClauseOutcome::NotApplicable
}

/// The style of a name; one word in small letters has none of its own.
fn style(name: &str) -> Option<&'static str> {
    let (mut upper, mut lower, mut underscore, mut hyphen) = (false, false, false, false);
    for byte in name.bytes() {
        match byte {
            b'A'..=b'Z' => upper = true,
            b'a'..=b'z' => lower = true,
            b'_' => underscore = true,
            b'-' => hyphen = true,
            b'0'..=b'9' => {}
            _ => return None,
        }
    }
    if !upper && !lower {
        return None;
    }
    match (underscore, hyphen) {
        (true, false) if !upper => Some("snake_case"),
        (false, true) if !upper => Some("kebab-case"),
        (false, false) if upper && lower => {
            let first = name.starts_with(|c: char| c.is_ascii_uppercase());
            Some(if first { "PascalCase" } else { "camelCase" })
        }
        _ => None,
    }
}
