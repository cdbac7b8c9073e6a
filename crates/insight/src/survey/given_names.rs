//! Names that responses gave to things: by these the values in a path are known, though they are words.

use serde::{Deserialize, Serialize};

use super::sample::NameSample;
use super::segment::SegmentForm;
use faithful_clerk_model::percent::decode;

/// Longer texts name nothing in a path.
const LONGEST: usize = 64;

/// What responses of the whole recording called things.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct GivenNames {
    /// What stands in a member such as `name`, `login` or `slug`, or last in a link of a thing to itself.
    pub identifiers: NameSample,
    /// What stands last in the `Location` of something created.
    pub created: NameSample,
}

impl GivenNames {
    /// Adds what others gave.
    pub fn add(&mut self, other: &Self) {
        self.identifiers.add(&other.identifiers);
        self.created.add(&other.created);
    }

    /// Notes what an identifier holds, if it can stand in a path and is no value by its form. Gives whether it was.
    pub(super) fn note_identifier(&mut self, text: &str) -> bool {
        let is_name = may_stand_in_a_path(text) && !SegmentForm::of(text).is_value();
        if is_name {
            self.identifiers.note(&[text]);
        }
        is_name
    }

    /// Notes what a link of a thing to itself ends with. Gives whether it was.
    pub(super) fn note_link(&mut self, link: &str) -> bool {
        last_segment(link).is_some_and(|last| self.note_identifier(&last))
    }

    /// Notes where something created is.
    pub(super) fn note_location(&mut self, location: &str) {
        if let Some(last) = last_segment(location) {
            self.created.note(&[last]);
        }
    }
}

/// Can a text be a segment as it stands? What has no letter is known as a value by its form.
fn may_stand_in_a_path(text: &str) -> bool {
    text.len() <= LONGEST
        && text.bytes().any(|byte| byte.is_ascii_alphabetic())
        && text.bytes().all(|byte| byte.is_ascii_alphanumeric() || b"-._~@+".contains(&byte))
}

/// The last segment of a path or URL that has more than one.
fn last_segment(link: &str) -> Option<String> {
    let path = link.split(['?', '#']).next()?;
    let path = path.split_once("://").map_or(path, |(_, rest)| rest);
    let (above, last) = path.trim_end_matches('/').rsplit_once('/')?;
    let is_below = !last.is_empty() && !above.trim_matches('/').is_empty();
    is_below.then(|| decode(last).unwrap_or_else(|| last.to_owned()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_last_segment_of_a_link_is_its_name() {
        for (link, name) in [
            ("/ports/oban", Some("oban")),
            ("https://harbour.example/v1/ports/o%62an/?x=/y", Some("oban")),
            ("ports/oban#top", Some("oban")),
            ("https://harbour.example/", None),
            ("/ports", None),
            ("oban", None),
        ] {
            assert_eq!(last_segment(link).as_deref(), name, "{link}");
        }
        let mut names = GivenNames::default();
        let noted = ["oban", "4711", "two words", "left/right", "", "r-7f3a21"]
            .map(|text| names.note_identifier(text));
        assert_eq!(noted, [true, false, false, false, false, false]);
        let known = ["oban", "4711", "two words"].map(|text| names.identifiers.has(&[text]));
        assert_eq!(known, [true, false, false]);
    }
}
