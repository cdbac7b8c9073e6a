//! All patterns, and how a text is searched for them.
//!
//! Each pattern names a few literals, one of which is in whatever it matches. A text is searched for all of
//! those in one go, and only patterns of which one was found are compiled and tried: for most texts none.

use std::sync::{LazyLock, OnceLock};

use aho_corasick::{AhoCorasick, AhoCorasickKind};
use regex::bytes::{Regex, RegexBuilder};

use super::pattern::DisclosurePattern;
use super::{database, debug_pages, insides, network, secrets, traces};
use faithful_clerk_model::finding::DisclosureKind;

/// A text that was found.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct PatternMatch {
    pub kind: DisclosureKind,
    pub(super) what: &'static str,
    pub(super) text: String,
}

fn all() -> impl Iterator<Item = &'static DisclosurePattern> {
    traces::PATTERNS
        .iter()
        .chain(&debug_pages::PATTERNS)
        .chain(&secrets::PATTERNS)
        .chain(&database::PATTERNS)
        .chain(&insides::PATTERNS)
        .chain(&network::PATTERNS)
}

/// What texts are searched for.
struct PatternSearch {
    literals: AhoCorasick,
    /// For each literal the patterns that name it, a bit each.
    named_by: Vec<u128>,
    patterns: Vec<(&'static DisclosurePattern, OnceLock<Option<Regex>>)>,
}

/// Made at the first response that is looked at, so that a run without one does not pay for it.
static SEARCH: LazyLock<Option<PatternSearch>> = LazyLock::new(|| {
    let named = |literal: &str| {
        let names = |pattern: &DisclosurePattern| u128::from(pattern.literals.contains(&literal));
        all().enumerate().fold(0, |bits, (at, pattern)| bits | (names(pattern) << at))
    };
    let mut literals: Vec<&str> = all().flat_map(|pattern| pattern.literals).copied().collect();
    literals.sort_unstable();
    literals.dedup();
    let built = AhoCorasick::builder().kind(Some(AhoCorasickKind::ContiguousNFA)).build(&literals);
    Some(PatternSearch {
        literals: built.ok()?,
        named_by: literals.into_iter().map(named).collect(),
        patterns: all().map(|pattern| (pattern, OnceLock::new())).collect(),
    })
});

// Bytes and ASCII classes make automata a tenth as large.

fn compiled(pattern: &DisclosurePattern) -> Option<Regex> {
    RegexBuilder::new(pattern.regex).unicode(false).build().ok()
}

impl PatternSearch {
    /// The patterns that may match somewhere in a text, a bit each.
    fn candidates(&self, text: &str) -> u128 {
        let found = self.literals.find_overlapping_iter(text);
        found.fold(0, |bits, literal| {
            bits | self.named_by.get(literal.pattern().as_usize()).copied().unwrap_or_default()
        })
    }
}

/// The first text of each sort, those first from which others follow.
pub(super) fn find(text: &str) -> Vec<PatternMatch> {
    let Some(search) = SEARCH.as_ref() else { return Vec::new() };
    let mut candidates = search.candidates(text);
    if candidates == 0 {
        return Vec::new();
    }
    let bytes = text.as_bytes();
    let mut hits: Vec<PatternMatch> = Vec::new();
    while candidates != 0 {
        let at = candidates.trailing_zeros();
        candidates &= candidates - 1;
        let Some((pattern, regex)) = search.patterns.get(at as usize) else { continue };
        if hits.iter().any(|hit| hit.kind == pattern.kind) {
            continue;
        }
        let regex = regex.get_or_init(|| compiled(pattern));
        let found = regex.as_ref().and_then(|regex| regex.find(bytes));
        let found = found.filter(|found| !is_version_number(pattern.kind, text, found.start()));
        if let Some(found) = found {
            let text = String::from_utf8_lossy(found.as_bytes());
            let inner = |c: char| c.is_whitespace() || "\"'(=:,[<>;".contains(c);
            let text = match pattern.kind {
                DisclosureKind::StackTrace | DisclosureKind::DebugPage => text.into_owned(),
                _ => text.trim_matches(inner).to_owned(),
            };
            hits.push(PatternMatch { kind: pattern.kind, what: pattern.what, text });
        }
    }
    hits.sort_by_key(|hit| hit.kind);
    let sorts: Vec<DisclosureKind> = hits.iter().map(|hit| hit.kind).collect();
    hits.retain(|hit| !sorts.iter().any(|other| hit.kind.follows_from(*other)));
    hits
}

/// A version of four numbers looks like an address, and is written behind the word for it.
fn is_version_number(kind: DisclosureKind, text: &str, at: usize) -> bool {
    let before = text.get(..at).unwrap_or_default().trim_end().to_ascii_lowercase();
    kind == DisclosureKind::InternalHost && before.ends_with("version")
}

#[cfg(test)]
mod tests {
    use regex_syntax::ParserBuilder;
    use regex_syntax::hir::{Class, Hir, HirKind};

    use super::*;

    #[test]
    fn every_pattern_compiles_and_has_a_bit() {
        assert!(SEARCH.is_some() && all().count() <= 128);
        for pattern in all() {
            assert!(compiled(pattern).is_some(), "{}", pattern.regex);
        }
    }

    /// Whatever the pattern matches has one of its literals in it: by its own grammar.
    #[test]
    fn whatever_a_pattern_matches_has_one_of_its_literals() {
        let wrong: Vec<&DisclosurePattern> =
            all().filter(|pattern| !needs_one(&parsed(pattern.regex), pattern.literals)).collect();
        assert!(wrong.is_empty(), "{wrong:#?}");
    }

    /// On the texts of another test, and on parts of them: the literals lose no match.
    #[test]
    fn whatever_matches_is_a_candidate() {
        let search = SEARCH.as_ref().unwrap();
        let mut matches = 0;
        for text in include_str!("../../../core/tests/all/disclosure/texts.rs").lines() {
            for text in (0..text.len()).step_by(9).filter_map(|at| text.get(at..)) {
                let candidates = search.candidates(text);
                for (bit, pattern) in all().enumerate() {
                    let regex = search.patterns[bit].1.get_or_init(|| compiled(pattern));
                    if regex.as_ref().unwrap().is_match(text.as_bytes()) {
                        assert_eq!(candidates >> bit & 1, 1, "{} in {text}", pattern.regex);
                        matches += 1;
                    }
                }
            }
        }
        assert!(matches > 100, "{matches}");
    }

    #[test]
    fn what_may_match_without_a_literal_is_not_taken_for_needing_it() {
        for (regex, auth) in [
            ("ab?c", &["ab"][..]),
            ("a|b", &["a"]),
            ("(?:ab)*", &["ab"]),
            ("(?i)ab", &["ab"]),
            ("a[bc]d", &["ab"]),
            (r"a\d+b", &["ab"]),
            ("(?:ab|cd)e", &["be"]),
        ] {
            assert!(!needs_one(&parsed(regex), auth), "{regex}");
        }
        for (regex, auth) in [("x(?:a|b[cd])y", &["xa", "bcy", "bdy"][..]), ("(?:ab)+c?", &["ab"])]
        {
            assert!(needs_one(&parsed(regex), auth), "{regex}");
        }
    }

    fn parsed(regex: &str) -> Hir {
        ParserBuilder::new().unicode(false).utf8(false).build().parse(regex).unwrap()
    }

    fn needs_one(hir: &Hir, auth: &[&str]) -> bool {
        let has_one = |text: &Vec<u8>| {
            auth.iter().any(|need| text.windows(need.len()).any(|part| part == need.as_bytes()))
        };
        if texts(hir).is_some_and(|texts| texts.iter().all(has_one)) {
            return true;
        }
        match hir.kind() {
            HirKind::Concat(parts) => {
                let runs = (0..parts.len()).flat_map(|start| {
                    (start + 1..=parts.len()).map(move |end| parts.get(start..end).unwrap())
                });
                let by_run = |run: &[Hir]| {
                    texts(&Hir::concat(run.to_vec())).is_some_and(|texts| texts.iter().all(has_one))
                };
                parts.iter().any(|part| needs_one(part, auth)) || runs.into_iter().any(by_run)
            }
            HirKind::Alternation(parts) => parts.iter().all(|part| needs_one(part, auth)),
            HirKind::Repetition(repetition) => {
                repetition.min > 0 && needs_one(&repetition.sub, auth)
            }
            HirKind::Capture(capture) => needs_one(&capture.sub, auth),
            HirKind::Empty | HirKind::Literal(_) | HirKind::Class(_) | HirKind::Look(_) => false,
        }
    }

    /// All texts that it matches, if they are few.
    fn texts(hir: &Hir) -> Option<Vec<Vec<u8>>> {
        const MOST: usize = 500;
        Some(match hir.kind() {
            HirKind::Empty | HirKind::Look(_) => vec![Vec::new()],
            HirKind::Literal(literal) => vec![literal.0.to_vec()],
            HirKind::Class(Class::Bytes(class)) => {
                let bytes = class.ranges().iter().flat_map(|range| range.start()..=range.end());
                let bytes: Vec<_> = bytes.map(|byte| vec![byte]).collect();
                (bytes.len() < 10).then_some(bytes)?
            }
            HirKind::Capture(capture) => texts(&capture.sub)?,
            HirKind::Repetition(repetition) if repetition.max.is_some_and(|max| max < 4) => {
                let sub = texts(&repetition.sub)?;
                let mut all = Vec::new();
                for count in repetition.min..=repetition.max? {
                    let some = (0..count).try_fold(vec![Vec::new()], |some, _| joined(&some, &sub));
                    all.extend(some?);
                }
                all
            }
            HirKind::Concat(parts) => parts
                .iter()
                .try_fold(vec![Vec::new()], |some, part| joined(&some, &texts(part)?))?,
            HirKind::Alternation(parts) => {
                parts.iter().map(texts).collect::<Option<Vec<_>>>()?.concat()
            }
            HirKind::Class(Class::Unicode(_)) | HirKind::Repetition(_) => return None,
        })
        .filter(|all| all.len() <= MOST)
    }

    /// Each of these with each of those behind it.
    fn joined(some: &[Vec<u8>], others: &[Vec<u8>]) -> Option<Vec<Vec<u8>>> {
        let each = |one: &Vec<u8>| {
            let one = one.clone();
            others.iter().map(move |other| [one.as_slice(), other.as_slice()].concat())
        };
        (some.len() * others.len() <= 500).then(|| some.iter().flat_map(each).collect())
    }
}
