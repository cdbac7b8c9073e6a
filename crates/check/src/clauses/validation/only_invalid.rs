use super::input::is_about_input;
use serde_json::Value;

use crate::classify::{Classified, InvalidParameter, LocationForm, ParsedBody, ReportedField};
use crate::clauses::example::{NIGHTS_REFUSED, TOO_MANY_NIGHTS};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_contract::{Parameter, ParameterLocation, Rules};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, FieldRef, Got, Pointer, Severity};
use faithful_clerk_model::json::pointer::{from_tokens, resolve, tokens};
use faithful_clerk_shape::MOST_MISMATCHES;

pub(super) static CLAUSE: Clause = Clause {
    name: "validation.only-invalid",
    statement: "A validation error names no valid field.",
    basis: &[Basis::rfc(9457, "3"), Basis::Contract("body-members"), Basis::Contract("body")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Errors,
    reason: "A caller who changes a valid field may break it.",
    fix: "Report the field that the rule is about; if it is about several, report those that break it.",
    check,
    met: &[Example::met("only the invalid field", TOO_MANY_NIGHTS, NIGHTS_REFUSED)],
    broken: &[Example::broken(
        "a valid field",
        TOO_MANY_NIGHTS,
        r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/invalid-request","title":"The request is not valid","status":422,"errors":[{"pointer":"/nights","detail":"at most 28"},{"pointer":"/vessel_id","detail":"is odd"}]}"#,
        &[("body /errors/1/pointer", "\"/vessel_id\"")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let situations = &classified.situations;
    let is_wrong = !situations.invalid.is_empty() || !situations.parameters.is_empty();
    if !is_wrong || !is_about_input(classified) {
        return ClauseOutcome::NotApplicable;
    }
    if let ParsedBody::Unknown(_) = classified.body() {
        return ClauseOutcome::NotChecked;
    }
    // Beyond so many places nobody knows which other ones are invalid.
    if situations.invalid.len() >= MOST_MISMATCHES {
        return ClauseOutcome::NotChecked;
    }
    let request = ReportedRequest::of(classified);
    let whole = classified.style().validation_errors.root.as_deref();
    let mut outcome = ClauseOutcome::NotApplicable;
    for entry in classified.reported_fields() {
        // Of a place that the rules do not know, nobody can say that it was in order.
        let is_whole = entry.location.as_deref() == whole || entry.steps.is_empty();
        if entry.location.is_none() || is_whole || !request.knows(entry) {
            continue;
        }
        outcome = ClauseOutcome::Met;
        if !request.is_invalid(entry) {
            let got = Got::quoted(entry.location.as_deref().unwrap_or_default());
            let location = Location::Pointer(entry.pointer.clone());
            findings.add(location, Expected::InvalidLocation(request.fields()), got);
        }
    }
    outcome
}

/// What a violation can be about: the members of the request's body, and its parameters.
struct ReportedRequest<'p> {
    rules: &'p Rules,
    body: Option<&'p Value>,
    invalid: Vec<Vec<String>>,
    parameters: &'p [InvalidParameter],
}

impl<'p> ReportedRequest<'p> {
    fn of(classified: &'p Classified<'_>) -> Self {
        let situations = &classified.situations;
        Self {
            rules: classified.rules(),
            body: situations.body.as_ref(),
            invalid: situations.invalid.iter().filter_map(|one| tokens(&one.pointer)).collect(),
            parameters: &situations.parameters,
        }
    }

    /// Does the violation name a member that the body has and the rules know, or a parameter that they know?
    fn knows(&self, entry: &ReportedField) -> bool {
        let is_partial = self.rules.body.as_ref().is_some_and(|rules| rules.is_partial);
        (self.has_member(entry) && !is_partial) || self.parameter(entry).is_some()
    }

    fn has_member(&self, entry: &ReportedField) -> bool {
        let (Some(body), Some(rules)) = (self.body, &self.rules.body) else { return false };
        entry.form != LocationForm::Parameter
            && entry.paths().any(|path| {
                path.first().is_some_and(|first| rules.knows(first))
                    && resolve(body, path).is_some()
            })
    }

    /// The parameter that it names, where it is said to be one or is no member of the body.
    fn parameter(&self, entry: &ReportedField) -> Option<&'p Parameter> {
        let is_said = entry.form == LocationForm::Parameter || entry.is_in_parameters();
        let is_alone = entry.steps.len() == 1 && !self.has_member(entry);
        let name = entry.steps.last().filter(|_| is_said || is_alone)?;
        self.rules.parameters().iter().find(|parameter| parameter.has_name(name))
    }

    fn is_invalid(&self, entry: &ReportedField) -> bool {
        let by_member = |place: &Vec<String>| entry.is_at_or_below(place) || entry.is_above(place);
        let by_name = |invalid: &InvalidParameter| {
            entry.is_parameter(&invalid.name)
                || (invalid.location == ParameterLocation::Path && entry.is_in_path())
        };
        self.invalid.iter().any(by_member) || self.parameters.iter().any(by_name)
    }

    /// What is invalid.
    fn fields(&self) -> Vec<FieldRef> {
        let members =
            self.invalid.iter().map(|steps| FieldRef::Body(Pointer::new(from_tokens(steps))));
        let parameters = self
            .parameters
            .iter()
            .map(|one| FieldRef::Parameter(one.location.name().to_owned(), one.name.clone()));
        members.chain(parameters).collect()
    }
}
