//! The schemes of credentials that a description names.

use faithful_clerk_model::headers::Headers;

/// What counts as credentials, and where it stands in a request (OpenAPI 3.1.1 section 4.8.27).
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum CredentialScheme {
    /// `Authorization` with this scheme, in lower case; none: any scheme (RFC 9110 section 11.4).
    Authorization(Option<String>),
    /// A header field.
    Header(String),
    /// A query parameter.
    Query(String),
    /// A cookie.
    Cookie(String),
}

impl CredentialScheme {
    /// The header field that it stands in, if it stands in one.
    #[must_use]
    pub fn header(&self) -> Option<&str> {
        match self {
            Self::Authorization(_) => Some("Authorization"),
            Self::Header(name) => Some(name),
            Self::Cookie(_) => Some("Cookie"),
            Self::Query(_) => None,
        }
    }

    /// Does a request with these headers and this URL have such credentials?
    #[must_use]
    pub fn is_in(&self, headers: &Headers<'_>, url: &str) -> bool {
        match self {
            Self::Authorization(None) => headers.has("authorization"),
            Self::Authorization(Some(scheme)) => headers.all("authorization").any(|value| {
                let sent = value.trim().split(' ').next().unwrap_or_default();
                sent.eq_ignore_ascii_case(scheme)
            }),
            Self::Header(name) => headers.has(name),
            Self::Query(name) => {
                let query = url.split('#').next().and_then(|url| url.split_once('?'));
                let query = query.map(|(_, query)| query).unwrap_or_default();
                url::form_urlencoded::parse(query.as_bytes()).any(|(own, _)| own == *name)
            }
            Self::Cookie(name) => headers
                .all("cookie")
                .flat_map(|value| value.split(';'))
                .any(|pair| pair.split_once('=').is_some_and(|(own, _)| own.trim() == name)),
        }
    }
}
