//! What helps to write a contract: situations without a fault, faults that can never come, cases that overlap.

use serde_json::Value;

use faithful_clerk_check::grid::can_show;
use faithful_clerk_contract::{
    Authentication, BodyPresence, Case, CaseSensitivity, Condition, Endpoint, ErrorContract,
    Expectation, Fault, FaultClass, FaultId, Rules, TemplateSegment,
};
use faithful_clerk_model::method;
use faithful_clerk_model::situation::Situation;
use faithful_clerk_shape::{
    ConstrainedType, Limit, ShapeTable, TypeName, text_fits, value_fits, values_equal,
};

/// All of it.
#[derive(Debug, Default)]
pub struct ContractNotices {
    /// Where situations have no fault, in the order of the contract; what leads to no endpoint comes last.
    pub unanswered: Vec<UnansweredSituations>,
    /// Faults that no request can get.
    pub never: Vec<NeverExpected>,
    /// Cases that one request can be for.
    pub overlapping: Vec<OverlappingCases>,
}

impl ContractNotices {
    /// Is there nothing to say?
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.unanswered.is_empty() && self.never.is_empty() && self.overlapping.is_empty()
    }
}

/// Situations that a request can be in, and that no fault is for.
#[derive(Debug, PartialEq, Eq)]
pub struct UnansweredSituations {
    /// The endpoint; none where a request leads to none.
    pub endpoint: Option<String>,
    /// The situations.
    pub situations: Vec<Situation>,
}

/// A fault for situations that no request can be in, where it is declared.
#[derive(Debug, PartialEq, Eq)]
pub struct NeverExpected {
    /// The fault.
    pub fault: String,
    /// The endpoint that names it, itself or by a group; none where it is named for all.
    pub endpoint: Option<String>,
    /// What it is for.
    pub when: Vec<Situation>,
}

/// Two cases that one request can be for, and that expect different things.
#[derive(Debug, PartialEq, Eq)]
pub struct OverlappingCases {
    /// The one that stands first.
    pub one: String,
    /// The other.
    pub other: String,
}

/// What is to be said of a contract.
#[must_use]
pub fn contract_notices(contract: &ErrorContract) -> ContractNotices {
    ContractNotices {
        unanswered: unanswered(contract),
        never: never(contract),
        overlapping: overlapping(contract),
    }
}

fn faults<'c>(contract: &'c ErrorContract, rules: &'c Rules) -> impl Iterator<Item = &'c Fault> {
    rules.faults.iter().filter_map(|id| contract.fault(*id))
}

fn unanswered(contract: &ErrorContract) -> Vec<UnansweredSituations> {
    // Where nothing is said of any fault, nobody has begun.
    if contract.faults.is_empty() {
        return Vec::new();
    }
    let is_for = |fault: &Fault, situation: Situation| {
        fault.is_for(situation)
            || (fault.when.is_empty()
                && Situation::implied_by_status(fault.status) == Some(situation))
    };
    let of_endpoint = |endpoint: &Endpoint| {
        let may_be = |situation: &Situation| {
            let is_unknown_id =
                *situation == Situation::ResourceNotFound && endpoint.path.contains('{');
            is_unknown_id || can_show(&endpoint.rules, *situation) == Some(true)
        };
        let lacks = |one: &Situation| !faults(contract, &endpoint.rules).any(|f| is_for(f, *one));
        let situations: Vec<Situation> =
            Situation::ALL.into_iter().filter(may_be).filter(lacks).collect();
        // A description may document an error for them.
        let is_documented = endpoint.rules.documented.is_some();
        (!situations.is_empty() && !is_documented)
            .then(|| UnansweredSituations { endpoint: Some(endpoint.name()), situations })
    };
    let mut found: Vec<_> = contract.endpoints.iter().filter_map(of_endpoint).collect();
    let nowhere = [Situation::UnknownRoute, Situation::MethodNotAllowed];
    let is_open = |situation: &Situation| {
        let rules = contract.styles().map(|(region, _)| contract.rules_at(None, region));
        rules.into_iter().any(|rules| !faults(contract, rules).any(|f| is_for(f, *situation)))
    };
    let situations: Vec<Situation> = nowhere.into_iter().filter(is_open).collect();
    if !situations.is_empty() {
        found.push(UnansweredSituations { endpoint: None, situations });
    }
    found
}

fn never(contract: &ErrorContract) -> Vec<NeverExpected> {
    let by_case = |id: FaultId| {
        let in_entries = contract.endpoints.iter().filter_map(|one| one.rules.partial.as_ref());
        contract.cases.iter().any(|case| case.expect == Expectation::Fault(id))
            || in_entries.into_iter().any(|partial| partial.faults.contains(&id))
    };
    // A fault that a request does not show can always come.
    let is_visible = |fault: &Fault| {
        fault.class == FaultClass::Expected
            && !fault.when.is_empty()
            && fault.when.iter().all(|one| one.is_visible_in_request())
    };
    let elsewhere = || contract.styles().map(|(region, _)| contract.rules_at(None, region));
    let mut found = Vec::new();
    for (at, fault) in contract.faults.iter().enumerate() {
        let id = FaultId(at);
        if !is_visible(fault) || by_case(id) {
            continue;
        }
        let is_everywhere = elsewhere().any(|rules| rules.faults.contains(&id));
        let nowhere =
            [Situation::UnknownRoute, Situation::MethodNotAllowed, Situation::UnknownMethod];
        let at_endpoints: Vec<&Endpoint> =
            contract.endpoints.iter().filter(|one| one.rules.faults.contains(&id)).collect();
        let (impossible, possible): (Vec<_>, Vec<_>) = at_endpoints
            .into_iter()
            .partition(|endpoint| !fault.when.iter().any(|one| can_hold(endpoint, *one)));
        let notice = |endpoint: Option<String>| NeverExpected {
            fault: fault.name.clone(),
            endpoint,
            when: fault.when.clone(),
        };
        if is_everywhere {
            let is_elsewhere = fault.when.iter().any(|one| nowhere.contains(one));
            found.extend((possible.is_empty() && !is_elsewhere).then(|| notice(None)));
        } else {
            found.extend(impossible.iter().map(|endpoint| notice(Some(endpoint.name()))));
        }
    }
    found
}

/// Can a request to the endpoint be in a situation that a request shows? What the contract leaves open can be.
pub(super) fn can_hold(endpoint: &Endpoint, situation: Situation) -> bool {
    let rules = &endpoint.rules;
    let has_body = || method::usually_has_body(&endpoint.method);
    match situation {
        Situation::UnknownRoute | Situation::MethodNotAllowed => false,
        Situation::MissingCredentials => rules.auth != Some(Authentication::None),
        Situation::MalformedBody | Situation::InvalidBody => rules.body.is_some() || has_body(),
        Situation::MissingBody => match &rules.body {
            Some(body) => body.required == BodyPresence::Yes,
            None => has_body(),
        },
        Situation::PreconditionRequired => rules
            .requires
            .as_ref()
            .is_none_or(|required| required.iter().any(|(_, missing)| *missing == situation)),
        _ => true,
    }
}

fn overlapping(contract: &ErrorContract) -> Vec<OverlappingCases> {
    let mut found = Vec::new();
    for (at, one) in contract.cases.iter().enumerate() {
        for other in contract.cases.iter().skip(at + 1) {
            let is_other = one.expect != other.expect || one.situation != other.situation;
            if is_other && could_be_one_request(one, other) {
                found.push(OverlappingCases { one: one.name.clone(), other: other.name.clone() });
            }
        }
    }
    found
}

/// Can a request be for both cases? Where nobody can tell, it is not said.
fn could_be_one_request(one: &Case, other: &Case) -> bool {
    let methods = one.method.as_ref().zip(other.method.as_ref());
    if methods.is_some_and(|(one, other)| one != other)
        || !one.uses.is_empty()
        || !other.uses.is_empty()
    {
        return false;
    }
    let (Some(path), Some(other_path)) = (&one.path, &other.path) else { return false };
    let same_path = path.len() == other_path.len()
        && path.iter().zip(other_path).all(|(one, other)| one.could_equal(other));
    let is_apart = |one: &[Condition], other: &[Condition]| {
        let pairs = one.iter().flat_map(|one| other.iter().map(move |other| (one, other)));
        pairs
            .filter(|(one, other)| one.name.eq_ignore_ascii_case(&other.name))
            .any(|(one, other)| are_apart(one, other))
    };
    same_path
        && !literal_is_apart(one, other)
        && !literal_is_apart(other, one)
        && !is_apart(&one.values, &other.values)
        && !is_apart(&one.query, &other.query)
        && !is_apart(&one.headers, &other.headers)
        && !is_apart(&one.body, &other.body)
}

/// Is what one case has written out in its path a value that the other's condition on the parameter refuses?
fn literal_is_apart(one: &Case, other: &Case) -> bool {
    let (Some(path), Some(other_path)) = (&one.path, &other.path) else { return false };
    let names = other.template.split('/').skip(1);
    let mut steps = path.iter().zip(other_path).zip(names);
    steps.any(|((literal, parameter), name)| {
        let (TemplateSegment::Literal(text), Some(value)) =
            (literal, literal_value(literal, parameter))
        else {
            return false;
        };
        debug_assert!(parameter.admits(text, CaseSensitivity::Insensitive));
        let name =
            name.split_once('{').and_then(|(_, rest)| rest.split_once('}')).map(|(name, _)| name);
        let mut conditions = other.values.iter().filter(|one| Some(one.name.as_str()) == name);
        conditions.any(|one| {
            excludes(
                &one.rule.constrained.name,
                &one.rule.constrained.limits,
                &Value::from(value.as_str()),
            )
        })
    })
}

/// The value that a parameter has in a literal segment.
fn literal_value(literal: &TemplateSegment, parameter: &TemplateSegment) -> Option<String> {
    let TemplateSegment::Literal(text) = literal else { return None };
    parameter.value(text).map(str::to_owned)
}

/// Is there no value that both conditions admit, as far as that is plain to see?
fn are_apart(one: &Condition, other: &Condition) -> bool {
    let exact = |condition: &Condition| match &condition.rule.constrained.name {
        TypeName::Exactly(value) => Some(vec![value.clone()]),
        TypeName::OneOf(values) => Some(values.clone()),
        _ => None,
    };
    let absent =
        |condition: &Condition| matches!(condition.rule.constrained.name, TypeName::Absent);
    if absent(one) != absent(other) {
        let present = if absent(one) { other } else { one };
        return !present.rule.optional;
    }
    match (exact(one), exact(other)) {
        (Some(one), Some(other)) => {
            !one.iter().any(|one| other.iter().any(|other| values_equal(one, other)))
        }
        (Some(values), None) => {
            let typed = &other.rule.constrained;
            values.iter().all(|value| excludes(&typed.name, &typed.limits, value))
        }
        (None, Some(values)) => {
            let typed = &one.rule.constrained;
            values.iter().all(|value| excludes(&typed.name, &typed.limits, value))
        }
        (None, None) => false,
    }
}

/// Does a type refuse a value, as text in a path, a query or a header would be read?
fn excludes(name: &TypeName, limits: &[Limit], value: &Value) -> bool {
    let typed = ConstrainedType { name: name.clone(), limits: limits.to_vec() };
    let shapes = ShapeTable::default();
    let text = value.as_str().map_or_else(|| value.to_string(), str::to_owned);
    !text_fits(&text, &typed, &shapes) && !value_fits(value, &typed, &shapes)
}
