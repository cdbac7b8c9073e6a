//! All patterns, in one automaton.

use std::sync::{LazyLock, OnceLock};

use regex::bytes::{Regex, RegexBuilder, RegexSet, RegexSetBuilder};

use super::sort::Inside;
use super::{database, insides, network, secrets, traces};

/// What a disclosure looks like.
#[derive(Debug, Clone, Copy)]
pub(super) struct Pattern {
    pub(crate) sort: Inside,
    /// What it is, in few words.
    pub(super) what: &'static str,
    pub(super) regex: &'static str,
}

/// A text that was found.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Hit {
    pub(crate) sort: Inside,
    pub(super) what: &'static str,
    pub(super) text: String,
}

fn all() -> impl Iterator<Item = &'static Pattern> {
    traces::PATTERNS
        .iter()
        .chain(&secrets::PATTERNS)
        .chain(&database::PATTERNS)
        .chain(&insides::PATTERNS)
        .chain(&network::PATTERNS)
}

struct Compiled {
    set: RegexSet,
    each: Vec<(&'static Pattern, OnceLock<Option<Regex>>)>,
}

/// Compiled at the first answer that is looked at, so that a run without one does not pay for it; and of
/// the single patterns only those that are found. Bytes and ASCII classes make the automaton a tenth as
/// large.
static COMPILED: LazyLock<Option<Compiled>> = LazyLock::new(|| {
    let set = RegexSetBuilder::new(all().map(|pattern| pattern.regex))
        .unicode(false)
        .size_limit(1 << 26)
        .dfa_size_limit(1 << 24)
        .build();
    Some(Compiled { set: set.ok()?, each: all().map(|p| (p, OnceLock::new())).collect() })
});

/// The first text of each sort, those first from which others follow.
pub(super) fn find(text: &str) -> Vec<Hit> {
    let Some(compiled) = COMPILED.as_ref() else { return Vec::new() };
    let bytes = text.as_bytes();
    if !compiled.set.is_match(bytes) {
        return Vec::new();
    }
    let mut hits: Vec<Hit> = Vec::new();
    for at in compiled.set.matches(bytes) {
        let Some((pattern, regex)) = compiled.each.get(at) else { continue };
        if hits.iter().any(|hit| hit.sort == pattern.sort) {
            continue;
        }
        let build = || RegexBuilder::new(pattern.regex).unicode(false).build().ok();
        let found = regex.get_or_init(build).as_ref().and_then(|regex| regex.find(bytes));
        let found = found.filter(|found| !is_version_number(pattern.sort, text, found.start()));
        if let Some(found) = found {
            let text = String::from_utf8_lossy(found.as_bytes());
            let inner = |c: char| c.is_whitespace() || "\"'(=:,[<>;".contains(c);
            let text = match pattern.sort {
                Inside::StackTrace => text.into_owned(),
                _ => text.trim_matches(inner).to_owned(),
            };
            hits.push(Hit { sort: pattern.sort, what: pattern.what, text });
        }
    }
    hits.sort_by_key(|hit| hit.sort);
    let sorts: Vec<Inside> = hits.iter().map(|hit| hit.sort).collect();
    hits.retain(|hit| !sorts.iter().any(|other| hit.sort.follows_from(*other)));
    hits
}

/// A version of four numbers looks like an address, and is written behind the word for it.
fn is_version_number(sort: Inside, text: &str, at: usize) -> bool {
    let before = text.get(..at).unwrap_or_default().trim_end().to_ascii_lowercase();
    sort == Inside::Network && before.ends_with("version")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_pattern_compiles() {
        assert!(COMPILED.is_some());
        for pattern in all() {
            let built = RegexBuilder::new(pattern.regex).unicode(false).build();
            assert!(built.is_ok(), "{}", pattern.regex);
        }
    }
}
