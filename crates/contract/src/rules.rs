//! The rules that `[everywhere]`, `[group.*]` and `[endpoint.*]` have in common, and how the more specific win.

use serde_json::Value;

use crate::credential_scheme::CredentialScheme;
use crate::documented::{DocumentedResponse, DocumentedResponses};
use crate::member_rules::MemberRule;
use crate::model::{Authentication, DeclaredType, DocumentedRanges, Fault, FaultId};
use faithful_clerk_model::situation::Situation;
use faithful_clerk_schema::CompiledSchema;
use faithful_clerk_shape::ShapeId;
use faithful_clerk_shape::{Mismatch, Shape, ShapeTable, compare};

/// What holds at an endpoint. What is not said is left open.
#[derive(Debug, Clone, Default)]
pub struct Rules {
    /// The faults that it may respond with.
    pub faults: Vec<FaultId>,
    /// The statuses of a success.
    pub success: Option<Vec<u16>>,
    /// What a request needs beside its parameters.
    pub auth: Option<Authentication>,
    /// The schemes of credentials that do, by the description: alternatives, each of schemes that are all needed.
    pub security: Option<Vec<Vec<CredentialScheme>>>,
    /// The media types that a request body may have.
    pub accepts: Option<Vec<String>>,
    /// The media types that a success can have.
    pub produces: Option<Vec<String>>,
    /// The order in which the service looks: the first step that holds decides.
    pub precedence: Option<Vec<Vec<Situation>>>,
    /// Headers that a request needs, and what their absence is.
    pub requires: Option<Vec<(String, Situation)>>,
    /// The largest body that is read, in bytes.
    pub max_request_body: Option<u64>,
    /// The deadline of every response, in milliseconds.
    pub respond_within: Option<f64>,
    /// The headers of a success.
    pub success_headers: Option<Vec<HeaderRule>>,
    /// The headers of an error.
    pub error_headers: Option<Vec<HeaderRule>>,
    /// The shape of a success.
    pub success_shape: Option<ShapeId>,
    /// The rules for parameters.
    pub parameters: Option<Vec<Parameter>>,
    /// The rules for the body of a request.
    pub body: Option<BodyRules>,
    /// Errors that are allowed inside a success.
    pub partial: Option<PartialSuccess>,
    /// The responses that a description documents.
    pub documented: Option<DocumentedResponses>,
    /// Does the contract name faults for the endpoint itself, or for a group that it is in?
    pub names_faults: bool,
    /// What a query parameter means that has no rule.
    pub unknown_parameters: Option<ExtraParameters>,
    /// What it means if a parameter that is no array stands more than once.
    pub repeated_parameters: Option<ExtraParameters>,
}

/// What something means that a request has beside what is declared.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ExtraParameters {
    /// Nothing: it is passed over.
    Ignored,
    /// The request is invalid.
    Refused,
}

/// What a header has to be.
#[derive(Debug, Clone)]
pub struct HeaderRule {
    /// The header's name.
    pub name: String,
    /// What is asked of it.
    pub requirement: HeaderRequirement,
}

/// What is asked of a header.
#[derive(Debug, Clone)]
pub enum HeaderRequirement {
    /// Its value fits a type expression.
    Type(DeclaredType),
    /// It is a list that has these members, among others; of `A or B` either will do.
    Containing(Vec<String>),
    /// It holds a challenge of this scheme, with these parameters (RFC 9110 section 11.3).
    Challenge(String, Vec<(String, String)>),
}

impl HeaderRequirement {
    /// What is asked, in words.
    #[must_use]
    pub fn words(&self) -> String {
        match self {
            Self::Type(phrased) => phrased.text.clone(),
            Self::Containing(members) => format!("a list with {} in it", members.join(", ")),
            Self::Challenge(scheme, parameters) => {
                let each = parameters.iter().map(|(name, value)| format!("{name}={value}"));
                match each.collect::<Vec<_>>().join(", ") {
                    none if none.is_empty() => format!("a challenge {scheme}"),
                    with => format!("a challenge {scheme} with {with}"),
                }
            }
        }
    }
}

/// Where a parameter stands in a request.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum ParameterLocation {
    /// In the path.
    Path,
    /// In the query.
    Query,
    /// In a header.
    Header,
}

impl ParameterLocation {
    /// The word for it, in a contract and in messages.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Path => "path",
            Self::Query => "query",
            Self::Header => "header",
        }
    }
}

/// What a parameter has to be.
#[derive(Debug, Clone)]
pub struct Parameter {
    /// Where it stands.
    pub location: ParameterLocation,
    /// Its name.
    pub name: String,
    /// May it be missing?
    pub optional: bool,
    /// What its value has to be.
    pub rule: ParameterRule,
    /// What a value of the wrong format is; usually `invalid-parameters`.
    pub if_invalid: Situation,
    /// A value that a description gives as an example: of something that is there.
    pub example: Option<Value>,
}

impl Parameter {
    /// Is this its name? Letter case counts, but for header fields (RFC 9110 section 5.1).
    #[must_use]
    pub fn has_name(&self, name: &str) -> bool {
        match self.location {
            ParameterLocation::Header => self.name.eq_ignore_ascii_case(name),
            ParameterLocation::Path | ParameterLocation::Query => self.name == name,
        }
    }
}

/// What the value of a parameter has to be.
#[derive(Debug, Clone)]
pub enum ParameterRule {
    /// What a type expression says.
    Type(DeclaredType),
    /// What a description says.
    Schema(CompiledSchema),
}

/// Errors that are allowed inside a success.
#[derive(Debug, Clone)]
pub struct PartialSuccess {
    /// Where their list stands, as a JSON Pointer.
    pub failures: String,
    /// The shape of one.
    pub shape: Option<ShapeId>,
    /// The faults that may occur; none: the contract does not say.
    pub faults: Vec<FaultId>,
    /// Where the list of the request for stands in the request.
    pub requested: Option<String>,
    /// Where the list, or the number, of what was done stands in the response.
    pub succeeded: Option<String>,
    /// The member that tells one entry from the others.
    pub match_by: Option<String>,
    /// Steps from a failure to the index of the requested entry that it is about.
    pub index: Option<Vec<String>>,
    /// Steps from a failure to a JSON Pointer into the request, at or below the entry that it is about.
    pub pointer: Option<Vec<String>>,
    /// Steps from an entry to its status.
    pub status: Option<Vec<String>>,
    /// Steps from an entry to its application code.
    pub code: Vec<String>,
}

impl Rules {
    /// These rules, and for what they do not say those of `farther`.
    ///
    /// The faults of both hold; but where a more specific fault is for a situation, a less specific one that is only
    /// for such situations gives way.
    pub(super) fn or(mut self, less_specific: &Self, faults: &[Fault]) -> Self {
        let answers = |id: &FaultId| faults.get(id.0).map_or(&[][..], |fault| &fault.when);
        let near: Vec<Situation> = self.faults.iter().flat_map(answers).copied().collect();
        for id in &less_specific.faults {
            let covered = answers(id).iter().all(|situation| near.contains(situation));
            if !self.faults.contains(id) && (answers(id).is_empty() || !covered) {
                self.faults.push(*id);
            }
        }
        let Self {
            faults: _,
            success,
            auth: needs,
            security,
            accepts,
            produces,
            precedence: order,
            requires,
            max_request_body: largest_body,
            respond_within: answer_within,
            success_headers,
            error_headers,
            success_shape,
            parameters,
            body,
            partial,
            documented,
            names_faults: _,
            unknown_parameters,
            repeated_parameters,
        } = less_specific.clone();
        self.success = self.success.or(success);
        self.auth = self.auth.or(needs);
        self.security = self.security.or(security);
        self.accepts = self.accepts.or(accepts);
        self.produces = self.produces.or(produces);
        self.precedence = self.precedence.or(order);
        self.requires = self.requires.or(requires);
        self.max_request_body = self.max_request_body.or(largest_body);
        self.respond_within = self.respond_within.or(answer_within);
        self.success_headers = self.success_headers.or(success_headers);
        self.error_headers = both(self.error_headers, error_headers);
        self.success_shape = self.success_shape.or(success_shape);
        self.parameters = merged(self.parameters, parameters);
        self.body = self.body.or(body);
        self.partial = self.partial.or(partial);
        self.documented = self.documented.or(documented);
        self.unknown_parameters = self.unknown_parameters.or(unknown_parameters);
        self.repeated_parameters = self.repeated_parameters.or(repeated_parameters);
        self
    }

    /// The documented response for a status, where the description admits it: where the contract names the faults of
    /// the endpoint, a range or `default` admits no others.
    #[must_use]
    pub fn documented_response(
        &self,
        status: u16,
        ranges: DocumentedRanges,
    ) -> Option<&DocumentedResponse> {
        let documented = self.documented.as_ref()?;
        match ranges {
            DocumentedRanges::Exact if self.names_faults && status >= 400 => {
                documented.exact(status)
            }
            DocumentedRanges::Exact | DocumentedRanges::Admitted => documented.answer(status),
        }
    }

    /// The parameters; none where the contract says nothing of any.
    #[must_use]
    pub fn parameters(&self) -> &[Parameter] {
        self.parameters.as_deref().unwrap_or_default()
    }

    /// The statuses of a success; none where the contract does not say.
    #[must_use]
    pub fn success(&self) -> &[u16] {
        self.success.as_deref().unwrap_or_default()
    }
}

fn both(near: Option<Vec<HeaderRule>>, far: Option<Vec<HeaderRule>>) -> Option<Vec<HeaderRule>> {
    match (near, far) {
        (Some(near), Some(far)) => Some(added_headers(near, far)),
        (near, far) => near.or(far),
    }
}

/// Headers of errors add up by name; the more specific rule wins.
pub(super) fn added_headers(mut near: Vec<HeaderRule>, far: Vec<HeaderRule>) -> Vec<HeaderRule> {
    for rule in far {
        if !near.iter().any(|known| known.name.eq_ignore_ascii_case(&rule.name)) {
            near.push(rule);
        }
    }
    near
}

/// Parameters add up by name; the more specific rule wins.
fn merged(near: Option<Vec<Parameter>>, far: Option<Vec<Parameter>>) -> Option<Vec<Parameter>> {
    let (Some(mut near), Some(far)) = (near.clone(), far.clone()) else { return near.or(far) };
    for parameter in far {
        let same = |known: &Parameter| {
            known.location == parameter.location && known.has_name(&parameter.name)
        };
        if !near.iter().any(same) {
            near.push(parameter);
        }
    }
    Some(near)
}

/// The rules for a request's body: the contract's own, a schema's, or both.
#[derive(Debug, Clone, Default)]
pub struct BodyRules {
    /// The contract's own members.
    pub fields: Option<Shape>,
    /// A JSON Schema.
    pub schema: Option<CompiledSchema>,
    /// Has a body to be there?
    pub required: BodyPresence,
    /// The members of the whole, as far as they are known; none: nobody knows them all.
    pub members: Option<Vec<String>>,
    /// Rules across members.
    pub member_rules: Vec<MemberRule>,
    /// Are there rules that the contract does not know?
    pub is_partial: bool,
    /// A body that a description gives as an example.
    pub example: Option<Value>,
}

/// Has a body to be there?
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum BodyPresence {
    /// It may be missing.
    #[default]
    No,
    /// It has to be there.
    Yes,
}

impl BodyRules {
    /// Every location at which a body breaks the rules, each once.
    #[must_use]
    pub fn mismatches(&self, body: &Value, shapes: &ShapeTable) -> Vec<Mismatch> {
        let own = self.fields.as_ref().map(|fields| compare(body, fields, shapes));
        let mut found = own.unwrap_or_default();
        for mismatch in self.schema.iter().flat_map(|schema| schema.mismatches(body)) {
            if !found.iter().any(|known| known.pointer == mismatch.pointer) {
                found.push(mismatch);
            }
        }
        for mismatch in self.member_rules.iter().flat_map(|rule| rule.mismatches(body)) {
            if !found.iter().any(|known| known.pointer == mismatch.pointer) {
                found.push(mismatch);
            }
        }
        found
    }

    /// Is there a rule for a member of that name?
    #[must_use]
    pub fn knows(&self, name: &str) -> bool {
        self.fields.as_ref().is_some_and(|fields| fields.member(name).is_some())
            || self.members.as_ref().is_some_and(|names| names.iter().any(|known| known == name))
    }
}
