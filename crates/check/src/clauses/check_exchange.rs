//! Runs the clauses over a classified exchange.

use std::borrow::Cow;
use std::sync::OnceLock;

use super::{AppliesTo, Clause, ClauseSet, catalogue};
use crate::classify::{Classified, ParsedBody, by_intention, by_request};
use faithful_clerk_contract::SeverityOverride;
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{
    Because, Detail as _, Expected, Finding, Got, NotChecked, ObservedValue, Severity, Subject,
};
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

/// What a clause that compares exchanges observed in one of them.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Observation {
    /// The clause's name.
    pub clause: &'static str,
    /// What has to be the same.
    pub subject: Subject,
    /// What it is here.
    pub value: ObservedValue,
    /// Where it stands.
    pub location: Location,
    /// The part of the recordings that it belongs to, where only different parts are compared.
    pub part: Option<String>,
}

/// One thing that was found.
#[derive(Debug)]
pub struct NewFinding {
    location: Location,
    expected: Expected,
    got: Got,
    severity: Option<Severity>,
    because: Option<Because>,
    not_checked: Option<NotChecked>,
}

impl Findings {
    /// Adds a finding: where, what was expected there, what is there.
    pub fn add(&mut self, location: Location, mut expected: Expected, got: Got) -> &mut NewFinding {
        expected.rewrite(&shortened);
        let got = safe(&location, got);
        let location = match location {
            Location::Pointer(mut pointer) => {
                pointer.rewrite(&shortened);
                Location::Pointer(pointer)
            }
            location => location,
        };
        self.found.push(NewFinding {
            location,
            expected,
            got,
            severity: None,
            because: None,
            not_checked: None,
        });
        let last = self.found.len() - 1;
        &mut self.found[last]
    }

    /// Notes what is there for a subject; at the end, what differs from most of them is a finding.
    pub fn compare(&mut self, subject: Subject, value: ObservedValue, location: Location) {
        self.observe(subject, value, location, None);
    }

    /// The same, where only different parts of the recordings are compared with one another.
    pub fn compare_parts(
        &mut self,
        part: &str,
        subject: Subject,
        value: ObservedValue,
        location: Location,
    ) {
        self.observe(subject, value, location, Some(part.to_owned()));
    }

    fn is_empty(&self) -> bool {
        self.found.is_empty() && self.observations.is_empty()
    }

    /// Takes back what was found at header fields that the recording would not hold, had they been sent. Gives whether
    /// anything was.
    fn drop_unknown(&mut self, classified: &Classified<'_>) -> bool {
        let Some(response) = classified.response().filter(|one| one.headers.recorded().is_some())
        else {
            return false;
        };
        let before = self.found.len();
        let is_unknown = |location: &Location| match location {
            Location::Header(name) => response.headers.is_unknown(name),
            _ => false,
        };
        self.found.retain(|finding| !is_unknown(&finding.location));
        self.found.len() < before
    }

    fn observe(
        &mut self,
        mut subject: Subject,
        mut value: ObservedValue,
        location: Location,
        part: Option<String>,
    ) {
        if names_a_secret(&location) {
            value = ObservedValue::Masked;
        }
        value.rewrite(&masked_and_shortened);
        subject.rewrite(&masked_and_shortened);
        self.observations.push(Observation { clause: "", subject, value, location, part });
    }
}

impl NewFinding {
    /// The finding counts more or less than usual, as its basis is another here.
    pub fn severity(&mut self, severity: Severity) -> &mut Self {
        self.severity = Some(severity);
        self
    }

    /// How the situation was recognised, or what else shows it.
    pub fn because(&mut self, mut because: Because) -> &mut Self {
        because.rewrite(&masked_and_shortened);
        self.because = Some(because);
        self
    }

    /// What in the request shows the first situation that decides about the response.
    pub fn because_of_request(&mut self, classified: &Classified<'_>) {
        let situations = &classified.situations;
        let mut deciding = situations.holds.iter().filter(|one| situations.decides(*one));
        if let Some(situation) = deciding.next() {
            self.because(by_request(classified, situation));
        } else if situations.repeats {
            self.because(by_intention(classified));
        }
    }

    /// What could not be checked because of it.
    pub fn not_checked(&mut self, not_checked: NotChecked) -> &mut Self {
        self.not_checked = Some(not_checked);
        self
    }
}

/// A text as long as a reader has patience for; names of members can be as long as their body.
fn shortened(text: &str) -> Option<String> {
    const MOST: usize = 400;
    if text.len() <= MOST {
        return None;
    }
    let (end, _) = text.char_indices().nth(MOST)?;
    Some(format!("{}…", text.get(..end)?))
}

fn masked_and_shortened(text: &str) -> Option<String> {
    match masked(text) {
        Cow::Borrowed(safe) if safe.len() == text.len() => shortened(safe),
        safe => shortened(&safe).or_else(|| Some(safe.into_owned())),
    }
}

/// What is there, without secrets: of a member that is one by its name, nothing is told.
fn safe(location: &Location, mut got: Got) -> Got {
    if got != Got::Nothing && names_a_secret(location) {
        return Got::Masked;
    }
    got.rewrite(&masked_and_shortened);
    got
}

fn names_a_secret(location: &Location) -> bool {
    let Location::Pointer(pointer) = location else { return false };
    let member = tokens(pointer).and_then(|mut tokens| tokens.pop());
    member.is_some_and(|name| is_secret_name(&name))
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
    let undeclared = |text: &str| without_declared_secrets(text, classified);
    let mut findings = Findings::default();
    for SelectedClause { index: at, check, clause, .. } in kinds.clauses() {
        let weighing = classified.contract.severity_override(*at);
        if weighing == Some(SeverityOverride::Off) {
            continue;
        }
        let mut outcome = check(classified, &mut findings);
        if findings.drop_unknown(classified) {
            outcome = ClauseOutcome::NotChecked;
        }
        match outcome {
            _ if !findings.found.is_empty() => {}
            ClauseOutcome::NotApplicable => {}
            ClauseOutcome::Met => result.met.insert(*at),
            ClauseOutcome::NotChecked => result.not_checked.insert(*at),
        }
        if findings.is_empty() {
            continue;
        }
        let Findings { found, observations } = std::mem::take(&mut findings);
        for mut observation in observations {
            observation.value.rewrite(&undeclared);
            result.observations.push(Observation { clause: clause.name, ..observation });
        }
        for found in found {
            result.findings.push(finding(clause, found, weighing, classified));
        }
    }
    result
}

/// A text without what the contract declares to be a secret, where it holds any.
fn without_declared_secrets(text: &str, classified: &Classified<'_>) -> Option<String> {
    let patterns = classified.contract.secret.patterns.iter();
    patterns.fold(None, |safe: Option<String>, pattern| {
        match pattern.replace_all(safe.as_deref().unwrap_or(text), "***") {
            Cow::Borrowed(_) => safe,
            Cow::Owned(masked) => Some(masked),
        }
    })
}

fn finding(
    clause: &Clause,
    found: NewFinding,
    severity_override: Option<SeverityOverride>,
    classified: &Classified<'_>,
) -> Finding {
    let NewFinding { location, expected, mut got, severity, mut because, not_checked } = found;
    let undeclared = |text: &str| without_declared_secrets(text, classified);
    got.rewrite(&undeclared);
    because.rewrite(&undeclared);
    let severity = match severity_override {
        Some(SeverityOverride::As(severity)) => severity,
        Some(SeverityOverride::Off) | None => severity.unwrap_or(clause.severity),
    };
    Finding {
        clause: clause.name,
        severity,
        address: classified.exchange.address,
        location,
        expected,
        got,
        because,
        not_checked,
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
