//! The header fields of a response, as far as they are compared.

use std::collections::{BTreeMap, HashMap};
use std::hash::BuildHasher as _;

use foldhash::fast::FixedState;

use super::plan::{ComparisonKind, ComparisonPlan};
use crate::survey::NOISE;
use faithful_clerk_model::headers::Headers;
use faithful_clerk_model::secret::mask::masked;

/// Headers whose values are compared.
const VALUES: [&str; 4] = ["allow", "content-language", "cache-control", "accept-patch"];

/// Header fields that are compared between environments. Others are added by whatever stands before a service there.
const BETWEEN_ENVIRONMENTS: [&str; 9] = [
    "allow",
    "www-authenticate",
    "location",
    "retry-after",
    "content-language",
    "accept-patch",
    "link",
    "deprecation",
    "sunset",
];

/// So many different names are remembered.
const MOST_NAMES: usize = 4096;

/// What of a header field is compared.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum HeaderUse {
    Nothing,
    Presence,
    Value,
}

impl HeaderUse {
    /// By the name in lower case.
    fn of(name: &str, plan: &ComparisonPlan<'_>) -> Self {
        let between_environments = plan.between == ComparisonKind::Environments;
        // A pseudo header field of HTTP/2 is no header field (RFC 9113 section 8.3).
        let is_noise = NOISE.contains(&name)
            || name.starts_with("access-control-")
            || name.starts_with(':')
            || plan.off.headers.contains(name)
            || (between_environments && !BETWEEN_ENVIRONMENTS.contains(&name));
        match (is_noise, VALUES.contains(&name)) {
            (true, _) => Self::Nothing,
            (false, true) => Self::Value,
            (false, false) => Self::Presence,
        }
    }
}

/// The fields that are compared, by name in lower case, with the value where it is compared.
pub(super) fn compared_headers(
    headers: &Headers<'_>,
    plan: &ComparisonPlan<'_>,
) -> BTreeMap<String, Option<String>> {
    let mut seen = BTreeMap::new();
    for (name, value) in headers.iter() {
        let name = name.to_ascii_lowercase();
        let compared = match HeaderUse::of(&name, plan) {
            HeaderUse::Nothing => continue,
            HeaderUse::Presence => None,
            HeaderUse::Value => {
                let mut members: Vec<&str> = value.split(',').map(str::trim).collect();
                members.sort_unstable();
                Some(masked(&members.join(", ")).into_owned())
            }
        };
        seen.insert(name, compared);
    }
    seen
}

/// The same as a number, by what was found out about each name before: equal for equal fields in any order, but not for
/// all that are compared as equal.
#[derive(Debug, Default)]
pub(super) struct HeaderDigests {
    known: HashMap<Box<str>, (HeaderUse, u64), FixedState>,
}

impl HeaderDigests {
    pub(super) fn of(&mut self, headers: &Headers<'_>, plan: &ComparisonPlan<'_>) -> u64 {
        let state = FixedState::default();
        headers.iter().fold(0_u64, |sum, (name, value)| {
            let (used, name) = self.used(name, plan);
            sum.wrapping_add(match used {
                HeaderUse::Nothing => 0,
                HeaderUse::Presence => state.hash_one(name),
                HeaderUse::Value => state.hash_one((name, value)),
            })
        })
    }

    /// What is compared of a field, and its name as a number.
    fn used(&mut self, name: &str, plan: &ComparisonPlan<'_>) -> (HeaderUse, u64) {
        if let Some(known) = self.known.get(name) {
            return *known;
        }
        let lower = name.to_ascii_lowercase();
        let used = (HeaderUse::of(&lower, plan), FixedState::default().hash_one(lower.as_str()));
        if self.known.len() < MOST_NAMES {
            self.known.insert(name.into(), used);
        }
        used
    }
}
