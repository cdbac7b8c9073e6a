//! The responses that a description documents.

use std::ops::RangeInclusive;

use faithful_clerk_model::media::{falls_under, is_json};
use faithful_clerk_schema::CompiledSchema;

/// The responses that an operation documents.
#[derive(Debug, Clone, Default)]
pub struct DocumentedResponses {
    /// Each with its statuses.
    pub responses: Vec<DocumentedResponse>,
}

/// One documented response.
#[derive(Debug, Clone)]
pub struct DocumentedResponse {
    /// The status, a range such as `4XX`, or all of them for `default`.
    pub statuses: RangeInclusive<u16>,
    /// How it is written in the description.
    pub name: String,
    /// The name of the component that describes it, the response or its schema.
    pub component: Option<String>,
    /// The schemas, by media type.
    pub content: Vec<(String, Option<CompiledSchema>)>,
    /// The headers.
    pub headers: Vec<DocumentedHeader>,
}

/// A documented header of a response.
#[derive(Debug, Clone)]
pub struct DocumentedHeader {
    /// Its name.
    pub name: String,
    /// Has it to be there?
    pub is_required: bool,
    /// What its value has to be.
    pub schema: Option<CompiledSchema>,
}

impl DocumentedResponse {
    /// Is it the one for all statuses that are not documented?
    #[must_use]
    pub fn is_default(&self) -> bool {
        self.name == "default"
    }

    /// The schema for a body of this media type; where that is not documented, of the only JSON type that is.
    #[must_use]
    pub fn schema(&self, media: &str) -> Option<&CompiledSchema> {
        let of_media = self.content.iter().filter(|(range, _)| falls_under(media, range));
        let of_media = of_media.min_by_key(|(range, _)| range.matches('*').count());
        let mut of_json = self.content.iter().filter(|(range, _)| is_json(range));
        let only = of_json.next().filter(|_| of_json.next().is_none() && is_json(media));
        of_media.or(only).and_then(|(_, schema)| schema.as_ref())
    }
}

impl DocumentedResponses {
    /// The response for a status: the exact one, else its range, else `default`. A success that is left to `default` is
    /// documented, and nothing is said of it: what stands there is an error nearly everywhere.
    #[must_use]
    pub fn answer(&self, status: u16) -> Option<&DocumentedResponse> {
        let is_said = |one: &&DocumentedResponse| status >= 400 || !one.is_default();
        let fits = self.responses.iter().filter(|answer| answer.statuses.contains(&status));
        let fits = fits.filter(is_said);
        fits.min_by_key(|answer| answer.statuses.end() - answer.statuses.start())
    }

    /// The response documented for exactly this status, by no range and no `default`.
    #[must_use]
    pub fn exact(&self, status: u16) -> Option<&DocumentedResponse> {
        self.answer(status).filter(|answer| answer.statuses.start() == answer.statuses.end())
    }

    /// Does the operation document any error at all?
    #[must_use]
    pub fn has_errors(&self) -> bool {
        self.responses.iter().any(|response| *response.statuses.end() >= 400)
    }

    /// How its errors are written.
    #[must_use]
    pub fn errors(&self) -> Vec<&str> {
        let errors = self.responses.iter().filter(|response| *response.statuses.end() >= 400);
        errors.map(|response| response.name.as_str()).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_exact_status_goes_before_its_range_and_that_before_default() {
        let answer = |name: &str, statuses| DocumentedResponse {
            statuses,
            name: name.to_owned(),
            component: None,
            content: Vec::new(),
            headers: Vec::new(),
        };
        let documented = DocumentedResponses {
            responses: vec![
                answer("default", 0..=999),
                answer("4XX", 400..=499),
                answer("404", 404..=404),
            ],
        };
        let name = |status| documented.answer(status).map(|answer| answer.name.as_str());
        assert_eq!((name(404), name(409), name(500)), (Some("404"), Some("4XX"), Some("default")));
        assert_eq!(name(202), None);
    }
}
