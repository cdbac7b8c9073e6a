//! What stands where `[envelope]` says, in one error or in a list of them, in one language or in each.

use serde_json::Value;

use super::Classified;
use faithful_clerk_contract::LANGUAGE;
use faithful_clerk_model::json::pointer::resolve_each;
use faithful_clerk_shape::compare;

/// One value where an envelope has it.
#[derive(Debug)]
pub struct EnvelopeValue<'p> {
    /// Where it is.
    pub pointer: String,
    /// The value, if there is one.
    pub value: Option<&'p Value>,
    /// The language that it has to be in, where there is one for each.
    pub language: Option<&'p str>,
}

impl EnvelopeValue<'_> {
    /// Is there no text in a language of the contract, and does no shape tell that by itself?
    #[must_use]
    pub fn is_missing_in_language(&self, classified: &Classified<'_>) -> bool {
        let told = || {
            let (body, shape) = (classified.body().json(), classified.expected_shape());
            let mismatches = body
                .zip(shape)
                .map(|(body, shape)| compare(body, shape, &classified.contract.shapes));
            mismatches.into_iter().flatten().any(|one| self.pointer.starts_with(&one.pointer))
        };
        self.value.is_none() && self.language.is_some() && !told()
    }
}

/// The values at a pointer of `[envelope]`; none where it leads through a list that is empty or not there.
#[must_use]
pub fn envelope_values<'p>(
    classified: &'p Classified<'_>,
    steps: &[String],
) -> Vec<EnvelopeValue<'p>> {
    let Some(body) = classified.body().json() else { return Vec::new() };
    if !steps.iter().any(|step| step == LANGUAGE) {
        let found = resolve_each(body, steps).into_iter();
        return found
            .map(|one| EnvelopeValue { pointer: one.pointer, value: one.value, language: None })
            .collect();
    }
    let languages = classified.contract.languages.iter();
    languages
        .flat_map(|language| {
            let in_language =
                |step: &String| if step == LANGUAGE { language } else { step }.clone();
            let steps: Vec<String> = steps.iter().map(in_language).collect();
            resolve_each(body, &steps).into_iter().map(|one| EnvelopeValue {
                pointer: one.pointer,
                value: one.value,
                language: Some(language.as_str()),
            })
        })
        .collect()
}

/// The values where application codes stand: where the contract says, else the member `code`.
#[must_use]
pub fn code_values<'p>(classified: &'p Classified<'_>) -> Vec<EnvelopeValue<'p>> {
    match &classified.style().envelope.code {
        Some(steps) => envelope_values(classified, steps),
        None => envelope_values(classified, &["code".to_owned()]),
    }
}

/// The values where titles stand: where the contract says, else the member `title`.
#[must_use]
pub fn title_values<'p>(classified: &'p Classified<'_>) -> Vec<EnvelopeValue<'p>> {
    match &classified.style().envelope.title {
        Some(steps) => envelope_values(classified, steps),
        None => envelope_values(classified, &["title".to_owned()]),
    }
}
