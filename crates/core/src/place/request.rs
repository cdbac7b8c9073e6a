//! The situations that a request shows by itself, with the contract.

use serde_json::Value;

use super::{Credentials, Spot};
use crate::contract::{Contract, Endpoint, Needs};
use crate::exchange::{Exchange, Request, RequestBody};
use crate::json::Json;
use crate::media;
use crate::shape::{Mismatch, Shapes, compare};
use crate::situation::Situation;

/// What a request shows. A situation holds, does not hold, or is open: who can tell?
#[derive(Debug, Default)]
pub struct Situations {
    /// Those that hold, in the order of a grid.
    pub holds: Vec<Situation>,
    /// Those that may hold, as the contract or the recording does not say enough.
    pub open: Vec<Situation>,
    /// Where the body breaks its rules, when `fields-invalid` holds.
    pub invalid: Vec<Mismatch>,
    /// The request's body, where it is JSON and was looked at.
    pub body: Option<Value>,
}

impl Situations {
    pub(super) fn of(
        exchange: &Exchange<'_>,
        spot: &Spot<'_>,
        contract: &Contract,
        credentials: Credentials,
    ) -> Self {
        let mut situations = Self::default();
        match spot {
            Spot::NoRoute => situations.holds.push(Situation::RouteUnknown),
            Spot::NoMethod(_) => situations.holds.push(Situation::MethodNotOffered),
            Spot::Endpoint(_, endpoint) => {
                situations.credentials(&exchange.request, endpoint, contract, credentials);
                situations.content(&exchange.request, endpoint, &contract.shapes);
                return situations;
            }
        }
        // Where there is no endpoint, nobody knows what else the service looks at first.
        let open = Situation::ALL.into_iter().filter(|situation| {
            !matches!(situation, Situation::RouteUnknown | Situation::MethodNotOffered)
        });
        situations.open.extend(open);
        situations
    }

    /// Can this situation hold, as far as the request shows?
    #[must_use]
    pub fn may_hold(&self, situation: Situation) -> bool {
        !situation.is_seen_from_the_request()
            || self.holds.contains(&situation)
            || self.open.contains(&situation)
    }

    /// Is nothing wrong with the request, as far as it shows?
    #[must_use]
    pub fn is_in_order(&self) -> bool {
        self.holds.is_empty()
    }

    fn credentials(
        &mut self,
        request: &Request<'_>,
        endpoint: &Endpoint,
        contract: &Contract,
        recorded: Credentials,
    ) {
        let sent = contract.credentials.iter().any(|name| request.headers.has(name));
        match (endpoint.needs, recorded) {
            _ if sent => {}
            (Needs::Nothing, _) => {}
            (Needs::Credentials, Credentials::Recorded) => {
                self.holds.push(Situation::CredentialsMissing);
            }
            (Needs::Credentials, Credentials::NotRecorded) | (Needs::NotSaid, _) => {
                self.open.push(Situation::CredentialsMissing);
            }
        }
    }

    fn content(&mut self, request: &Request<'_>, endpoint: &Endpoint, shapes: &Shapes) {
        let is_required = endpoint
            .body
            .as_ref()
            .is_some_and(|body| body.members.iter().any(|member| !member.optional));
        match &request.body {
            RequestBody::Absent | RequestBody::Blank => {
                let blank = matches!(request.body, RequestBody::Blank);
                if is_required {
                    self.holds.push(Situation::BodyMissing);
                } else if endpoint.body.is_none() {
                    self.open.push(Situation::BodyMissing);
                }
                if blank {
                    // White space alone is no JSON either.
                    self.open.push(Situation::BodyMalformed);
                }
            }
            RequestBody::NotRecorded => {
                self.media(request, endpoint);
                self.open.extend([Situation::BodyMalformed, Situation::FieldsInvalid]);
            }
            RequestBody::Present(content) => {
                self.media(request, endpoint);
                let takes_json = takes_json(request, endpoint)
                    && !self.holds.contains(&Situation::MediaUnsupported);
                match content.decode() {
                    Ok(bytes) if takes_json => self.json(&bytes, endpoint, shapes),
                    _ => self.open.extend([Situation::BodyMalformed, Situation::FieldsInvalid]),
                }
            }
        }
    }

    fn media(&mut self, request: &Request<'_>, endpoint: &Endpoint) {
        let essence = request.media().map(media::essence);
        match essence {
            Some(essence) if !endpoint.accepts.is_empty() => {
                if !endpoint.accepts.iter().any(|range| media::falls_under(&essence, range)) {
                    self.holds.push(Situation::MediaUnsupported);
                }
            }
            // A body without a media type may be anything (RFC 9110 section 8.3).
            _ => self.open.push(Situation::MediaUnsupported),
        }
    }

    fn json(&mut self, bytes: &[u8], endpoint: &Endpoint, shapes: &Shapes) {
        match Json::read(bytes) {
            Json::Malformed(_) => self.holds.push(Situation::BodyMalformed),
            Json::Beyond => self.open.push(Situation::FieldsInvalid),
            Json::Value(value) => {
                match &endpoint.body {
                    None => self.open.push(Situation::FieldsInvalid),
                    Some(rules) => {
                        self.invalid = compare(&value, rules, shapes);
                        if !self.invalid.is_empty() {
                            self.holds.push(Situation::FieldsInvalid);
                        }
                    }
                }
                self.body = Some(value);
            }
        }
    }
}

/// Is the body to be read as JSON: by its media type, or without one by what the endpoint takes?
fn takes_json(request: &Request<'_>, endpoint: &Endpoint) -> bool {
    let has_body = endpoint.body.is_some()
        || endpoint.accepts.iter().any(|range| media::is_json(range))
        || matches!(request.method.as_ref(), "POST" | "PUT" | "PATCH");
    let said = request.media().map(media::essence);
    has_body && said.map_or(endpoint.body.is_some(), |essence| media::is_json(&essence))
}
