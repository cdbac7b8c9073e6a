//! `[error]`: what every error has in common, and the shapes of errors.

use std::collections::{BTreeMap, BTreeSet};

use super::fault::is_inside;
use super::faults::most;
use super::shapes::{DraftedShape, MemberPresence, ShapeDeclaration, lines};
use super::write::{CommonTraits, DraftWriter};
use crate::survey::{
    ErrorCategory, ErrorComparison, ErrorShape, NOISE, ObservedBody, Occurrences, SurveyedBody,
};
use faithful_clerk_contract::{key, quoted};
use faithful_clerk_model::headers::is_token;
use faithful_clerk_shape::{InferredShape, PROBLEM_MEMBERS};

/// Headers that responses of some statuses have, by the standards and not by the contract.
const BY_STATUS: [&str; 7] = [
    "allow",
    "www-authenticate",
    "retry-after",
    "location",
    "content-language",
    "vary",
    "cache-control",
];

/// JSON:API 1.1's media type, and the members at the top of its errors ('Top Level').
pub(super) const JSON_API: &str = "application/vnd.api+json";
const JSON_API_MEMBERS: [&str; 4] = ["errors", "meta", "jsonapi", "links"];

/// Are errors as JSON:API has them, for which there is a built-in shape?
pub(super) fn is_json_api(shape: &InferredShape) -> bool {
    let errors = shape.members.get("errors");
    errors.is_some_and(|errors| errors.kinds() == ["array"])
        && shape.members.keys().all(|name| JSON_API_MEMBERS.contains(&name.as_str()))
}

impl DraftWriter<'_> {
    /// `[error]` and its shapes.
    pub(super) fn error(&mut self) -> CommonTraits {
        let survey = self.survey;
        self.line("\n# ── what holds for every error ──");
        self.line("[error]");
        let media = self.media();
        let judgement = survey.judgement(ErrorCategory::Other);
        let validation = survey.judgement(ErrorCategory::Validation);
        let shape_of = |judgement: &Option<ErrorComparison>| {
            judgement.as_ref().and_then(|j| survey.shapes.get(j.most?))
        };
        let usual = shape_of(&judgement).or(shape_of(&validation));
        let Some(usual) = usual else {
            self.line("shape = \"problem\"");
            self.ask("no error with a JSON body was recorded; the shape is RFC 9457's");
            self.headers();
            return CommonTraits {
                members: PROBLEM_MEMBERS.map(str::to_owned).into(),
                is_problem: true,
                is_shaped: false,
                has_validation: false,
            };
        };
        if media == JSON_API && is_json_api(&usual.shape) {
            self.line("shape = \"jsonapi-errors\"");
            for judgement in [&judgement, &validation].into_iter().flatten() {
                self.evidence(judgement);
            }
            self.headers();
            if let Some(at) = judgement.as_ref().and_then(|judgement| judgement.most) {
                self.regions(&(media, at));
            }
            return CommonTraits {
                members: JSON_API_MEMBERS.map(str::to_owned).into(),
                is_problem: false,
                is_shaped: false,
                has_validation: false,
            };
        }
        let is_problem = usual.shape.is_problem();
        let has_usual = shape_of(&judgement).is_some();
        if !has_usual && !is_problem && is_keyed(&usual.shape) {
            return self.only_validation(usual, validation.as_ref());
        }
        self.line("shape = \"service-error\"");
        if let Some(judgement) = &judgement {
            self.evidence(judgement);
        }
        self.headers();
        // Where errors of all kinds have a list of entries, those are no violations.
        let of_validation = shape_of(&validation).filter(|_| has_usual || self.only_of_requests());
        // Validation errors of a shape of their own say nothing of the others.
        let alike = of_validation.filter(|shape| is_like(&shape.shape, &usual.shape));
        let common = self.service_error(usual, alike, is_problem);
        let has_validation = of_validation.is_some();
        if let (Some(shape), Some(judgement)) = (of_validation, &validation) {
            self.invalid_request(shape, judgement, &common);
        }
        if let Some(at) = judgement.as_ref().and_then(|judgement| judgement.most) {
            self.regions(&(media, at));
        }
        CommonTraits { members: common, is_problem, is_shaped: true, has_validation }
    }

    /// Do errors with a list of entries come only to requests that are invalid?
    fn only_of_requests(&self) -> bool {
        let rows = self.places.iter().flat_map(|location| location.facts.rows.keys());
        let mut of_validation = rows.filter(|row| match &row.body {
            ObservedBody::Error((kind, _)) | ObservedBody::Many(kind) => {
                *kind == ErrorCategory::Validation
            }
            _ => false,
        });
        of_validation.all(|row| matches!(row.status, Some(400 | 422)))
    }

    /// All errors with a JSON body are validation errors, and those are keyed by field: no other error can be like them.
    fn only_validation(
        &mut self,
        usual: &ErrorShape,
        validation: Option<&ErrorComparison>,
    ) -> CommonTraits {
        self.ask("only validation errors had a JSON body; which shape have the others, such as `problem`?");
        self.headers();
        if let Some(validation) = validation {
            self.invalid_request(usual, validation, &BTreeSet::new());
        }
        CommonTraits {
            members: BTreeSet::new(),
            is_problem: false,
            is_shaped: false,
            has_validation: true,
        }
    }

    pub(super) fn evidence(&mut self, judgement: &ErrorComparison) {
        let others: u64 = judgement.deviations.iter().map(|d| d.seen.count).sum();
        if others == 0 {
            return;
        }
        let others: Vec<String> =
            judgement.deviations.iter().take(6).map(|d| self.at(&d.seen)).collect();
        self.comment(&format!(
            "{} of {} errors have this shape; the others: {}",
            judgement.count - judgement.deviations.iter().map(|d| d.seen.count).sum::<u64>(),
            judgement.count,
            others.join(", "),
        ));
    }

    /// The media type of errors, which it gives.
    fn media(&mut self) -> String {
        let mut seen: BTreeMap<&str, Occurrences> = BTreeMap::new();
        for (row, kind) in self.places.iter().flat_map(|location| &location.facts.rows) {
            let is_error = row.status.is_some_and(|status| status >= 400);
            let has_body = !matches!(row.body, ObservedBody::Empty | ObservedBody::Missing);
            if let Some(media) = row.media.as_deref().filter(|_| is_error && has_body) {
                seen.entry(media).or_default().add(&kind.seen);
            }
        }
        const PROBLEM_JSON: &str = "application/problem+json";
        let total: u64 = seen.values().map(|seen| seen.count).sum();
        // Whoever sends problems now and then means to.
        let problems = seen.get(PROBLEM_JSON).map_or(0, |seen| seen.count);
        let json = seen.iter().filter(|(media, _)| faithful_clerk_model::media::is_json(media));
        let usual = most(json).copied();
        let expected =
            if problems * 4 >= total { PROBLEM_JSON } else { usual.unwrap_or(PROBLEM_JSON) };
        self.line(&format!("media = {}", quoted(expected)));
        let others: Vec<String> = seen
            .iter()
            .filter(|(media, _)| **media != expected)
            .map(|(media, seen)| format!("{media} ({})", self.at(seen)))
            .collect();
        let mine = seen.get(expected).map_or(0, |seen| seen.count);
        if total == 0 {
            self.ask("no error with a body was recorded; this is RFC 9457's media type");
        } else if !others.is_empty() {
            self.ask(&format!("{mine} of {total} errors; the others: {}", others.join(", ")));
        }
        expected.to_owned()
    }

    pub(super) fn headers(&mut self) {
        let survey = self.survey;
        let mut rules = Vec::new();
        let mut almost = Vec::new();
        for (lower, header) in &survey.headers {
            let is_noise = NOISE.contains(&lower.as_str())
                || BY_STATUS.contains(&lower.as_str())
                || lower.starts_with("access-control-");
            if is_noise || survey.errors < 2 || !is_token(&header.name) {
                continue;
            }
            let is_uuid = |text: &String| {
                text.len() == 36 && text.bytes().all(|b| b.is_ascii_hexdigit() || b == b'-')
            };
            let phrase = match header.values.iter().all(is_uuid) {
                true => "string matching ^[0-9a-fA-F-]{36}$",
                false => "string",
            };
            let rule = format!("{} = {}", key(&header.name), quoted(phrase));
            if header.count == survey.errors {
                rules.push(rule);
            } else if header.count * 10 >= survey.errors * 8 {
                almost.push(format!("{} ({} of {})", header.name, header.count, survey.errors));
            }
        }
        if !rules.is_empty() {
            self.line(&format!("headers = {{ {} }}", rules.join(", ")));
            self.comment("every error carries them");
        }
        if !almost.is_empty() {
            self.ask(&format!("nearly every error carries {}", almost.join(", ")));
        }
    }

    /// The shape of every error; gives the names of its members.
    pub(super) fn service_error(
        &mut self,
        usual: &ErrorShape,
        validation: Option<&ErrorShape>,
        is_problem: bool,
    ) -> BTreeSet<String> {
        let inferred = &usual.shape;
        let mut drafted = DraftedShape::default();
        let mut names: BTreeSet<String> = BTreeSet::new();
        if is_problem {
            drafted.members.push(("like".to_owned(), "problem".to_owned()));
        }
        let mut questions = Vec::new();
        let relatives = self.relatives(usual);
        let all_are_validation =
            validation.is_some_and(|validation| std::ptr::eq(validation, usual));
        for (name, member) in inferred.usual() {
            // Violations are no part of other errors.
            if all_are_validation && has_entries(member) {
                continue;
            }
            names.insert(name.clone());
            if is_inside(name) {
                questions.push(format!("`{name}` tells of the service's insides, and is left out"));
                continue;
            }
            let here = |inferred: &InferredShape| {
                inferred.members.get(name).is_some_and(|m| inferred.always(m))
            };
            let always = here(inferred)
                && validation.is_none_or(|shape| here(&shape.shape))
                && relatives.iter().all(here);
            // The shape of problems has these members already; only what is more needs a line.
            match name.as_str() {
                "type" | "detail" | "instance" if is_problem && !always => continue,
                "type" if is_problem => continue,
                _ => {}
            }
            let objects = inferred.objects + relatives.iter().map(|one| one.objects).sum::<u64>();
            let known = relatives.iter().filter_map(|one| Some(one.members.get(name)?.count));
            let count = member.count + known.sum::<u64>();
            if count < objects {
                questions.push(format!(
                    "`{name}` is in {count} of {objects} errors; may it be left out?"
                ));
            }
            if is_problem && PROBLEM_MEMBERS.contains(&name.as_str()) {
                let optional = if always { "" } else { "optional " };
                let kind = if name == "status" { "status" } else { "string" };
                drafted.members.push((name.clone(), format!("{optional}{kind}")));
            } else {
                let presence =
                    if always { MemberPresence::Always } else { MemberPresence::Optional };
                drafted.add("service-error", name, member, presence);
            }
        }
        if is_problem {
            names.extend(PROBLEM_MEMBERS.map(str::to_owned));
        }
        self.line("\n[shape.service-error]");
        self.text.push_str(&lines(&drafted.members));
        for question in questions {
            self.ask(&question);
        }
        for table in &drafted.tables {
            self.line("");
            self.text.push_str(&table.toml());
        }
        names
    }

    /// The shapes of other errors that differ from the usual one in nothing but what tells of the service's insides.
    fn relatives(&self, usual: &ErrorShape) -> Vec<InferredShape> {
        let judgement = self.survey.judgement(ErrorCategory::Other);
        let others = judgement.into_iter().flat_map(|judgement| judgement.deviations);
        let shapes = others.filter_map(|deviation| match deviation.body {
            SurveyedBody::Shape(at) => self.survey.shapes.get(at),
            SurveyedBody::Many | SurveyedBody::Other(_) => None,
        });
        let plain = |shape: &InferredShape| {
            let mut shape = shape.clone();
            shape.members.retain(|name, _| !is_inside(name));
            shape
        };
        let mine = plain(&usual.shape);
        shapes.map(|shape| plain(&shape.shape)).filter(|other| other.resembles(&mine)).collect()
    }

    /// The shape of validation errors.
    pub(super) fn invalid_request(
        &mut self,
        shape: &ErrorShape,
        judgement: &ErrorComparison,
        common: &BTreeSet<String>,
    ) {
        let spellings = self.refused_bodies().spellings;
        let pointers = spellings.located > 0 && spellings.pointers == spellings.located;
        let usual = self
            .survey
            .judgement(ErrorCategory::Other)
            .and_then(|j| self.survey.shapes.get(j.most?));
        let is_like = usual.is_none_or(|usual| is_like(&shape.shape, &usual.shape));
        if is_keyed(&shape.shape) {
            return self.keyed_invalid_request(shape, judgement);
        }
        let mut drafted = DraftedShape::default();
        if is_like && !common.is_empty() {
            drafted.members.push(("like".to_owned(), "service-error".to_owned()));
        }
        for (name, member) in &shape.shape.members {
            if (common.contains(name) && is_like) || is_inside(name) {
                continue;
            }
            drafted.add("invalid-request", name, member, MemberPresence::of(&shape.shape, member));
            // A list of entries that can be empty says nothing.
            if let Some((_, phrase)) = drafted.members.last_mut()
                && phrase.starts_with("array of invalid-request-")
            {
                phrase.push_str(", at least 1");
            }
        }
        drafted.call_entries("violation");
        self.line("\n[shape.invalid-request]");
        self.text.push_str(&lines(&drafted.members));
        self.ask_for_others(judgement);
        for table in &drafted.tables {
            self.line("");
            let mut table = table.clone();
            if pointers {
                with_pointers(&mut table);
            }
            self.text.push_str(&table.toml());
        }
    }

    /// Validation errors that are keyed by field at the top.
    fn keyed_invalid_request(&mut self, shape: &ErrorShape, judgement: &ErrorComparison) {
        let mut drafted = DraftedShape::default();
        self.line("\n[shape]");
        match shape.shape.keyed.as_deref().filter(|_| shape.shape.nested > 0) {
            // Errors are nested as the request is.
            Some(inner) => {
                let phrase = drafted.whole("violation", inner);
                self.line("invalid-request = \"map of field-errors\"");
                let phrase = format!("({phrase}) or map of field-errors");
                self.line(&format!("field-errors    = {}", quoted(&phrase)));
            }
            None => {
                let phrase = drafted.whole("violation", &shape.shape);
                self.line(&format!("invalid-request = {}", quoted(&phrase)));
            }
        }
        self.ask_for_others(judgement);
        for table in &drafted.tables {
            self.line("");
            self.text.push_str(&table.toml());
        }
    }

    /// Asks about the validation errors that have another shape.
    fn ask_for_others(&mut self, judgement: &ErrorComparison) {
        let others: u64 = judgement.deviations.iter().map(|d| d.seen.count).sum();
        if others > 0 {
            let at: Vec<String> = judgement.deviations.iter().map(|d| self.at(&d.seen)).collect();
            self.ask(&format!(
                "{} of {} validation errors have this shape; is it the one for all? The others: {}",
                judgement.count - others,
                judgement.count,
                at.join(", ")
            ));
        }
    }
}

/// Can one shape be like another: is every member that both have of one form?
fn is_like(shape: &InferredShape, usual: &InferredShape) -> bool {
    let agrees = |(name, member): (&String, &InferredShape)| {
        shape.members.get(name).is_none_or(|mine| mine.resembles(member))
    };
    !is_keyed(shape) && usual.members.iter().all(agrees)
}

/// Is a member a list of objects, or an object that is keyed by data?
fn has_entries(member: &InferredShape) -> bool {
    member.items.as_ref().is_some_and(|items| items.objects > 0) || member.keyed.is_some()
}

/// Are bodies keyed by data at the top?
fn is_keyed(shape: &InferredShape) -> bool {
    shape.keyed.is_some() && shape.members.is_empty()
}

/// The member of an entry that names the location is a JSON Pointer.
fn with_pointers(table: &mut ShapeDeclaration) {
    for (name, phrase) in &mut table.members {
        if let Some(before) = phrase.strip_suffix("string")
            && matches!(name.as_str(), "pointer" | "path")
        {
            *phrase = format!("{before}json pointer");
        }
    }
}
