//! Runs the clauses over a classified exchange.

use std::borrow::Cow;
use std::sync::OnceLock;

use super::{AppliesTo, Clause, ClauseSet, catalogue};
use crate::classify::{Classified, ParsedBody};
use faithful_clerk_contract::SeverityOverride;
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Finding, Severity};
use faithful_clerk_model::json::pointer::tokens;
use faithful_clerk_model::secret::is_secret_name;
use faithful_clerk_model::secret::mask::masked;

/// What a clause says of one exchange, unless it found something: then it is broken.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ClauseOutcome {
    /// The clause does not speak of such an exchange.
    NotApplicable,
    /// It is kept.
    Met,
    /// It would speak of it, but what it needs is not there.
    NotChecked,
}

/// What a clause found in one exchange.
#[derive(Debug, Default)]
pub struct Findings {
    found: Vec<NewFinding>,
    observations: Vec<Observation>,
}

/// What a clause that compares exchanges saw in one of them.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Observation {
    /// The clause's name.
    pub clause: &'static str,
    /// What has to be the same, in the plural: 'responses of the type X'.
    pub subject: String,
    /// What it was here.
    pub value: String,
    /// Where it stands.
    pub location: Location,
    /// The part of the recordings that it belongs to, where only different parts are compared.
    pub part: Option<String>,
}

/// One thing that was found.
#[derive(Debug)]
pub struct NewFinding {
    location: Location,
    expected: String,
    got: String,
    severity: Option<Severity>,
    because: Option<String>,
}

impl Findings {
    /// Adds a finding: where, what was expected there, what was seen.
    pub fn add(
        &mut self,
        place: Location,
        agreed: impl Into<String>,
        seen: impl Into<String>,
    ) -> &mut NewFinding {
        let (agreed, seen) = (shortened(agreed.into()), shortened(safe(&place, &seen.into())));
        let place = match place {
            Location::Pointer(pointer) => Location::Pointer(shortened(pointer)),
            place => place,
        };
        self.found.push(NewFinding {
            location: place,
            expected: agreed,
            got: seen,
            severity: None,
            because: None,
        });
        let last = self.found.len() - 1;
        &mut self.found[last]
    }
}

impl Findings {
    /// Notes what was seen for a subject; at the end, what differs from most of them is a finding.
    pub fn compare(&mut self, subject: impl AsRef<str>, value: impl AsRef<str>, place: Location) {
        self.observe(subject.as_ref(), value.as_ref(), place, None);
    }

    /// The same, where only different parts of the recordings are compared with one another.
    pub fn compare_parts(&mut self, part: &str, subject: &str, value: &str, place: Location) {
        self.observe(subject, value, place, Some(part.to_owned()));
    }

    fn is_empty(&self) -> bool {
        self.found.is_empty() && self.observations.is_empty()
    }

    fn observe(&mut self, subject: &str, value: &str, place: Location, part: Option<String>) {
        let value = shortened(safe(&place, value));
        let subject = shortened(masked(subject).into_owned());
        self.observations.push(Observation { clause: "", subject, value, location: place, part });
    }
}

impl NewFinding {
    /// The finding counts more or less than usual, as its basis is another here.
    pub fn severity(&mut self, weight: Severity) -> &mut Self {
        self.severity = Some(weight);
        self
    }

    /// What else there is to know.
    pub fn because(&mut self, note: impl Into<String>) -> &mut Self {
        self.because = Some(shortened(masked(&note.into()).into_owned()));
        self
    }
}

/// A text as long as a reader has patience for; names of members can be as long as their body.
fn shortened(mut text: String) -> String {
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
    pub met: ClauseSet,
    /// The clauses that could not be checked.
    pub not_checked: ClauseSet,
    /// What the clauses that compare saw.
    pub observations: Vec<Observation>,
}

/// Checks an exchange by every clause that the contract has not switched off.
#[must_use]
pub fn check_exchange(classified: &Classified<'_>) -> ExchangeResult {
    let mut result = ExchangeResult::default();
    let kinds = ClauseSelection::of(classified);
    let mut findings = Findings::default();
    for SelectedClause { index: at, check, clause, .. } in kinds.clauses() {
        let weighing = classified.contract.severity_override(*at);
        if weighing == Some(SeverityOverride::Off) {
            continue;
        }
        match check(classified, &mut findings) {
            _ if !findings.found.is_empty() => {}
            ClauseOutcome::NotApplicable => {}
            ClauseOutcome::Met => result.met.insert(*at),
            ClauseOutcome::NotChecked => result.not_checked.insert(*at),
        }
        if findings.is_empty() {
            continue;
        }
        let Findings { found, observations: sights } = std::mem::take(&mut findings);
        for sight in sights {
            let value = undeclared(sight.value, classified);
            result.observations.push(Observation { clause: clause.name, value, ..sight });
        }
        for found in found {
            result.findings.push(finding(clause, found, weighing, classified));
        }
    }
    result
}

/// A text without what the contract declares to be a secret.
fn undeclared(text: String, classified: &Classified<'_>) -> String {
    classified.contract.secret.patterns.iter().fold(text, |text, pattern| {
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
    classified: &Classified<'_>,
) -> Finding {
    let NewFinding {
        location: place,
        expected: agreed,
        got: seen,
        severity: weight,
        because: note,
    } = found;
    let (seen, note) =
        (undeclared(seen, classified), note.map(|note| undeclared(note, classified)));
    let weight = match weighing {
        Some(SeverityOverride::As(weight)) => weight,
        Some(SeverityOverride::Off) | None => weight.unwrap_or(clause.severity),
    };
    let address = classified.exchange.address;
    Finding {
        clause: clause.name,
        severity: weight,
        address,
        location: place,
        expected: agreed,
        got: seen,
        because: note,
        conforming: None,
    }
}

/// A clause that checks a kind of exchange, with what each exchange needs of it at hand.
struct SelectedClause {
    /// Its place in the catalogue.
    index: usize,
    of_problems: bool,
    check: fn(&Classified<'_>, &mut Findings) -> ClauseOutcome,
    clause: &'static Clause,
}

/// The clauses for each kind of exchange, chosen once.
type List = OnceLock<Vec<SelectedClause>>;
static UNANSWERED: List = OnceLock::new();
static SUCCESSES: List = OnceLock::new();
static ERRORS: List = OnceLock::new();

/// What an exchange is, for choosing the clauses that check it.
struct ClauseSelection<'p, 'a> {
    exchange: &'p Classified<'a>,
    answered: bool,
    error: bool,
    problem: std::cell::OnceCell<bool>,
}

impl<'p, 'a> ClauseSelection<'p, 'a> {
    fn of(exchange: &'p Classified<'a>) -> Self {
        let (answered, error) = (exchange.response().is_some(), exchange.is_error());
        Self { exchange, answered, error, problem: std::cell::OnceCell::new() }
    }

    /// The clauses that check it.
    fn clauses(&self) -> impl Iterator<Item = &'static SelectedClause> {
        let of = |all: &[AppliesTo]| -> Vec<SelectedClause> {
            let chosen =
                catalogue().enumerate().filter(|(_, clause)| all.contains(&clause.applies_to));
            let chosen = chosen.map(|(at, clause)| {
                let of_problems = clause.applies_to == AppliesTo::Problems;
                SelectedClause { index: at, of_problems, check: clause.check, clause }
            });
            chosen.collect()
        };
        let list = match (self.answered, self.error) {
            (false, _) => UNANSWERED.get_or_init(|| of(&[AppliesTo::Exchanges])),
            (true, false) => SUCCESSES.get_or_init(|| {
                of(&[AppliesTo::Exchanges, AppliesTo::Responses, AppliesTo::Successes])
            }),
            (true, true) => ERRORS.get_or_init(|| {
                of(&[
                    AppliesTo::Exchanges,
                    AppliesTo::Responses,
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
            self.exchange.is_meant_as_problem()
                && matches!(self.exchange.body(), ParsedBody::Json(_) | ParsedBody::Unknown(_))
        };
        self.error && *self.problem.get_or_init(is_problem)
    }
}
