//! What tells an endpoint from others.

use crate::{Endpoint, Router, TemplateSegment};

/// Method, path and query of an endpoint, whatever its parameters are called.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub struct EndpointSignature {
    method: String,
    path: String,
    query: Vec<(String, String)>,
}

impl EndpointSignature {
    /// That of an endpoint.
    #[must_use]
    pub fn of(endpoint: &Endpoint) -> Self {
        let (method, query) = (endpoint.method.clone(), endpoint.query.clone());
        Self { method, path: plain(&endpoint.path), query }
    }

    /// That of a method, and of a path as a description writes it, which may have a query.
    #[must_use]
    pub fn documented(method: &str, path: &str) -> Self {
        let (path, query) = path.split_once('?').unwrap_or((path, ""));
        let query = url::form_urlencoded::parse(query.as_bytes()).into_owned().collect();
        Self { method: method.to_owned(), path: plain(path), query }
    }
}

fn plain(path: &str) -> String {
    let segments = Router::segments(path).unwrap_or_default();
    let plain = |segment: &TemplateSegment| match segment {
        TemplateSegment::Literal(text) => text.clone(),
        TemplateSegment::Parameter { .. } => "{}".to_owned(),
    };
    let path: Vec<String> = segments.iter().map(plain).collect();
    path.join("/")
}

#[cfg(test)]
mod tests {
    use super::EndpointSignature;

    #[test]
    fn names_of_parameters_tell_nothing_and_a_query_does() {
        let of = |path: &str| EndpointSignature::documented("GET", path);
        assert_eq!(of("/boats/{id}"), of("/boats/{boatId}"));
        assert_ne!(of("/boats?by=name"), of("/boats"));
        assert_ne!(of("/boats"), EndpointSignature::documented("PUT", "/boats"));
    }
}
