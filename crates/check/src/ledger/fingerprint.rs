//! Fingerprints: what makes a finding of today the same as one of last week.
//!
//! A fingerprint is made of the clause, the endpoint, the place (positions in lists and members that are
//! named after ids aside), what was expected and what was seen, without what varies by nature: recorded
//! texts, ids, times, counts. The exchange's address is no part of it, so it survives another recording.

use sha2::{Digest as _, Sha256};

use super::FindingKey;
use faithful_clerk_contract::{ErrorContract, Waiver};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::json::pointer::tokens;

/// The fingerprint of a finding in the row of that name: 16 hexadecimal digits.
#[must_use]
pub fn fingerprint(row: &str, key: &FindingKey) -> String {
    let FindingKey {
        severity: _,
        clause,
        location: place,
        expected: agreed,
        got: seen,
        because: _,
        conforming: _,
    } = key;
    // Behind a colon stands what was recorded, as in 'a version: …'.
    let seen = seen.split(": ").next().unwrap_or_default();
    let mut hash = Sha256::new();
    for part in [*clause, row, &settled_place(place), &settled(agreed), &settled(seen)] {
        hash.update(part);
        hash.update([0]);
    }
    let hash = hash.finalize();
    hash.iter().take(8).map(|byte| format!("{byte:02x}")).collect()
}

/// The same of a waiver that covers nothing.
pub fn of_unused(waiver: &Waiver, contract: &ErrorContract) -> String {
    let row = waiver.row.as_ref().map_or("everywhere".to_owned(), |row| row.name(contract));
    format!("unused waiver of {} at {row}", waiver.clause)
}

fn settled_place(place: &Location) -> String {
    let Location::Pointer(pointer) = place else { return place.to_string() };
    let steps = tokens(pointer).unwrap_or_default();
    let varies = |step: &str| step.contains(|c: char| c.is_ascii_digit());
    steps.iter().map(|step| if varies(step) { "/*" } else { step }).collect::<Vec<_>>().join("/")
}

/// A text without what stands in quotation marks, and without words that have digits in them; a status
/// is none of those.
fn settled(text: &str) -> String {
    let mut settled = String::with_capacity(text.len());
    // What is quoted is written as JSON: a quotation mark within stands behind a backslash.
    let (mut is_quoted, mut is_escaped) = (false, false);
    for c in text.chars() {
        match c {
            _ if is_escaped => is_escaped = false,
            '\\' if is_quoted => is_escaped = true,
            '"' => {
                is_quoted = !is_quoted;
                settled.push('"');
            }
            c if !is_quoted => settled.push(c),
            _ => {}
        }
    }
    let word = |word: &'_ str| {
        let bare = word.trim_matches(|c: char| !c.is_ascii_alphanumeric());
        let is_status = bare.parse().is_ok_and(|status: u16| (100..600).contains(&status));
        let varies = bare.contains(|c: char| c.is_ascii_digit()) && !is_status;
        if varies { "#".to_owned() } else { word.to_owned() }
    };
    settled.split_whitespace().map(word).collect::<Vec<_>>().join(" ")
}

#[cfg(test)]
mod tests {
    use super::*;
    use faithful_clerk_model::finding::Severity;

    fn of(clause: &'static str, pointer: &str, agreed: &str, seen: &str) -> String {
        let place = Location::Pointer(pointer.to_owned());
        let (agreed, seen) = (agreed.to_owned(), seen.to_owned());
        let (note, unlike, weight) = (None, None, Severity::Breach);
        fingerprint(
            "GET /berths",
            &FindingKey {
                severity: weight,
                clause,
                location: place,
                expected: agreed,
                got: seen,
                because: note,
                conforming: unlike,
            },
        )
    }

    #[test]
    fn what_varies_by_nature_makes_no_other_finding() {
        let one = of("a.b", "/errors/0", "a text, as in 5 of 7 answers", r#""no berth \"Z-99\"""#);
        let two = of("a.b", "/errors/12", "a text, as in 9 of 9 answers", r#""no berth A-3""#);
        assert_eq!(one, two);
        assert_eq!(
            of("a.b", "", "no version", "a version: nginx/1.25.3"),
            of("a.b", "", "no version", "a version: nginx/1.27.0")
        );
    }

    #[test]
    fn another_status_kind_place_or_agreement_is_another_finding() {
        let one = of("a.b", "/status", "404", "200");
        assert_ne!(one, of("a.b", "/status", "404", "500"));
        assert_ne!(one, of("a.b", "/status", "422", "200"));
        assert_ne!(one, of("a.b", "/code", "404", "200"));
        assert_ne!(one, of("a.c", "/status", "404", "200"));
        assert_ne!(of("a.b", "/x", "a text", "a number"), of("a.b", "/x", "a text", "null"));
    }
}
