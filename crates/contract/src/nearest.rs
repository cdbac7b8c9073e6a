//! The nearest known name to a mistyped one.

use std::cmp::Reverse;

/// The candidate that takes the fewest edits to reach from `name`, if it is near enough to be meant.
///
/// Near enough is one edit for every three characters, and always one. A swap of neighbours is one edit.
#[must_use]
pub fn nearest<'c>(name: &str, candidates: impl IntoIterator<Item = &'c str>) -> Option<&'c str> {
    let allowed = (name.chars().count() / 3).clamp(1, 4);
    candidates
        .into_iter()
        .map(|candidate| {
            let (name, lower) = (name.to_lowercase(), candidate.to_lowercase());
            // Among equals, the one that begins alike for longer: beginnings are seldom mistyped.
            let alike = name.chars().zip(lower.chars()).take_while(|(a, b)| a == b).count();
            (strsim::osa_distance(&name, &lower), Reverse(alike), candidate)
        })
        .filter(|(edits, ..)| *edits <= allowed)
        .min()
        .map(|(.., candidate)| candidate)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_slip_of_the_finger_finds_its_word_and_another_word_does_not() {
        let words = ["status", "title", "type", "shape"];
        assert_eq!(nearest("statsu", words), Some("status"));
        assert_eq!(nearest("tilte", words), Some("title"));
        assert_eq!(nearest("Shape", words), Some("shape"));
        assert_eq!(nearest("servis", ["servers", "service"]), Some("service"));
        assert_eq!(nearest("headers", words), None);
        assert_eq!(nearest("x", words), None);
    }
}
