//! The schemes of credentials that a description names.

use faithful_clerk_model::headers::{Headers, is_token};

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
    /// Reads how a contract names one: `Bearer`, `header X-Api-Key`, `query key`, `cookie session`.
    #[must_use]
    pub fn read(text: &str) -> Option<Self> {
        let (kind, name) = match text.trim().split_once(' ') {
            Some((kind, name)) => (kind, name.trim()),
            None => ("", text.trim()),
        };
        if !is_token(name) {
            return None;
        }
        Some(match kind {
            "" => Self::Authorization(Some(name.to_ascii_lowercase())),
            "header" => Self::Header(name.to_owned()),
            "query" => Self::Query(name.to_owned()),
            "cookie" => Self::Cookie(name.to_owned()),
            _ => return None,
        })
    }

    /// What lacks where such credentials are missing.
    #[must_use]
    pub fn name(&self) -> &str {
        match self {
            Self::Authorization(_) => "Authorization",
            Self::Header(name) | Self::Query(name) | Self::Cookie(name) => name,
        }
    }

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
