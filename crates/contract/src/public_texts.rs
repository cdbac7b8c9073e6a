//! What is public anyway: the service's own servers and problem types, and what the contract says is.

use aho_corasick::{AhoCorasick, AhoCorasickKind};

/// Texts that everybody may know. There can be thousands, so they are searched all at once.
#[derive(Debug)]
pub struct PublicTexts {
    /// All of them, each on its own.
    all: String,
    each: Option<AhoCorasick>,
}

impl PublicTexts {
    /// `texts` are public wherever they stand; of `titles` what is a part of one is.
    pub(super) fn of<'t>(
        texts: impl Iterator<Item = &'t str>,
        titles: impl Iterator<Item = &'t str>,
    ) -> Self {
        let texts: Vec<&str> = texts.collect();
        // It is made in every run, and searches few texts.
        let kind = Some(AhoCorasickKind::ContiguousNFA);
        let each = AhoCorasick::builder().kind(kind).build(&texts).ok();
        let all: Vec<&str> = texts.into_iter().chain(titles).collect();
        Self { all: all.join("\0"), each }
    }

    /// Is this one of them, a part of one, or has one in it?
    pub fn covers(&self, text: &str) -> bool {
        self.each.as_ref().is_some_and(|each| each.is_match(text))
            || (!text.contains('\0') && self.all.contains(text))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_text_is_known_by_what_it_is_part_of_and_by_what_it_has_in_it() {
        let known = PublicTexts::of(
            ["https://harbour.example/v1", "quay.local"].into_iter(),
            ["Harbour::Error: closed"].into_iter(),
        );
        assert!(known.covers("Harbour::Error") && !known.covers("Harbour::Error: closed today"));
        for text in
            ["harbour.example", "quay.local", "at quay.local:80", "https://harbour.example/v1/x"]
        {
            assert!(known.covers(text), "{text}");
        }
        for text in ["10.0.0.7", "harbour.example/v1\0quay", "quay.locale"] {
            assert_eq!(known.covers(text), text.contains("quay.local"), "{text}");
        }
        assert!(!PublicTexts::of(std::iter::empty(), std::iter::empty()).covers("quay"));
    }
}
