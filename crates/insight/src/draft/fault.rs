//! `[fault.*]`: one section a fault, with its evidence and what is to be decided.

use std::collections::{BTreeMap, BTreeSet};

use super::faults::{FaultIdentity, ObservedFault, is_declarable, most};
use super::write::{CommonTraits, DraftWriter, cut};
use crate::survey::{ErrorCategory, GroupKey, Occurrences, SegmentForm};
use faithful_clerk_contract::{key, quoted};
use faithful_clerk_model::json::folded;
use faithful_clerk_model::status;
use faithful_clerk_shape::InferredShape;

/// Members that tell of a service's insides, and belong into its log.
const INSIDES: [&str; 7] =
    ["trace", "traces", "stack", "stacktrace", "exception", "exceptions", "debug"];

/// Does a member by its name tell of a service's insides?
pub(super) fn is_inside(name: &str) -> bool {
    INSIDES.contains(&folded(name).as_str())
}

impl DraftWriter<'_> {
    pub(super) fn faults(&mut self, common: &CommonTraits) {
        self.line("\n# ── faults: what the service may respond with ──");
        let faults = self.faults.all.clone();
        let generic: BTreeSet<&String> = faults
            .values()
            .filter(|fault| self.is_generic(fault))
            .flat_map(|fault| fault.types.keys())
            .collect();
        if !generic.is_empty() {
            let uris: Vec<String> = generic.into_iter().take(3).map(|uri| cut(uri)).collect();
            self.ask(&format!(
                "errors of many statuses have the type {}; which type tells each fault from the others?",
                uris.join(", ")
            ));
        }
        for (identity, fault) in &faults {
            self.fault(identity, fault, common);
        }
        if faults.is_empty() {
            self.ask("no recorded error says what it is; declare the faults here");
        }
        let bare = faults.values().filter(|fault| fault.groups.is_empty());
        let bare: Vec<&str> = bare.map(|fault| fault.name.as_str()).collect();
        if !bare.is_empty() {
            self.line("");
            self.ask(&format!(
                "no response with a JSON body was recorded of {}; should there be one?",
                bare.join(", ")
            ));
        }
        let mut odd: BTreeMap<u16, Occurrences> = BTreeMap::new();
        for (row, kind) in self.places.iter().flat_map(|location| &location.facts.rows) {
            if let Some(status) = row.status.filter(|s| *s >= 400 && !is_declarable(*s)) {
                odd.entry(status).or_default().add(&kind.seen);
            }
        }
        for (status, seen) in odd {
            let at = self.at(&seen);
            self.ask(&format!("{status} is not a registered status code and was left out ({at})"));
        }
        let at: BTreeSet<&String> = self
            .places
            .iter()
            .flat_map(|location| &location.facts.rows)
            .filter_map(|(row, _)| row.stable.code.as_ref().map(|(_, at)| at))
            .collect();
        let code = at.iter().next().filter(|at| at.as_str() != "/code").map(|at| (*at).clone());
        // Of problem details it is known where the title is.
        let has_titles =
            !common.is_problem && faults.values().any(|fault| claimed_title(fault).is_some());
        if code.is_some() || has_titles {
            self.line("\n[envelope]");
        }
        if let Some(at) = code {
            self.line(&format!("code = {}", quoted(&at)));
        }
        if has_titles {
            self.line("title = \"/title\"");
        }
    }

    /// Has it only a type that errors of many statuses have?
    fn is_generic(&self, fault: &ObservedFault) -> bool {
        let generic = &self.faults.generic;
        !generic.is_empty()
            && !fault.types.is_empty()
            && fault.types.keys().all(|uri| generic.has(uri))
    }

    pub(super) fn fault(
        &mut self,
        identity: &FaultIdentity,
        fault: &ObservedFault,
        common: &CommonTraits,
    ) {
        let status = fault.status();
        self.line(&format!("\n[fault.{}]", fault.name));
        self.line(&format!("status  = {status}"));
        let mut questions = Vec::new();
        if fault.statuses.len() > 1 {
            let others = fault.statuses.iter().filter(|(other, _)| **other != status);
            let others: Vec<String> =
                others.map(|(other, seen)| format!("{other} ({})", self.at(seen))).collect();
            questions.push(format!("one status for a fault; it also had {}", others.join(", ")));
        }
        match identity {
            FaultIdentity::Type(folded) => {
                let uri = most(fault.types.iter()).unwrap_or(folded);
                self.line(&format!("type    = {}", quoted(uri)));
                let others = fault.types.iter().filter(|(other, _)| *other != uri);
                let others: Vec<String> = others
                    .map(|(other, seen)| format!("{} ({})", cut(other), self.at(seen)))
                    .collect();
                if !others.is_empty() {
                    questions.push(format!(
                        "one type for a fault; also recorded: {}",
                        others.join(", ")
                    ));
                }
            }
            FaultIdentity::Code(code) => {
                let types = fault.types.keys().filter(|uri| *uri != "about:blank");
                if let Some(uri) = types.clone().next().filter(|_| types.count() == 1)
                    && iri_string::types::UriReferenceStr::new(uri).is_ok()
                {
                    self.line(&format!("type    = {}", quoted(uri)));
                }
                self.line(&format!("code    = {}", code_value(code)));
            }
            FaultIdentity::Status(..) => {
                if common.is_problem && self.is_generic(fault) {
                    self.line("type    = \"any\"");
                }
            }
        }
        if let (FaultIdentity::Type(_), 1) = (identity, fault.codes.len())
            && let Some(code) = fault.codes.keys().next()
        {
            self.line(&format!("code    = {}", code_value(code)));
        }
        if fault.codes.len() > 1 {
            let seen = fault.codes.iter().take(4);
            let seen: Vec<String> =
                seen.map(|(code, seen)| format!("`{}` ({})", cut(code), self.at(seen))).collect();
            questions.push(format!("one code for a fault; recorded: {}", seen.join(", ")));
        }
        match self.titles_by_language(fault) {
            Some(line) => self.line(&line),
            None => questions.extend(self.title(identity, fault, status, common)),
        }
        let validation = fault.is_validation && common.has_validation;
        if validation {
            self.line("shape   = \"invalid-request\"");
        } else if common.is_shaped {
            self.members(fault, common);
        }
        let situations: Vec<String> =
            fault.situations().iter().map(|situation| quoted(situation.name())).collect();
        if !situations.is_empty() {
            self.line(&format!("when    = [{}]", situations.join(", ")));
        }
        match status {
            429 | 503 => self.line("any-request = true"),
            500 => {}
            501.. => self.line("internal = true"),
            400 | 422 if situations.is_empty() => {
                questions
                    .push("which situations is it for? The requests do not show it".to_owned());
            }
            _ => {}
        }
        self.comment(&format!("{} recorded: {}", fault.seen.count, self.at(&fault.seen)));
        for question in questions {
            self.ask(&question);
        }
    }

    /// The titles of a fault in every language of the contract, where all are known.
    fn titles_by_language(&self, fault: &ObservedFault) -> Option<String> {
        let titles = fault.titles_by_language()?;
        let texts = self.languages.iter().map(|language| {
            let title = titles.get(language.as_str())?;
            Some(format!("{} = {}", key(language), quoted(title)))
        });
        let texts = texts.collect::<Option<Vec<String>>>()?;
        Some(format!("title   = {{ {} }}", texts.join(", ")))
    }

    /// The title of a fault; gives what is to be decided.
    pub(super) fn title(
        &mut self,
        identity: &FaultIdentity,
        fault: &ObservedFault,
        status: u16,
        common: &CommonTraits,
    ) -> Vec<String> {
        let mut questions = Vec::new();
        let phrase = status::phrase(status);
        let usual = most(fault.titles.iter());
        if !common.is_problem {
            return self.own_title(fault);
        }
        let is_typed = matches!(identity, FaultIdentity::Type(_));
        let title = match (usual, phrase) {
            // Without a type the title is the status's phrase (RFC 9457 section 4.2.1).
            (Some(usual), Some(phrase))
                if !is_typed
                    && matches!(identity, FaultIdentity::Status(..))
                    && !self.is_generic(fault) =>
            {
                let is_phrase = |title: &str| status::phrases(status).any(|known| known == title);
                if !is_phrase(usual) || fault.titles.len() > 1 {
                    let seen: Vec<String> = fault
                        .titles
                        .iter()
                        .take(4)
                        .map(|(title, seen)| format!("\"{}\" ({})", cut(title), self.at(seen)))
                        .collect();
                    questions.push(format!(
                        "without a type, the title is the status code's phrase (RFC 9457 section 4.2.1); recorded: {}",
                        seen.join(", ")
                    ));
                    let phrased = fault.titles.iter().filter(|(title, _)| is_phrase(title));
                    if phrased.map(|(_, seen)| seen.count).sum::<u64>() * 2 < fault.seen.count {
                        self.line(&format!("# title = {}", quoted(phrase)));
                        return questions;
                    }
                    phrase
                } else {
                    usual
                }
            }
            (Some(usual), _) => {
                if fault.titles.len() > 1 {
                    let others = fault.titles.iter().filter(|(title, _)| *title != usual).take(4);
                    let others: Vec<String> = others
                        .map(|(title, seen)| format!("\"{}\" ({})", cut(title), self.at(seen)))
                        .collect();
                    questions.push(format!(
                        "one title for a fault; also recorded: {}",
                        others.join(", ")
                    ));
                }
                usual
            }
            (None, Some(phrase)) if common.is_problem && !is_typed => phrase,
            (None, _) => {
                questions.push("no title was recorded".to_owned());
                return questions;
            }
        };
        self.line(&format!("title   = {}", quoted(title)));
        questions
    }

    /// The title of a fault whose errors are no problem details: where it has several, none of them is claimed.
    fn own_title(&mut self, fault: &ObservedFault) -> Vec<String> {
        if let Some(title) = claimed_title(fault) {
            self.line(&format!("title   = {}", quoted(title)));
            return Vec::new();
        }
        if fault.titles.len() < 2 {
            return Vec::new();
        }
        let seen = fault.titles.iter().take(4);
        let seen: Vec<String> =
            seen.map(|(title, seen)| format!("\"{}\" ({})", cut(title), self.at(seen))).collect();
        vec![format!("one title for a fault, or a fault for each? {}", seen.join(", "))]
    }

    /// The members that a fault has beside those of every error.
    pub(super) fn members(&mut self, fault: &ObservedFault, common: &CommonTraits) {
        // Bodies of another shape than most have are a question of the shape, not of this fault.
        let usual = self
            .survey
            .judgement(ErrorCategory::Other)
            .and_then(|j| self.survey.shapes.get(j.most?));
        let is_usual = |key: &&GroupKey| usual.is_none_or(|usual| usual.has(key));
        let groups = fault.groups.iter().filter(is_usual);
        let sketches: Vec<&InferredShape> =
            groups.filter_map(|key| Some(&self.survey.groups.get(key)?.shape)).collect();
        let mut sum = InferredShape::default();
        for inferred in &sketches {
            sum.add((*inferred).clone());
        }
        if sum.lists > 0 || sum.objects == 0 {
            return;
        }
        let mut members = Vec::new();
        for (name, member) in &sum.members {
            let everywhere = sketches.iter().all(|inferred| inferred.members.contains_key(name));
            if common.members.contains(name) || member.nulls > 0 || is_inside(name) {
                continue;
            }
            // A group's bodies may be other faults', too, so only kinds without members are told.
            let kind = match member.kinds().as_slice() {
                [kind @ ("string" | "integer" | "number" | "boolean" | "object")] => *kind,
                ["array"] => "array of anything",
                ["map"] => "object",
                _ => "anything",
            };
            let optional = if everywhere { "" } else { "optional " };
            members.push(format!("{} = {}", key(name), quoted(&format!("{optional}{kind}"))));
        }
        if !members.is_empty() && members.len() <= 12 {
            self.line(&format!("members = {{ {} }}", members.join(", ")));
        }
    }
}

/// The title of a fault that has but one; what names a thing is the title of one occurrence.
fn claimed_title(fault: &ObservedFault) -> Option<&str> {
    let mut titles = fault.titles.keys();
    let (Some(title), None) = (titles.next(), titles.next()) else { return None };
    (!names_a_thing(title, fault.status())).then_some(title)
}

/// Does a title have an id in it, other than the status?
fn names_a_thing(title: &str, status: u16) -> bool {
    let words = title.split(|c: char| c.is_whitespace() || "\"'`:,;()".contains(c));
    words.filter(|word| !word.is_empty() && *word != status.to_string()).any(SegmentForm::may_be_id)
}

/// A code as it is written: a number where it is one.
fn code_value(code: &str) -> String {
    match code.parse::<i64>() {
        Ok(number) if number.to_string() == code => code.to_owned(),
        _ => quoted(code),
    }
}
