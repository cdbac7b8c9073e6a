//! The draft itself, section by section.

use std::collections::{BTreeMap, BTreeSet};

use super::endpoints::{self, Base};
use super::faults::{Identity, Seeming, faults, is_declarable, most};
use super::shapes::{Drafted, Presence, lines};
use super::toml::{key, quoted};
use crate::address::Names;
use crate::headers::is_token;
use crate::hidden::is_hidden;
use crate::json::folded;
use crate::shape::Sketch;
use crate::status;
use crate::survey::{
    ErrorShape, GroupKey, Judgement, NOISE, Place, Seen, Sort, Standing, Survey, Told,
};

/// A drafted contract.
#[derive(Debug)]
pub struct Draft {
    /// Its text.
    pub text: String,
    /// The questions in it.
    pub decide: Vec<String>,
}

/// Drafts a contract. `openapi` is the path of a description as the contract is to name it.
#[must_use]
pub fn draft(survey: &Survey, names: Names<'_>, openapi: Option<&str>) -> Draft {
    let base = Base::of(survey);
    let places: Vec<&Place> = survey.places.iter().filter(|place| base.has(place)).collect();
    let mut writer = Writer {
        survey,
        names,
        faults: faults(&places),
        places,
        base,
        text: String::new(),
        decide: Vec::new(),
    };
    writer.head(openapi);
    let shape = writer.error();
    writer.faults(&shape);
    writer.everywhere();
    writer.endpoints();
    Draft { text: writer.text, decide: writer.decide }
}

/// What every error has in common.
struct Common {
    /// The members of the shape of every error.
    members: BTreeSet<String>,
    /// Are errors problem details?
    is_problem: bool,
    /// Is there a shape of errors at all?
    is_shaped: bool,
    /// Is there a shape of its own for validation errors?
    has_validation: bool,
}

struct Writer<'s> {
    survey: &'s Survey,
    names: Names<'s>,
    places: Vec<&'s Place>,
    base: Base,
    faults: BTreeMap<Identity, Seeming>,
    text: String,
    decide: Vec<String>,
}

/// The members that RFC 9457 section 3.1 defines.
const PROBLEM: [&str; 5] = ["type", "title", "status", "detail", "instance"];

/// Headers that answers of some statuses carry, by the standards and not by agreement.
const BY_STATUS: [&str; 6] =
    ["allow", "www-authenticate", "retry-after", "location", "content-language", "vary"];

/// Members that tell of a service's insides, and belong into its log.
const INSIDES: [&str; 7] =
    ["trace", "traces", "stack", "stacktrace", "exception", "exceptions", "debug"];

impl Writer<'_> {
    fn line(&mut self, line: &str) {
        self.text.push_str(line);
        self.text.push('\n');
    }

    /// A comment, wrapped; nothing in it can end it.
    fn comment(&mut self, text: &str) {
        let mut line = String::from("#");
        for word in text.split_whitespace() {
            let word: String = word.chars().map(|c| if is_hidden(c) { '?' } else { c }).collect();
            if line.chars().count() + word.chars().count() > 98 && line.len() > 1 {
                self.line(&line);
                line = String::from("#");
            }
            line.push(' ');
            line.push_str(&word);
        }
        self.line(&line);
    }

    /// A question to whoever edits the draft.
    fn ask(&mut self, question: &str) {
        self.comment(&format!("decide: {question}"));
        self.decide.push(question.to_owned());
    }

    fn at(&self, seen: &Seen) -> String {
        self.names.list(seen.count, &seen.first)
    }

    fn head(&mut self, openapi: Option<&str>) {
        let survey = self.survey;
        let recordings: Vec<&str> = self.names.0.iter().map(String::as_str).take(5).collect();
        let more = self.names.0.len().saturating_sub(recordings.len());
        let more = if more > 0 { format!(" and {more} more") } else { String::new() };
        self.comment(&format!(
            "Drafted from {}{more}: {}, {} of them errors. It says what was seen. Settle every \
             line that starts with `decide`, mend what is not meant, and check with it.",
            recordings.join(", "),
            match survey.exchanges {
                1 => "1 exchange".to_owned(),
                count => format!("{count} exchanges"),
            },
            survey.errors,
        ));
        self.line("contract = 1");
        let host = self.base.host();
        let name = if host.is_empty() { "the service" } else { host };
        self.line(&format!("service  = {}", quoted(name)));
        if let Some(server) = self.base.server() {
            self.line(&format!("servers  = [{}]", quoted(&server)));
        }
        if let Some(openapi) = openapi {
            self.line(&format!("openapi  = {}", quoted(openapi)));
        }
        let others: Vec<String> = self.base.others.clone();
        if !others.is_empty() {
            self.ask(&format!("left out, as other services: {}", others.join(", ")));
        }
    }

    /// `[error]` and its shapes.
    fn error(&mut self) -> Common {
        let survey = self.survey;
        self.line("\n# ── what holds for every error ──");
        self.line("[error]");
        self.media();
        let judgement = survey.judgement(Sort::Other);
        let validation = survey.judgement(Sort::Validation);
        let shape_of = |judgement: &Option<Judgement>| {
            judgement.as_ref().and_then(|j| survey.shapes.get(j.most?))
        };
        let usual = shape_of(&judgement).or(shape_of(&validation));
        let Some(usual) = usual else {
            self.line("shape = \"problem\"");
            self.ask("no error with a JSON body was recorded; the shape is RFC 9457's");
            self.headers();
            return Common {
                members: PROBLEM.map(str::to_owned).into(),
                is_problem: true,
                is_shaped: false,
                has_validation: false,
            };
        };
        let is_problem = is_problem(&usual.sketch);
        self.line("shape = \"service-error\"");
        if let Some(judgement) = &judgement {
            self.evidence(judgement);
        }
        self.headers();
        let of_validation = shape_of(&validation);
        let common = self.service_error(usual, of_validation, is_problem);
        let has_validation = of_validation.is_some();
        if let (Some(shape), Some(judgement)) = (of_validation, &validation) {
            self.invalid_request(shape, judgement, &common);
        }
        Common { members: common, is_problem, is_shaped: true, has_validation }
    }

    fn evidence(&mut self, judgement: &Judgement) {
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

    fn media(&mut self) {
        let mut seen: BTreeMap<&str, Seen> = BTreeMap::new();
        for (row, kind) in self.places.iter().flat_map(|place| &place.facts.rows) {
            let is_error = row.status.is_some_and(|status| status >= 400);
            let has_body = !matches!(row.told, Told::Empty | Told::Missing);
            if let Some(media) = row.media.as_deref().filter(|_| is_error && has_body) {
                seen.entry(media).or_default().add(&kind.seen);
            }
        }
        const PROBLEM_JSON: &str = "application/problem+json";
        let total: u64 = seen.values().map(|seen| seen.count).sum();
        // Whoever sends problems now and then means to.
        let problems = seen.get(PROBLEM_JSON).map_or(0, |seen| seen.count);
        let json = seen.iter().filter(|(media, _)| crate::media::is_json(media));
        let usual = most(json).copied();
        let agreed =
            if problems * 4 >= total { PROBLEM_JSON } else { usual.unwrap_or(PROBLEM_JSON) };
        self.line(&format!("media = {}", quoted(agreed)));
        let others: Vec<String> = seen
            .iter()
            .filter(|(media, _)| **media != agreed)
            .map(|(media, seen)| format!("{media} ({})", self.at(seen)))
            .collect();
        let mine = seen.get(agreed).map_or(0, |seen| seen.count);
        if total == 0 {
            self.ask("no error with a body was recorded; this is RFC 9457's media type");
        } else if !others.is_empty() {
            self.ask(&format!("{mine} of {total} errors; the others: {}", others.join(", ")));
        }
    }

    fn headers(&mut self) {
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
                true => "text matching ^[0-9a-fA-F-]{36}$",
                false => "text",
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
    fn service_error(
        &mut self,
        usual: &ErrorShape,
        validation: Option<&ErrorShape>,
        is_problem: bool,
    ) -> BTreeSet<String> {
        let sketch = &usual.sketch;
        let mut drafted = Drafted::default();
        let mut names: BTreeSet<String> = BTreeSet::new();
        if is_problem {
            drafted.members.push(("like".to_owned(), "problem".to_owned()));
        }
        let mut questions = Vec::new();
        for (name, member) in sketch.usual() {
            names.insert(name.clone());
            let here = |sketch: &Sketch| sketch.members.get(name).is_some_and(|m| sketch.always(m));
            let always = here(sketch) && validation.is_none_or(|shape| here(&shape.sketch));
            // The shape of problems has these members already; only what is more needs a line.
            match name.as_str() {
                "type" | "detail" | "instance" if is_problem && !always => continue,
                "type" if is_problem => continue,
                _ => {}
            }
            if !sketch.always(member) {
                questions.push(format!(
                    "`{name}` is in {} of {} errors; may it be left out?",
                    member.count, sketch.objects
                ));
            }
            if is_problem && name == "status" {
                drafted.members.push((name.clone(), "status".to_owned()));
            } else if is_problem && PROBLEM.contains(&name.as_str()) {
                drafted.members.push((name.clone(), "text".to_owned()));
            } else {
                let presence = if always { Presence::Always } else { Presence::Optional };
                drafted.add("service-error", name, member, presence);
            }
        }
        if is_problem {
            names.extend(PROBLEM.map(str::to_owned));
        }
        self.line("\n[shape.service-error]");
        self.text.push_str(&lines(&drafted.members));
        for question in questions {
            self.ask(&question);
        }
        for table in &drafted.tables {
            self.line("");
            self.text.push_str(table);
        }
        names
    }

    /// The shape of validation errors.
    fn invalid_request(
        &mut self,
        shape: &ErrorShape,
        judgement: &Judgement,
        common: &BTreeSet<String>,
    ) {
        let pointers = shape.forms.keys().all(|form| {
            matches!(
                form,
                crate::place::Form::Pointer
                    | crate::place::Form::Fragment
                    | crate::place::Form::Parameter
                    | crate::place::Form::Nowhere
            )
        }) && !shape.forms.is_empty();
        let agrees = |name: &String, member: &Sketch| {
            shape.sketch.members.get(name).is_none_or(|mine| mine.resembles(member))
        };
        let usual =
            self.survey.judgement(Sort::Other).and_then(|j| self.survey.shapes.get(j.most?));
        let is_like = usual.is_none_or(|usual| {
            usual.sketch.members.iter().all(|(name, member)| agrees(name, member))
        });
        let mut drafted = Drafted::default();
        if is_like {
            drafted.members.push(("like".to_owned(), "service-error".to_owned()));
        }
        for (name, member) in &shape.sketch.members {
            if common.contains(name) {
                continue;
            }
            drafted.add("invalid-request", name, member, Presence::of(&shape.sketch, member));
            // A list of entries that can be empty says nothing.
            if let Some((_, phrase)) = drafted.members.last_mut()
                && phrase.starts_with("list of invalid-request-")
            {
                phrase.push_str(", at least 1");
            }
        }
        self.line("\n[shape.invalid-request]");
        self.text.push_str(&lines(&drafted.members));
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
        for table in &drafted.tables {
            self.line("");
            let table = if pointers { with_pointers(table) } else { table.clone() };
            self.text.push_str(&table);
        }
    }

    fn faults(&mut self, common: &Common) {
        self.line("\n# ── faults: what the service may answer with ──");
        let faults = self.faults.clone();
        for (identity, fault) in &faults {
            self.fault(identity, fault, common);
        }
        if faults.is_empty() {
            self.ask("no error was recorded that says what it is; declare the faults here");
        }
        let mut odd: BTreeMap<u16, Seen> = BTreeMap::new();
        for (row, kind) in self.places.iter().flat_map(|place| &place.facts.rows) {
            if let Some(status) = row.status.filter(|s| *s >= 400 && !is_declarable(*s)) {
                odd.entry(status).or_default().add(&kind.seen);
            }
        }
        for (status, seen) in odd {
            let at = self.at(&seen);
            self.ask(&format!("{status} is no registered status, and is left out ({at})"));
        }
        let at: BTreeSet<&String> = self
            .places
            .iter()
            .flat_map(|place| &place.facts.rows)
            .filter_map(|(row, _)| row.said.code.as_ref().map(|(_, at)| at))
            .collect();
        if let Some(at) = at.iter().next().filter(|at| at.as_str() != "/code") {
            let at = (*at).clone();
            self.line("\n[reading]");
            self.line(&format!("code = {}", quoted(&at)));
        }
    }

    fn fault(&mut self, identity: &Identity, fault: &Seeming, common: &Common) {
        let status = fault.status();
        self.line(&format!("\n[fault.{}]", fault.name));
        self.line(&format!("status  = {status}"));
        let mut questions = Vec::new();
        if fault.statuses.len() > 1 {
            let others = fault.statuses.iter().filter(|(other, _)| **other != status);
            let others: Vec<String> =
                others.map(|(other, seen)| format!("{other} ({})", self.at(seen))).collect();
            questions
                .push(format!("one status for one fault; it also came with {}", others.join(", ")));
        }
        match identity {
            Identity::Type(folded) => {
                let uri = most(fault.types.iter()).unwrap_or(folded);
                self.line(&format!("type    = {}", quoted(uri)));
                let others = fault.types.iter().filter(|(other, _)| *other != uri);
                let others: Vec<String> = others
                    .map(|(other, seen)| format!("{} ({})", cut(other), self.at(seen)))
                    .collect();
                if !others.is_empty() {
                    questions
                        .push(format!("one type for one fault; also seen: {}", others.join(", ")));
                }
            }
            Identity::Code(code) => {
                let types = fault.types.keys().filter(|uri| *uri != "about:blank");
                if let Some(uri) = types.clone().next().filter(|_| types.count() == 1)
                    && iri_string::types::UriReferenceStr::new(uri).is_ok()
                {
                    self.line(&format!("type    = {}", quoted(uri)));
                }
                self.line(&format!("code    = {}", code_value(code)));
            }
            Identity::Status(..) => {}
        }
        if let (Identity::Type(_), 1) = (identity, fault.codes.len())
            && let Some(code) = fault.codes.keys().next()
        {
            self.line(&format!("code    = {}", code_value(code)));
        }
        questions.extend(self.title(identity, fault, status, common));
        let validation = fault.is_validation && common.has_validation;
        if validation {
            self.line("shape   = \"invalid-request\"");
        } else if common.is_shaped {
            self.members(fault, common);
        }
        let situations: Vec<String> =
            fault.situations().iter().map(|situation| quoted(situation.name())).collect();
        if !situations.is_empty() {
            self.line(&format!("answers = [{}]", situations.join(", ")));
        }
        match status {
            429 | 502..=504 => self.line("any-time = true"),
            500 => {}
            501.. => self.line("servers-own = true"),
            400 | 422 if situations.is_empty() => {
                questions.push("for which situations is it? The requests do not tell".to_owned());
            }
            _ => {}
        }
        self.comment(&format!("{} seen: {}", fault.seen.count, self.at(&fault.seen)));
        if fault.groups.is_empty() {
            questions.push("no answer with a JSON body was seen; should there be one?".to_owned());
        }
        for question in questions {
            self.ask(&question);
        }
    }

    /// The title of a fault; gives what is to be decided.
    fn title(
        &mut self,
        identity: &Identity,
        fault: &Seeming,
        status: u16,
        common: &Common,
    ) -> Vec<String> {
        let mut questions = Vec::new();
        let phrase = status::phrase(status);
        let usual = most(fault.titles.iter());
        if !common.is_problem && usual.is_none() {
            return questions;
        }
        let is_typed = matches!(identity, Identity::Type(_));
        let title = match (usual, phrase) {
            // Without a type the title is the status's phrase (RFC 9457 section 4.2.1).
            (Some(usual), Some(phrase))
                if !is_typed && matches!(identity, Identity::Status(..)) =>
            {
                if !status::phrases(status).any(|known| known == usual) || fault.titles.len() > 1 {
                    let seen: Vec<String> = fault
                        .titles
                        .iter()
                        .take(4)
                        .map(|(title, seen)| format!("\"{}\" ({})", cut(title), self.at(seen)))
                        .collect();
                    questions.push(format!(
                        "without a type, the title is the status's phrase (RFC 9457 section 4.2.1); seen were {}",
                        seen.join(", ")
                    ));
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
                    questions
                        .push(format!("one title for one fault; also seen: {}", others.join(", ")));
                }
                usual
            }
            (None, Some(phrase)) if common.is_problem && !is_typed => phrase,
            (None, _) => {
                questions.push("no title was seen".to_owned());
                return questions;
            }
        };
        self.line(&format!("title   = {}", quoted(title)));
        questions
    }

    /// The members that a fault has beside those of every error.
    fn members(&mut self, fault: &Seeming, common: &Common) {
        // Bodies of another shape than most have are a question of the shape, not of this fault.
        let usual =
            self.survey.judgement(Sort::Other).and_then(|j| self.survey.shapes.get(j.most?));
        let is_usual = |key: &&GroupKey| usual.is_none_or(|usual| usual.has(key));
        let groups = fault.groups.iter().filter(is_usual);
        let sketches: Vec<&Sketch> =
            groups.filter_map(|key| Some(&self.survey.groups.get(key)?.sketch)).collect();
        let mut sum = Sketch::default();
        for sketch in &sketches {
            sum.add((*sketch).clone());
        }
        if sum.lists > 0 || sum.objects == 0 {
            return;
        }
        let mut members = Vec::new();
        for (name, member) in &sum.members {
            let everywhere = sketches.iter().all(|sketch| sketch.members.contains_key(name));
            let inside = INSIDES.contains(&folded(name).as_str());
            if common.members.contains(name) || member.nulls > 0 || inside {
                continue;
            }
            // A group's bodies may be other faults', too, so only kinds without members are told.
            let kind = match member.kinds().as_slice() {
                [kind @ ("text" | "integer" | "number" | "boolean" | "object")] => *kind,
                ["list"] => "list of anything",
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

    fn everywhere(&mut self) {
        let names: Vec<String> = self
            .faults
            .values()
            .filter(|fault| fault.is_everywhere())
            .map(|fault| quoted(&fault.name))
            .collect();
        if !names.is_empty() {
            self.line("\n[everywhere]");
            self.line(&format!("faults = [{}]", names.join(", ")));
        }
        let nowhere: Vec<String> = self
            .places
            .iter()
            .filter(|place| place.standing == Standing::Nowhere)
            .map(|place| place.name())
            .take(10)
            .collect();
        if !nowhere.is_empty() {
            self.ask(&format!(
                "these only ever answered 404, and are taken for paths that lead nowhere: {}",
                nowhere.join(", ")
            ));
        }
    }

    fn drawn(&self, place: &Place, template: &str) -> Option<endpoints::Drawn> {
        let has_credentials = self.survey.has_credentials;
        endpoints::endpoint(place, template, &self.faults, self.names, has_credentials)
    }

    fn endpoints(&mut self) {
        let places: Vec<&Place> =
            self.places.iter().copied().filter(|p| p.standing == Standing::Endpoint).collect();
        self.line("\n# ── endpoints ──");
        if !self.survey.has_credentials && !places.is_empty() {
            self.ask(
                "which of them need credentials? The recording holds none, so it does not tell",
            );
        }
        if places.is_empty() {
            self.ask("no endpoint was found; declare them as in [endpoint.\"GET /berths/{id}\"]");
            return;
        }
        for place in places {
            // HEAD is offered where GET is, and needs no endpoint of its own.
            if place.method == "HEAD" {
                continue;
            }
            let template = self.base.below(&place.template);
            let Some(drafted) = self.drawn(place, &template) else {
                self.ask(&format!("`{}` can't be written as an endpoint", cut(&place.name())));
                continue;
            };
            self.line("");
            self.comment(&drafted.evidence);
            self.line(&drafted.head);
            for line in &drafted.lines {
                self.line(line);
            }
            for question in &drafted.decide {
                self.ask(question);
            }
            for line in &drafted.suggestion {
                self.line(line);
            }
        }
    }
}

/// Are bodies of this form meant to be problem details?
fn is_problem(sketch: &Sketch) -> bool {
    let usual: BTreeSet<&str> = sketch.usual().map(|(name, _)| name.as_str()).collect();
    let common = PROBLEM.iter().filter(|name| usual.contains(**name)).count();
    common >= 2 && (usual.contains("title") || usual.contains("type"))
}

/// A code as it is written: a number where it is one.
fn code_value(code: &str) -> String {
    match code.parse::<i64>() {
        Ok(number) if number.to_string() == code => code.to_owned(),
        _ => quoted(code),
    }
}

/// The member of an entry that names the place is a JSON Pointer.
fn with_pointers(table: &str) -> String {
    let mend = |line: &str| {
        let is_pointer =
            ["pointer ", "pointer=", "path "].iter().any(|name| line.starts_with(name));
        match line.rsplit_once("text\"") {
            Some((before, "")) if is_pointer => format!("{before}json pointer\"\n"),
            _ => format!("{line}\n"),
        }
    };
    table.lines().map(mend).collect()
}

/// Nobody reads more of a title in a comment.
fn cut(text: &str) -> String {
    const MOST: usize = 80;
    match text.char_indices().nth(MOST) {
        Some((end, _)) => format!("{}…", text.get(..end).unwrap_or_default()),
        None => text.to_owned(),
    }
}
