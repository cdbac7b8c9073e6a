//! How far a plan goes, and what is told of the rest.

use std::collections::{BTreeMap, BTreeSet};

use super::plan::ProbePlan;

/// How far a plan goes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct PlanBounds {
    /// How deep in bodies rules are broken: 1 for their own members.
    pub depth: usize,
    /// So many requests at the most.
    pub most: usize,
}

impl Default for PlanBounds {
    fn default() -> Self {
        Self { depth: 4, most: 5000 }
    }
}

/// What could not be planned.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct NotPlanned {
    /// The endpoint, or one request.
    pub name: String,
    /// Why.
    pub why: String,
    /// How many requests, at the least.
    pub requests: usize,
}

/// Why requests beyond the bound are not planned.
pub(super) const BEYOND: &str = "more requests than `--most` allows for all";

impl ProbePlan {
    /// Leaves out what is deepest in bodies, where there are too many requests.
    pub(super) fn shorten(&mut self, most: usize) {
        let Some(too_many) = self.requests.len().checked_sub(most).filter(|more| *more > 0) else {
            return;
        };
        let mut levels: Vec<(usize, usize)> =
            self.requests.iter().enumerate().map(|(at, one)| (one.level, at)).collect();
        levels.sort_unstable();
        let dropped: BTreeSet<usize> =
            levels.into_iter().rev().take(too_many).map(|(_, at)| at).collect();
        let mut counts: BTreeMap<String, usize> = BTreeMap::new();
        let mut at = 0;
        self.requests.retain(|planned| {
            let is_kept = !dropped.contains(&at);
            at += 1;
            if !is_kept {
                let endpoint = planned.name.split(": ").next().unwrap_or_default().to_owned();
                *counts.entry(endpoint).or_default() += 1;
            }
            is_kept
        });
        for (name, requests) in counts {
            self.left_out.push(NotPlanned { name, why: BEYOND.to_owned(), requests });
        }
    }
}
