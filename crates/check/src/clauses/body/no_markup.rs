use regex::Regex;
use std::sync::LazyLock;

use super::texts::{Text, texts};
use crate::classify::{Classified, ParsedBody};
use crate::clauses::contracts::BARE;
use crate::clauses::example::NO_SUCH_BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Recorded, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "body.no-markup",
    statement: "Texts for people have no markup.",
    basis: &[Basis::rfc(9457, "3.1.4")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Errors,
    reason: "Whoever shows the text shows the tags, or, worse, lets them act.",
    fix: "Send plain text. If a page is wanted, send one as text/html, to those who accept it.",
    check,
    met: &[Example::met("plain text", "GET /v1/berths/Z-99", NO_SUCH_BERTH)],
    broken: &[Example::broken(
        "tags in a message",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"message":"<p>There is no berth <b>Z-99</b>.</p>"}"#,
        &[("body /message", "markup: <p>")],
    )
    .under(BARE)],
};

/// A tag that only markup has; `<name>` and `<=` are none.
static TAG: LazyLock<Option<Regex>> = LazyLock::new(|| {
    Regex::new(r"(?i)</?(?:p|br|b|i|u|strong|em|ul|ol|li|h[1-6]|div|span|pre|code|table|t[drh]|html|body|font|a href=[^<>]*)(?: [^<>]*)?/?>").ok()
});

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let body = match classified.body() {
        ParsedBody::Json(body) => body,
        ParsedBody::Unknown(_) => return ClauseOutcome::NotChecked,
        _ => return ClauseOutcome::NotApplicable,
    };
    let tag = |text: &Text<'_>| {
        let found = TAG.as_ref().filter(|_| text.value.contains('<'))?.find(text.value)?;
        Some((text.pointer.clone(), found.as_str().to_owned()))
    };
    if let Some((pointer, tag)) = texts(classified, body).iter().find_map(tag) {
        let got = Got::Markup(Recorded::text(tag));
        findings.add(Location::Pointer(pointer), Expected::TextWithoutMarkup, got);
    }
    ClauseOutcome::Met
}
