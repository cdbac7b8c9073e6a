//! `[validation-errors]`: how violations name invalid locations, and their codes.

use super::write::DraftWriter;
use crate::survey::{EndpointStatus, RefusedBodies};
use faithful_clerk_contract::quoted;

/// With fewer locations than this nobody can tell how they are spelled.
const LEAST_LOCATIONS: u64 = 2;

/// So many codes are named in a question.
const MOST_CODES: usize = 24;

impl DraftWriter<'_> {
    /// What the refusals of all endpoints say.
    pub(super) fn refused_bodies(&self) -> RefusedBodies {
        let mut all = RefusedBodies::default();
        let is_endpoint = |status| status == EndpointStatus::Endpoint;
        for location in self.places.iter().filter(|location| is_endpoint(location.status)) {
            all.add(location.facts.refused.clone());
        }
        all
    }

    /// How locations are spelled, where all are spelled in one way to the letter; and the codes, as a question: a recording
    /// seldom shows all.
    pub(super) fn validation_errors(&mut self) {
        let all = self.refused_bodies();
        let spellings = &all.spellings;
        let is_known = spellings.count >= LEAST_LOCATIONS;
        let exact: Vec<&str> = spellings
            .exact
            .iter()
            .filter(|(_, count)| is_known && **count == spellings.count)
            .map(|(word, _)| word.as_ref())
            .collect();
        let line = match exact.as_slice() {
            [spelling] => Some(format!("locations = {}", quoted(spelling))),
            _ if is_known && spellings.fragments == spellings.count => {
                Some("pointer = \"fragment\"".to_owned())
            }
            _ => None,
        };
        if let Some(line) = line {
            self.line("\n[validation-errors]");
            self.line(&line);
            self.comment(&format!("all {} recorded locations of several steps", spellings.count));
        }
        if !all.codes.is_empty() {
            self.line("");
            let codes: Vec<String> =
                all.codes.iter().take(MOST_CODES).map(|code| quoted(code)).collect();
            let more = match all.codes.len().saturating_sub(MOST_CODES) {
                0 => String::new(),
                more => format!(" and {more} more"),
            };
            let without = match all.without_code {
                0 => String::new(),
                1 => "; 1 violation had none".to_owned(),
                count => format!("; {count} violations had none"),
            };
            self.ask(&format!(
                "may violations have other codes than the recorded ones? `codes` in `[validation-errors]` says which: {}{more}{without}",
                codes.join(", ")
            ));
        }
    }
}
