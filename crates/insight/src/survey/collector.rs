//! Looks at exchanges for a survey: each worker has a collector, and their data add up.

use std::borrow::Cow;
use std::collections::BTreeSet;

use super::facts::{
    ErrorCategory, ObservedBody, Occurrences, RequestFlaws, ResponseSignature, StableMembers,
};
use super::observe::{
    RequestRoute, beside, causes, declared_at, grouping, is_html, says, succeeded, success,
};
use super::refused_bodies::RefusedBodies;
use super::survey_data::{BodyGroup, ObservedHeader, SurveyData, origin};
use faithful_clerk_check::classify::{
    Classification, Classified, Credentials, ParsedBody, classify,
};
use faithful_clerk_contract::{ErrorContract, Scope};
use faithful_clerk_model::exchange::{Exchange, Response};
use faithful_clerk_model::media;
use faithful_clerk_model::secret::is_secret_header;
use faithful_clerk_model::secret::mask::masked_example;
use faithful_clerk_recording::{Unreadable, Visitor};
use faithful_clerk_shape::InferredShape;

/// Where only paths are looked at, the successes of so many exchanges are read, and one in so many of those behind them:
/// enough to tell values from names.
const READ_WHOLE: u64 = 4096;
const READ_ONE_IN: u64 = 16;

/// One worker's look at exchanges.
#[derive(Debug, Clone)]
pub struct SurveyCollector<'c> {
    contract: &'c ErrorContract,
    /// Are only paths looked at, and not what errors say?
    is_of_paths: bool,
    /// What was seen.
    pub data: SurveyData,
}

impl<'c> SurveyCollector<'c> {
    /// Nothing, yet. The contract, which may be an empty one, decides about endpoints where it has any.
    #[must_use]
    pub fn new(contract: &'c ErrorContract) -> Self {
        Self { contract, is_of_paths: false, data: SurveyData::default() }
    }

    /// The same, of paths alone: which there are, and where something was found.
    #[must_use]
    pub fn of_paths(contract: &'c ErrorContract) -> Self {
        Self { is_of_paths: true, ..Self::new(contract) }
    }
}

impl Visitor for SurveyCollector<'_> {
    fn exchange(&mut self, exchange: &Exchange<'_>) {
        let contract = self.contract;
        let carries = |name: &String| exchange.request.headers.has(name);
        let with_credentials = contract.credentials.iter().any(carries)
            || ["authorization", "cookie", "x-api-key"].map(str::to_owned).iter().any(carries);
        self.data.has_credentials |= with_credentials;
        if let Some(reason) = beside(exchange).filter(|_| contract.scope == Scope::Service) {
            *self.data.excluded.entry((*reason).into()).or_default() += 1;
            return;
        }
        let classification = classify(exchange, contract, Credentials::NotRecorded);
        let classified = match &classification {
            Classification::Classified(classified) => Some(&**classified),
            // With a contract, what is aside is not the service's; without one, it is a plain success
            // of some other media type.
            Classification::Excluded(reason) if !contract.endpoints.is_empty() => {
                *self.data.excluded.entry((*reason).into()).or_default() += 1;
                return;
            }
            Classification::Excluded(_) => None,
        };
        let below = RequestRoute::below_servers(exchange, contract);
        let Some(way) = below.or_else(|| RequestRoute::of(exchange)) else {
            *self
                .data
                .excluded
                .entry("its URL can't be read, or is not http".into())
                .or_default() += 1;
            return;
        };
        self.data.exchanges += 1;
        let observed = self.look(exchange, classified, with_credentials);
        if let Some(reason) = classified.and_then(Classified::broken_content) {
            self.data.unreadable.enter(Unreadable::of_body(exchange, reason));
        }
        let method = exchange.request.method.as_ref();
        let declared = classified.and_then(|classified| declared_at(classified, contract));
        let facts = match declared {
            Some(endpoint) => {
                let location = (endpoint.path.clone(), method.to_owned());
                self.data.declared.entry(location).or_default()
            }
            None => origin(&mut self.data.origins, &way.origin).at(&way.segments, method),
        };
        let is_missing = observed.row.status == Some(404);
        facts.note(observed.row, exchange.address, observed.causes);
        if is_missing {
            facts.missing.note(way.segments.as_slice());
        }
        if let Some(refused) = observed.refused {
            facts.refused.add(refused);
        }
        if let Some(response) = exchange.response.as_ref().filter(|_| observed.is_success) {
            let (sum, names) = (&mut facts.successes, &mut self.data.names);
            sum.count += 1;
            let number = exchange.address.number;
            let is_read =
                !self.is_of_paths || number <= READ_WHOLE || number.is_multiple_of(READ_ONE_IN);
            if is_read {
                succeeded(exchange, response, &way, with_credentials, sum, names);
            } else {
                sum.paths.note(way.segments.as_slice());
            }
        }
    }

    fn on_unreadable(&mut self, unreadable: Unreadable) {
        self.data.unreadable.enter(unreadable);
    }
}

/// What one exchange shows, before it is known where it belongs.
struct ObservedExchange {
    row: ResponseSignature,
    causes: RequestFlaws,
    refused: Option<RefusedBodies>,
    /// Is it a success without an error inside?
    is_success: bool,
}

impl SurveyCollector<'_> {
    /// What one exchange shows.
    fn look(
        &mut self,
        exchange: &Exchange<'_>,
        classified: Option<&Classified<'_>>,
        with_credentials: bool,
    ) -> ObservedExchange {
        let causes = causes(&exchange.request, with_credentials);
        let mut row = ResponseSignature {
            status: classified.and_then(Classified::status),
            media: classified.and_then(Classified::media).map(str::to_owned),
            body: ObservedBody::Missing,
            stable: StableMembers::default(),
        };
        let Some(response) = &exchange.response else {
            return ObservedExchange { row, causes, refused: None, is_success: false };
        };
        row.status = Some(response.status);
        row.media = response.media().map(|media| media::essence(media).into_owned());
        let is_error = response.status >= 400;
        if is_error && self.is_of_paths {
            row.body = ObservedBody::Unknown("it was not looked at".into());
            return ObservedExchange { row, causes, refused: None, is_success: false };
        }
        let has_error =
            is_error || classified.is_some_and(|classified| classified.embedded_error().is_some());
        if is_error {
            self.data.errors += 1;
            self.headers_of(response);
        }
        for disclosed in
            classified.filter(|_| has_error).iter().flat_map(|classified| classified.disclosures())
        {
            self.data.disclosed.entry(disclosed.what.into()).or_default().note(exchange.address);
        }
        if has_error && !is_error {
            self.data.inside.note(exchange.address);
        }
        let refused = classified
            .filter(|_| matches!(response.status, 400 | 422))
            .map(|classified| RefusedBodies::of(classified, classified.reported_fields()));
        row.body = match classified {
            Some(classified) if has_error => self.error(classified, &mut row.stable),
            _ => success(response),
        };
        let is_success = !has_error && (200..300).contains(&response.status);
        ObservedExchange { row, causes, refused, is_success }
    }

    fn error(&mut self, classified: &Classified<'_>, said: &mut StableMembers) -> ObservedBody {
        if let Some(words) = classified.body().words() {
            self.data.naming.note(classified, &words, classified.reported_fields());
        }
        let value = match classified.body() {
            ParsedBody::Json(value) => value,
            // A response to HEAD has no content (RFC 9110 section 9.3.2).
            ParsedBody::Empty if classified.exchange.request.method == "HEAD" => {
                return ObservedBody::Unknown("none, as it should be".into());
            }
            ParsedBody::Empty => return ObservedBody::Empty,
            ParsedBody::Unknown(reason) => return ObservedBody::Unknown((*reason).into()),
            ParsedBody::BrokenJson { .. } => return ObservedBody::Other("broken JSON".into()),
            ParsedBody::Html(text) if !is_html(text) => return ObservedBody::Other("XML".into()),
            ParsedBody::Html(_) => return ObservedBody::Other("HTML".into()),
            ParsedBody::Text(_) => return ObservedBody::Other("plain text".into()),
        };
        let status = classified.status().unwrap_or_default();
        *said = says(value, status, classified.exchange);
        let entries = classified.reported_fields();
        let located = entries.iter().any(|entry| entry.location.is_some());
        let status = classified.status().unwrap_or_default();
        let is_validation = located || status == 422 || (status == 400 && !entries.is_empty());
        let sort = if is_validation { ErrorCategory::Validation } else { ErrorCategory::Other };
        let varying = classified.data_locations();
        let group = BodyGroup {
            shape: InferredShape::of(value, &varying),
            seen: Occurrences::at(classified.exchange.address),
            forms: entries.iter().map(|entry| (entry.form, 1)).collect(),
        };
        let key = (sort, grouping(value, &varying));
        self.data.group(key.clone(), group);
        ObservedBody::Error(key)
    }

    fn headers_of(&mut self, response: &Response<'_>) {
        let mut names = BTreeSet::new();
        for (name, value) in response.headers.iter() {
            let key = name.to_ascii_lowercase();
            // A pseudo header field of HTTP/2 is no header field (RFC 9113 section 8.3).
            if !key.starts_with(':') && names.insert(key.clone()) {
                let value = match is_secret_header(&key) {
                    true => Cow::Borrowed("***"),
                    false => masked_example(value),
                };
                let values = BTreeSet::from([value.chars().take(80).collect()]);
                self.data.header(key, ObservedHeader { name: name.to_owned(), count: 1, values });
            }
        }
    }
}
