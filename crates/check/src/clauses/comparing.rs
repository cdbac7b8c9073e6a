//! What clauses that compare exchanges have in common: the request, in which language the response is,
//! and the outline of a body.

use crate::classify::{Classified, EnvelopeValue, ParsedBody, title_values};
use faithful_clerk_model::exchange::RequestBody;
use faithful_clerk_model::finding::Subject;
use faithful_clerk_model::stable_hash::StableHash;
use faithful_clerk_shape::{DataLocations, outline};

/// The request, but for the language that it prefers.
pub(super) fn request_of(classified: &Classified<'_>) -> Subject {
    let request = &classified.exchange.request;
    // Hosts differ from one environment to the next.
    let path = match request.url.split_once("://") {
        Some((_, rest)) => rest.find('/').and_then(|at| rest.get(at..)).unwrap_or("/"),
        None => request.url.as_ref(),
    };
    let body = match &request.body {
        RequestBody::Present(content) => content.decode().ok(),
        _ => None,
    };
    let credentials = &classified.contract.credentials;
    let mut texts = vec![body.as_deref().unwrap_or_default()];
    if credentials.iter().any(|name| request.headers.has(name)) {
        texts.push(b"with credentials");
    }
    for name in ["accept", "content-type"] {
        if let Some(value) = request.headers.get(name) {
            texts.extend([name.as_bytes(), value.as_bytes()]);
        }
    }
    let digest = StableHash::of(texts).to_string();
    Subject::Request(request.method.to_string(), path.to_owned(), digest)
}

/// The language of the response, where its title is one that the contract has in some language.
pub(super) fn language<'a>(classified: &Classified<'a>) -> Option<&'a str> {
    let values = title_values(classified);
    // What has a text for each language was not chosen by one.
    let [EnvelopeValue { value: Some(title), language: None, .. }] = &*values else { return None };
    let title = title.as_str()?;
    let titles = classified.fault()?.titles.iter();
    let mut in_languages = titles.filter(|(_, text)| text == title).map(|(tag, _)| tag.as_str());
    let language = in_languages.next()?;
    // One text in several languages tells nothing.
    in_languages.next().is_none().then_some(language)
}

/// The outline of a response's body.
pub(super) fn outline_of(body: &ParsedBody) -> String {
    match body {
        ParsedBody::Json(value) => outline(value, &DataLocations::default()),
        ParsedBody::Empty => "no body".to_owned(),
        ParsedBody::Unknown(_) => "a body that can't be read".to_owned(),
        ParsedBody::BrokenJson { .. } => "broken JSON".to_owned(),
        ParsedBody::Html(_) => "HTML".to_owned(),
        ParsedBody::Text(_) => "text".to_owned(),
    }
}
