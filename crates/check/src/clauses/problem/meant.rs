//! What the problem clauses share: the members of a problem, and members that were meant to be them.

use serde_json::Value;
use unicode_normalization::UnicodeNormalization as _;

use crate::classify::Classified;
use faithful_clerk_model::finding::Difference;
use faithful_clerk_model::json::MemberLookup as _;
use faithful_clerk_model::json::folded;
pub(super) use faithful_clerk_shape::PROBLEM_MEMBERS as STANDARD;

/// Names that services write for a standard member, without marks of style.
const MISNAMED: [(&str, &[&str]); 4] = [
    ("type", &["typeuri", "errortype", "problemtype"]),
    ("title", &["error", "errortitle", "summary"]),
    ("status", &["statuscode", "httpstatus", "httpcode", "httpstatuscode", "code"]),
    (
        "detail",
        &[
            "details",
            "detailmessage",
            "message",
            "msg",
            "description",
            "errormessage",
            "errordescription",
            "reason",
            "errordetail",
        ],
    ),
];

/// A member that was meant to be a standard one.
pub(super) struct MisnamedMember<'p> {
    pub(super) name: &'p str,
    pub(super) meant: &'static str,
}

/// The misnamed members: the standard one is not there, the value has its kind, and the contract
/// does not declare the member under the name that it has.
pub(super) fn misnamed<'p>(classified: &'p Classified<'_>) -> Vec<MisnamedMember<'p>> {
    let Some(members) = classified.members() else { return Vec::new() };
    let declared =
        |name: &str| classified.expected_shape().is_some_and(|s| s.member(name).is_some());
    let mut found: Vec<MisnamedMember<'p>> = Vec::new();
    for (name, value) in
        members.iter().filter(|(name, _)| !STANDARD.contains(&name.as_str()) && !declared(name))
    {
        let missing = |meant: &&'static str| {
            members.member(meant).is_none() && found.iter().all(|other| other.meant != *meant)
        };
        let meant = meant(classified, name, value).into_iter().find(missing);
        found.extend(meant.map(|meant| MisnamedMember { name, meant }));
    }
    found
}

/// The standard members that this one can be meant for, the likeliest first.
fn meant(classified: &Classified<'_>, name: &str, value: &Value) -> Vec<&'static str> {
    let plain = folded(name);
    let is_status = value.as_u64() == classified.status().map(u64::from);
    let by_letters = STANDARD.into_iter().find(|standard| *standard == plain);
    let by_table = MISNAMED.iter().find(|(_, names)| names.contains(&plain.as_str()));
    match by_letters.or(by_table.map(|(meant, _)| *meant)) {
        // `code` is a code of the service's own unless it repeats the status line.
        Some("status") if is_status || (value.is_number() && plain != "code") => vec!["status"],
        Some("status") | None => Vec::new(),
        Some(_) if !value.is_string() => Vec::new(),
        Some("detail") if plain == "message" || plain == "msg" => vec!["detail", "title"],
        Some(meant) => vec![meant],
    }
}

/// Does the contract ask for this standard member here?
pub(super) fn is_asked_for(classified: &Classified<'_>, name: &str) -> bool {
    let by_shape = classified
        .expected_shape()
        .and_then(|shape| shape.member(name))
        .is_some_and(|member| !member.optional);
    let by_fault = !classified.faults.is_empty()
        && classified.faults.iter().all(|fault| match name {
            "title" => fault.title.is_some(),
            "type" => fault.type_uri.is_some(),
            _ => false,
        });
    by_shape || by_fault
}

/// What to add where two texts differ in nothing that a reader would see.
pub(super) fn nearly(expected: &str, seen: &str) -> Option<Difference> {
    let spaced = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ").to_lowercase();
    if expected.nfkc().eq(seen.nfkc()) {
        Some(Difference::UnicodeForm)
    } else if expected.trim_end_matches('/') == seen.trim_end_matches('/') {
        Some(Difference::TrailingSlash)
    } else if expected.to_lowercase() == seen.to_lowercase() {
        Some(Difference::LetterCase)
    } else if spaced(expected) == spaced(seen) {
        Some(Difference::WhiteSpace)
    } else {
        None
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn differences_that_can_hardly_be_seen_are_named() {
        for (expected, seen, difference) in [
            ("Größe", "Gro\u{308}ße", Some(Difference::UnicodeForm)),
            ("no berth", "no\u{a0}berth", Some(Difference::UnicodeForm)),
            ("/faults/x", "/faults/x/", Some(Difference::TrailingSlash)),
            ("No berth", "no Berth", Some(Difference::LetterCase)),
            ("No  berth ", "no berth", Some(Difference::WhiteSpace)),
            ("no berth", "no boat", None),
        ] {
            assert_eq!(nearly(expected, seen), difference, "{expected} {seen}");
        }
    }
}
