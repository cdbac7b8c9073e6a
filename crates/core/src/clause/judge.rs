//! Runs the clauses over a placed exchange.

use std::borrow::Cow;
use std::sync::OnceLock;

use super::{AppliesTo, Clause, ClauseSet, catalogue};
use crate::address::Location;
use crate::contract::SeverityOverride;
use crate::finding::{Finding, Severity};
use crate::place::{Classified, ParsedBody};
use crate::pointer::tokens;
use crate::secret::is_secret_name;
use crate::secret::mask::masked;

/// What a clause says of one exchange, unless it found something: then it is broken.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ClauseOutcome {
    /// The clause does not speak of such an exchange.
    Outside,
    /// It is kept.
    Kept,
    /// It would speak of it, but what it needs is not there.
    Unjudged,
}

/// What a clause found in one exchange.
#[derive(Debug, Default)]
pub struct Findings {
    found: Vec<NewFinding>,
    sights: Vec<Observation>,
}

/// What a clause that compares exchanges saw in one of them.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Observation {
    /// The clause's name.
    pub clause: &'static str,
    /// What has to be the same, in the plural: 'answers of the type X'.
    pub subject: String,
    /// What it was here.
    pub value: String,
    /// Where it stands.
    pub place: Location,
    /// The part of the recordings that it belongs to, where only different parts are compared.
    pub part: Option<String>,
}

/// One thing that was found.
#[derive(Debug)]
pub struct NewFinding {
    place: Location,
    agreed: String,
    seen: String,
    weight: Option<Severity>,
    note: Option<String>,
}

impl Findings {
    /// Adds a finding: where, what was agreed there, what was seen.
    pub fn add(
        &mut self,
        place: Location,
        agreed: impl Into<String>,
        seen: impl Into<String>,
    ) -> &mut NewFinding {
        let (agreed, seen) = (brief(agreed.into()), brief(safe(&place, &seen.into())));
        let place = match place {
            Location::Pointer(pointer) => Location::Pointer(brief(pointer)),
            place => place,
        };
        self.found.push(NewFinding { place, agreed, seen, weight: None, note: None });
        let last = self.found.len() - 1;
        &mut self.found[last]
    }
}

impl Findings {
    /// Notes what was seen for a subject; at the end, what differs from most of them is a finding.
    pub fn compare(&mut self, subject: impl AsRef<str>, value: impl AsRef<str>, place: Location) {
        self.sight(subject.as_ref(), value.as_ref(), place, None);
    }

    /// The same, where only different parts of the recordings are compared with one another.
    pub fn compare_parts(&mut self, part: &str, subject: &str, value: &str, place: Location) {
        self.sight(subject, value, place, Some(part.to_owned()));
    }

    fn is_empty(&self) -> bool {
        self.found.is_empty() && self.sights.is_empty()
    }

    fn sight(&mut self, subject: &str, value: &str, place: Location, part: Option<String>) {
        let value = brief(safe(&place, value));
        let subject = brief(masked(subject).into_owned());
        self.sights.push(Observation { clause: "", subject, value, place, part });
    }
}

impl NewFinding {
    /// The finding weighs more or less than usual, as its basis is another here.
    pub fn weighs(&mut self, weight: Severity) -> &mut Self {
        self.weight = Some(weight);
        self
    }

    /// What else there is to know.
    pub fn note(&mut self, note: impl Into<String>) -> &mut Self {
        self.note = Some(brief(masked(&note.into()).into_owned()));
        self
    }
}

/// A text as long as a reader has patience for; names of members can be as long as their body.
fn brief(mut text: String) -> String {
    const MOST: usize = 400;
    if text.len() <= MOST {
        return text;
    }
    if let Some((end, _)) = text.char_indices().nth(MOST) {
        text.truncate(end);
        text.push('…');
    }
    text
}

/// What was seen, without secrets: of a member that is one by its name, nothing is told.
fn safe(place: &Location, seen: &str) -> String {
    let member = match place {
        Location::Pointer(pointer) => tokens(pointer).and_then(|mut steps| steps.pop()),
        _ => None,
    };
    if seen != "nothing" && member.is_some_and(|name| is_secret_name(&name)) {
        return "a value that is masked".to_owned();
    }
    masked(seen).into_owned()
}

/// What all clauses say of one exchange.
#[derive(Debug, Default)]
pub struct ExchangeResult {
    /// What was found, in the order of the catalogue.
    pub findings: Vec<Finding>,
    /// The clauses that were kept.
    pub kept: ClauseSet,
    /// The clauses that could not be judged.
    pub unjudged: ClauseSet,
    /// What the clauses that compare saw.
    pub sights: Vec<Observation>,
}

/// Judges an exchange by every clause that the contract has not switched off.
#[must_use]
pub fn judge(placed: &Classified<'_>) -> ExchangeResult {
    let mut judgement = ExchangeResult::default();
    let kinds = ClauseSelection::of(placed);
    let mut findings = Findings::default();
    for SelectedClause { at, judge, clause, .. } in kinds.clauses() {
        let weighing = placed.contract.weighing(*at);
        if weighing == Some(SeverityOverride::Off) {
            continue;
        }
        match judge(placed, &mut findings) {
            _ if !findings.found.is_empty() => {}
            ClauseOutcome::Outside => {}
            ClauseOutcome::Kept => judgement.kept.insert(*at),
            ClauseOutcome::Unjudged => judgement.unjudged.insert(*at),
        }
        if findings.is_empty() {
            continue;
        }
        let Findings { found, sights } = std::mem::take(&mut findings);
        for sight in sights {
            let value = undeclared(sight.value, placed);
            judgement.sights.push(Observation { clause: clause.name, value, ..sight });
        }
        for found in found {
            judgement.findings.push(finding(clause, found, weighing, placed));
        }
    }
    judgement
}

/// A text without what the contract declares to be a secret.
fn undeclared(text: String, placed: &Classified<'_>) -> String {
    placed.contract.secret.patterns.iter().fold(text, |text, pattern| {
        match pattern.replace_all(&text, "***") {
            Cow::Borrowed(_) => text,
            Cow::Owned(masked) => masked,
        }
    })
}

fn finding(
    clause: &Clause,
    found: NewFinding,
    weighing: Option<SeverityOverride>,
    placed: &Classified<'_>,
) -> Finding {
    let NewFinding { place, agreed, seen, weight, note } = found;
    let (seen, note) = (undeclared(seen, placed), note.map(|note| undeclared(note, placed)));
    let weight = match weighing {
        Some(SeverityOverride::As(weight)) => weight,
        Some(SeverityOverride::Off) | None => weight.unwrap_or(clause.weight),
    };
    let address = placed.exchange.address;
    Finding { clause: clause.name, weight, address, place, agreed, seen, note, unlike: None }
}

/// A clause that judges a kind of exchange, with what each exchange needs of it at hand.
struct SelectedClause {
    /// Its place in the catalogue.
    at: usize,
    of_problems: bool,
    judge: fn(&Classified<'_>, &mut Findings) -> ClauseOutcome,
    clause: &'static Clause,
}

/// The clauses for each kind of exchange, chosen once.
type List = OnceLock<Vec<SelectedClause>>;
static UNANSWERED: List = OnceLock::new();
static SUCCESSES: List = OnceLock::new();
static ERRORS: List = OnceLock::new();

/// What an exchange is, for choosing the clauses that judge it.
struct ClauseSelection<'p, 'a> {
    placed: &'p Classified<'a>,
    answered: bool,
    error: bool,
    problem: std::cell::OnceCell<bool>,
}

impl<'p, 'a> ClauseSelection<'p, 'a> {
    fn of(placed: &'p Classified<'a>) -> Self {
        let (answered, error) = (placed.response().is_some(), placed.is_error());
        Self { placed, answered, error, problem: std::cell::OnceCell::new() }
    }

    /// The clauses that judge it.
    fn clauses(&self) -> impl Iterator<Item = &'static SelectedClause> {
        let of = |all: &[AppliesTo]| -> Vec<SelectedClause> {
            let chosen = catalogue().enumerate().filter(|(_, clause)| all.contains(&clause.of));
            let chosen = chosen.map(|(at, clause)| {
                let of_problems = clause.of == AppliesTo::Problems;
                SelectedClause { at, of_problems, judge: clause.judge, clause }
            });
            chosen.collect()
        };
        let list = match (self.answered, self.error) {
            (false, _) => UNANSWERED.get_or_init(|| of(&[AppliesTo::Exchanges])),
            (true, false) => SUCCESSES.get_or_init(|| {
                of(&[AppliesTo::Exchanges, AppliesTo::Answers, AppliesTo::Successes])
            }),
            (true, true) => ERRORS.get_or_init(|| {
                of(&[
                    AppliesTo::Exchanges,
                    AppliesTo::Answers,
                    AppliesTo::Errors,
                    AppliesTo::Problems,
                ])
            }),
        };
        // Whether it is a problem is only known once somebody has looked into it.
        list.iter().filter(|chosen| !chosen.of_problems || self.is_problem())
    }

    fn is_problem(&self) -> bool {
        let is_problem = || {
            self.placed.is_meant_as_problem()
                && matches!(self.placed.body(), ParsedBody::Json(_) | ParsedBody::Unknown(_))
        };
        self.error && *self.problem.get_or_init(is_problem)
    }
}
