//! What is different between two responses to the same request, and whether that is better or worse.

use super::pair::Closeness;
use super::plan::ComparisonKind;
use super::response_summary::{ComparedBody, ComparedResponse, ResponseSummary};
use faithful_clerk_model::finding::Severity;
use faithful_clerk_model::media;
use faithful_clerk_shape::{DifferenceKind, ShapeDifference, differences};

/// How a pair stands. The order is that of importance.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Grade {
    /// Something got worse, even if something else was fixed.
    Regressed,
    /// Something got better, and nothing worse.
    Fixed,
    /// Something is another, neither better nor worse.
    Changed,
    /// Only what varies by nature is different.
    Unchanged,
}

impl Grade {
    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Regressed => "regressed",
            Self::Fixed => "fixed",
            Self::Changed => "changed",
            Self::Unchanged => "unchanged",
        }
    }
}

/// One thing that is different.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Change {
    /// Better, worse, or only another.
    pub grade: Grade,
    /// What it is, in words that stand behind an endpoint's name.
    pub what: String,
    /// A place in the body or a header's name that the words end with, where there is one.
    pub location: Option<String>,
    /// Words behind the place.
    pub rest: String,
}

impl Change {
    fn new(grade: Grade, what: impl Into<String>) -> Self {
        Self { grade, what: what.into(), location: None, rest: String::new() }
    }

    fn at(grade: Grade, what: &str, place: impl Into<String>, rest: impl Into<String>) -> Self {
        Self { grade, what: what.to_owned(), location: Some(place.into()), rest: rest.into() }
    }
}

impl Change {
    /// Is a finding of this clause, at this place, about the same thing?
    fn says(&self, clause: &str, location: &str) -> bool {
        let family = clause.split_once('.').map_or(clause, |(family, _)| family);
        if self.what.starts_with(RESPONDS) {
            return matches!(family, "status" | "situation");
        }
        match (&self.location, family) {
            (None, "media") => self.what.starts_with("is "),
            (None, "body") => self.what.ends_with("has a body") || self.what.contains(" a body"),
            (Some(name), "header") => location.eq_ignore_ascii_case(&format!("header {name}")),
            (None, "disclosure") => self.what.contains("discloses"),
            _ => false,
        }
    }

    fn at_one_time(&mut self) {
        let said = AT_ONE_TIME.iter().find(|(later, _)| self.what.starts_with(later));
        if let Some((later, said)) = said {
            self.what = self.what.replacen(later, said, 1);
        }
        if self.rest == " now" {
            self.rest.clear();
        }
    }
}

/// Everything that is different, the worst first.
pub(super) fn changes(
    before: &ResponseSummary,
    after: &ResponseSummary,
    closeness: Closeness,
    between: ComparisonKind,
) -> Vec<Change> {
    let mut found = match (before, after) {
        (ResponseSummary::None, ResponseSummary::None)
        | (ResponseSummary::NotKept, _)
        | (_, ResponseSummary::NotKept) => Vec::new(),
        (ResponseSummary::None, ResponseSummary::Received(response)) => {
            // From silence to an internal failure nothing got better.
            let is_failure = class(response.status) == 2;
            let grade = if is_failure { Grade::Changed } else { Grade::Fixed };
            vec![Change::new(grade, "gets a response now")]
        }
        (ResponseSummary::Received(_), ResponseSummary::None) => {
            vec![Change::new(Grade::Regressed, "no longer gets a response")]
        }
        (ResponseSummary::Received(before), ResponseSummary::Received(after)) => {
            both(before, after, closeness, between)
        }
    };
    if between != ComparisonKind::Versions {
        found.iter_mut().for_each(Change::at_one_time);
    }
    found.sort();
    found.dedup();
    found
}

/// How a change of the status begins.
const RESPONDS: &str = "responds";

/// How it is said where neither recording is the later one.
const AT_ONE_TIME: [(&str, &str); 9] = [
    ("no longer has a body", "has no body"),
    ("no longer has the header", "does not have the header"),
    ("no longer has an error in a success", "has no error in the success"),
    ("no longer has", "does not have"),
    ("no longer gets a response", "gets no response"),
    ("gets a response now", "gets a response"),
    ("has a body now", "has a body"),
    ("no longer names", "does not name"),
    ("no longer says", "does not say"),
];

fn both(
    before: &ComparedResponse,
    after: &ComparedResponse,
    closeness: Closeness,
    between: ComparisonKind,
) -> Vec<Change> {
    let mut found = Vec::new();
    status(before, after, between, &mut found);
    let same_class = class(before.status) == class(after.status);
    if same_class {
        media_types(before, after, &mut found);
        bodies(before, after, between, &mut found);
    }
    if same_class && closeness != Closeness::Kin {
        said(before, after, &mut found);
    }
    if closeness <= Closeness::Linked {
        named(before, after, &mut found);
    }
    headers(before, after, same_class, &mut found);
    disclosed(before, after, &mut found);
    if between == ComparisonKind::Versions && before.is_wrong() && !after.is_wrong() {
        fixed_by_contract(after, &mut found);
    }
    findings(before, after, &mut found);
    found
}

/// By the contract the response was wrong and is right: its status is, and no part of an error is worse. What a success has
/// lost, contracts seldom tell.
fn fixed_by_contract(after: &ComparedResponse, found: &mut [Change]) {
    for change in found {
        match change.grade {
            _ if change.what.starts_with(RESPONDS) => change.grade = Grade::Fixed,
            Grade::Regressed if after.is_error() => change.grade = Grade::Changed,
            _ => {}
        }
    }
}

/// Success, the caller's mistake, the service's failure.
fn class(status: u16) -> u8 {
    match status {
        0..400 => 0,
        400..500 => 1,
        500.. => 2,
    }
}

fn status(
    before: &ComparedResponse,
    after: &ComparedResponse,
    between: ComparisonKind,
    found: &mut Vec<Change>,
) {
    if before.status == after.status {
        return;
    }
    // What a contract found about the status, and finds no longer.
    let about = |outcome: &ComparedResponse| {
        outcome
            .findings
            .keys()
            .any(|(clause, _)| clause.starts_with("status.") || clause.starts_with("situation."))
    };
    let grade = match (class(before.status), class(after.status)) {
        // What one caller may do and another may not is no mistake.
        _ if between == ComparisonKind::Callers => Grade::Changed,
        _ if about(before) && !about(after) => Grade::Fixed,
        // A success with an error inside was none.
        (0, 1) if before.is_error_inside => Grade::Fixed,
        (0, 2) if before.is_error_inside => Grade::Changed,
        (one, other) if other > one => Grade::Regressed,
        (2, other) if other < 2 => Grade::Fixed,
        _ => Grade::Changed,
    };
    let what = format!("{RESPONDS} {} instead of {}", after.status, before.status);
    found.push(Change::new(grade, what));
}

fn media_types(before: &ComparedResponse, after: &ComparedResponse, found: &mut Vec<Change>) {
    let (Some(one), Some(other)) = (&before.media, &after.media) else { return };
    if one == other {
        return;
    }
    let grade = match (media::is_json(one), media::is_json(other)) {
        (true, false) => Grade::Regressed,
        (false, true) => Grade::Fixed,
        _ => Grade::Changed,
    };
    found.push(Change::new(grade, format!("is {other} instead of {one}")));
}

fn bodies(
    before: &ComparedResponse,
    after: &ComparedResponse,
    between: ComparisonKind,
    found: &mut Vec<Change>,
) {
    let is_error = before.is_error();
    let words = |body: &ComparedBody| match body {
        ComparedBody::Json(_) => "JSON",
        ComparedBody::Other(words) => words,
        ComparedBody::Empty | ComparedBody::Unknown => "nothing",
    };
    match (&before.body, &after.body) {
        (ComparedBody::Unknown, _)
        | (_, ComparedBody::Unknown)
        | (ComparedBody::Empty, ComparedBody::Empty) => {}
        (ComparedBody::Json(one), ComparedBody::Json(other)) => {
            let differences = differences(one, other);
            found.extend(differences.into_iter().map(|one| of_body(one, is_error, between)));
        }
        (ComparedBody::Other(one), ComparedBody::Other(other)) if one == other => {}
        // A response that must not have content (RFC 9110 sections 15.3.5, 15.3.6 and 15.4.5).
        (_, ComparedBody::Empty) if matches!(after.status, 204 | 205 | 304) => {
            found.push(Change::new(Grade::Fixed, "no longer has a body"));
        }
        (ComparedBody::Empty, _) if matches!(after.status, 204 | 205 | 304) => {
            found.push(Change::new(Grade::Regressed, "has a body now"));
        }
        (ComparedBody::Empty, other) => {
            let grade = if is_error { Grade::Fixed } else { Grade::Changed };
            found.push(Change::new(grade, format!("has a body now, {}", words(other))));
        }
        (_, ComparedBody::Empty) => {
            found.push(Change::new(Grade::Regressed, "no longer has a body"));
        }
        (one, other) => {
            let grade = match (one, other) {
                (ComparedBody::Json(_), _) => Grade::Regressed,
                (_, ComparedBody::Json(_)) => Grade::Fixed,
                _ => Grade::Changed,
            };
            found.push(Change::new(
                grade,
                format!("has {} for a body instead of {}", words(other), words(one)),
            ));
        }
    }
}

fn of_body(difference: ShapeDifference, is_error: bool, between: ComparisonKind) -> Change {
    let ShapeDifference { pointer: location, kind: how, usual, here } = difference;
    let worse = if is_error { Grade::Changed } else { Grade::Regressed };
    // Of two times, a member more breaks nobody; of two environments, one has it and the other has not.
    let more = if between == ComparisonKind::Versions { Grade::Changed } else { worse };
    match how {
        DifferenceKind::Missing => Change::at(worse, "no longer has", location, ""),
        DifferenceKind::Added => Change::at(more, "also has", location, ""),
        // Other items may have come, which have another optional member.
        DifferenceKind::Optional => {
            Change::at(Grade::Changed, "does not always have", location, "")
        }
        DifferenceKind::OtherKeys => {
            let rest = format!(": {here} instead of {usual}");
            Change::at(Grade::Changed, "has other members in", location, rest)
        }
        DifferenceKind::OtherType if location.is_empty() => {
            Change::new(worse, format!("has another body type: {here} instead of {usual}"))
        }
        DifferenceKind::OtherType => {
            let rest = format!(": {here} instead of {usual}");
            Change::at(worse, "has another JSON type at", location, rest)
        }
    }
}

fn said(before: &ComparedResponse, after: &ComparedResponse, found: &mut Vec<Change>) {
    for (location, one) in &before.stable {
        // The body's own status follows the status line.
        let follows = *one == before.status.to_string()
            && after.stable.get(location).is_some_and(|other| *other == after.status.to_string());
        if let Some(other) = after.stable.get(location).filter(|other| *other != one && !follows) {
            let is_number = one.parse::<u16>().is_ok() && other.parse::<u16>().is_ok();
            let agreed = *one == before.status.to_string();
            let agrees = *other == after.status.to_string();
            let grade = match (agreed, agrees) {
                (false, true) if is_number => Grade::Fixed,
                (true, false) if is_number => Grade::Regressed,
                _ => Grade::Changed,
            };
            found.push(Change::at(
                grade,
                "has another",
                location,
                format!(": \"{other}\" instead of \"{one}\""),
            ));
        }
    }
}

fn named(before: &ComparedResponse, after: &ComparedResponse, found: &mut Vec<Change>) {
    let list = |locations: Vec<&String>| {
        let locations: Vec<&str> = locations.into_iter().take(8).map(String::as_str).collect();
        locations.join(", ")
    };
    let gone: Vec<&String> = before.named.difference(&after.named).collect();
    let came: Vec<&String> = after.named.difference(&before.named).collect();
    let both_errors = before.is_error() && after.is_error();
    match (gone.is_empty(), came.is_empty()) {
        _ if !both_errors || (before.named.is_empty() && after.named.is_empty()) => {}
        (true, true) => {}
        (true, false) => {
            found.push(Change::new(
                Grade::Fixed,
                format!("also reports the invalid {}", list(came)),
            ));
        }
        (false, true) => {
            found.push(Change::new(
                Grade::Regressed,
                format!("no longer reports the invalid {}", list(gone)),
            ));
        }
        (false, false) => {
            let what = format!("reports the invalid {} instead of {}", list(came), list(gone));
            found.push(Change::new(Grade::Changed, what));
        }
    }
}

/// The header that a response of this status should carry.
fn is_due(name: &str, status: u16) -> bool {
    matches!(
        (name, status),
        ("allow", 405)
            | ("www-authenticate", 401)
            | ("location", 201 | 301..=308)
            | ("retry-after", 429 | 503)
    )
}

fn headers(
    before: &ComparedResponse,
    after: &ComparedResponse,
    same_class: bool,
    found: &mut Vec<Change>,
) {
    // Of two responses of different kinds, headers are different by nature.
    if !same_class {
        return;
    }
    let same_status = before.status == after.status;
    for name in before.headers.keys().chain(after.headers.keys()) {
        let (one, other) = (before.headers.get(name), after.headers.get(name));
        let due = same_status && is_due(name, after.status);
        let change = match (one, other) {
            (Some(_), None) => {
                let grade = if due { Grade::Regressed } else { Grade::Changed };
                Change::at(grade, "no longer has the header", name, "")
            }
            (None, Some(_)) => {
                let grade = if due { Grade::Fixed } else { Grade::Changed };
                Change::at(grade, "has the header", name, " now")
            }
            (Some(Some(one)), Some(Some(other))) if one != other => {
                let rest = format!(": {other} instead of {one}");
                Change::at(Grade::Changed, "has another header", name, rest)
            }
            _ => continue,
        };
        found.push(change);
    }
}

fn disclosed(before: &ComparedResponse, after: &ComparedResponse, found: &mut Vec<Change>) {
    for what in before.disclosed.difference(&after.disclosed) {
        found.push(Change::new(Grade::Fixed, format!("no longer discloses {what}")));
    }
    for what in after.disclosed.difference(&before.disclosed) {
        found.push(Change::new(Grade::Regressed, format!("discloses {what}")));
    }
    match (before.is_error_inside, after.is_error_inside) {
        (true, false) => {
            found.push(Change::new(Grade::Fixed, "no longer has an error in a success"));
        }
        (false, true) => found.push(Change::new(Grade::Regressed, "has an error in a success")),
        _ => {}
    }
}

fn findings(before: &ComparedResponse, after: &ComparedResponse, found: &mut Vec<Change>) {
    let serious = |severity: &Severity, grade: Grade| match severity {
        Severity::Breach | Severity::Warning => grade,
        Severity::Note => Grade::Changed,
    };
    let said: Vec<Change> = found.clone();
    let is_said = |clause: &str, location: &str, grade: Grade| {
        said.iter().any(|change| change.grade == grade && change.says(clause, location))
    };
    for ((clause, location), severity) in &before.findings {
        if !after.findings.contains_key(&(*clause, location.clone()))
            && !is_said(clause, location, Grade::Fixed)
        {
            let grade = serious(severity, Grade::Fixed);
            found.push(Change::at(grade, "fixed finding:", *clause, format!(" at {location}")));
        }
    }
    for ((clause, location), severity) in &after.findings {
        if !before.findings.contains_key(&(*clause, location.clone()))
            && !is_said(clause, location, Grade::Regressed)
        {
            let grade = serious(severity, Grade::Regressed);
            found.push(Change::at(grade, "new finding:", *clause, format!(" at {location}")));
        }
    }
}
