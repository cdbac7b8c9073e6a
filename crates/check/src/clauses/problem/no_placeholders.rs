use serde_json::Value;

use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::json::MemberLookup as _;

pub(super) static CLAUSE: Clause = Clause {
    name: "problem.no-placeholders",
    statement: "No text has an unfilled placeholder.",
    basis: &[Basis::rfc(9457, "3.1.4")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Problems,
    reason: "A name in braces shows the caller a template instead of the error.",
    fix: "Pass the template its values, and check for one with a different name.",
    check,
    met: &[Example::met(
        "a text with its values",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"Nothing at /berths/{id} with the id Z-99"}"#,
    )],
    broken: &[Example::broken(
        "a placeholder in the detail",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"No berth has the id {berth_id}."}"#,
        &[("body /detail", "\"No berth has the id {berth_id}.\"")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(members) = classified.members() else {
        return if classified.body().json().is_some() {
            ClauseOutcome::NotApplicable
        } else {
            ClauseOutcome::NotChecked
        };
    };
    for name in ["title", "detail"] {
        let Some(Value::String(text)) = members.member(name) else { continue };
        if is_unfilled(text) {
            let location = Location::Pointer(format!("/{name}"));
            findings.add(location, Expected::FilledText, Got::quoted(text));
        }
    }
    ClauseOutcome::Met
}

/// Has the text `{name}`, `${name}` or `%s` in it? A path template is meant as it stands.
fn is_unfilled(text: &str) -> bool {
    if memchr::memchr2(b'{', b'%', text.as_bytes()).is_none() {
        return false;
    }
    let is_name = |name: &str, before: &str| {
        let is_number = name.bytes().all(|byte| byte.is_ascii_digit());
        // `[A-Z]{2}` is a quantifier; `{0}` at the start of a word stands for an argument.
        let starts_word =
            before.chars().next_back().is_none_or(|c| c.is_whitespace() || "\"'`(:$".contains(c));
        !name.is_empty()
            && name.len() <= 40
            && name.bytes().all(|b| b.is_ascii_alphanumeric() || b"_.-".contains(&b))
            && (!is_number || starts_word)
    };
    let mut rest = text;
    while let Some((before, behind)) = rest.split_once('{') {
        let name = behind.split('}').next().unwrap_or_default().trim_matches(['{', ' ']);
        // Of a path template, the segment may have text around its parameter.
        let word = before.rsplit(char::is_whitespace).next().unwrap_or_default();
        let in_path = word.contains('/');
        if behind.contains('}') && is_name(name, before) && !in_path {
            return true;
        }
        rest = behind;
    }
    text.split_whitespace()
        .any(|word| matches!(word.trim_matches(['.', ',', '"', '\'']), "%s" | "%d" | "%v"))
}
