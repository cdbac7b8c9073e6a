//! Checks one exchange that a program has in memory.

use std::borrow::Cow;

use faithful_clerk_check::classify::{Classification, Credentials, classify};
use faithful_clerk_check::clauses;
use faithful_clerk_model::address::Address;
use faithful_clerk_model::exchange::{
    BodyContent, Exchange, Request, RequestBody, Response, ResponseBody, Timing,
};
use faithful_clerk_model::finding::{Finding, Severity};
use faithful_clerk_model::headers::Headers;

use crate::Contract;

/// What checking one exchange comes to.
#[derive(Debug, Clone, PartialEq, Eq, serde::Serialize)]
#[non_exhaustive]
pub enum ExchangeCheck {
    /// It was checked; no findings: every clause that could be checked is met.
    Checked(Vec<Finding>),
    /// It is none of the service's, according to the contract, and was not checked; why.
    Excluded(&'static str),
}

impl ExchangeCheck {
    /// The findings; none where the exchange was excluded.
    #[must_use]
    pub fn findings(&self) -> &[Finding] {
        match self {
            Self::Checked(findings) => findings,
            Self::Excluded(_) => &[],
        }
    }

    /// Was the exchange checked, and has it no breach?
    #[must_use]
    pub fn is_met(&self) -> bool {
        match self {
            Self::Checked(all) => all.iter().all(|one| one.severity != Severity::Breach),
            Self::Excluded(_) => false,
        }
    }
}

/// Checks a request and its response, with their whole bodies, as the `http` crate and everything built on it has them.
///
/// The URI may be only a path where the contract names no servers. What clauses compare between exchanges is not checked,
/// and waivers are not applied.
///
/// ```
/// use faithful_clerk_core::{Contract, check_exchange};
///
/// let contract = Contract::parse("contract = 1\n[error]\nmedia = \"application/problem+json\"\n[endpoint.\"GET /berths/{id}\"]\n").unwrap();
/// let request = http::Request::get("/berths/Z-9").body("").unwrap();
/// let response = http::Response::builder()
///     .status(404)
///     .header("content-type", "text/html")
///     .body("<h1>Not Found</h1>")
///     .unwrap();
/// let result = check_exchange(&contract, &request, &response);
/// assert!(!result.is_met());
/// assert!(result.findings().iter().any(|finding| finding.clause == "media.declared"));
/// ```
#[must_use]
pub fn check_exchange(
    contract: &Contract,
    request: &http::Request<impl AsRef<[u8]>>,
    response: &http::Response<impl AsRef<[u8]>>,
) -> ExchangeCheck {
    let exchange = Exchange {
        address: Address { recording: 0, number: 1 },
        offset: 0,
        request: request_of(request),
        response: Some(response_of(response)),
        no_response: None,
        timing: Timing::default(),
        intended: None,
    };
    match classify(&exchange, &contract.inner, Credentials::Recorded) {
        Classification::Excluded(reason) => ExchangeCheck::Excluded(reason),
        Classification::Classified(classified) => {
            ExchangeCheck::Checked(clauses::check_exchange(&classified).findings)
        }
    }
}

fn request_of(request: &http::Request<impl AsRef<[u8]>>) -> Request<'_> {
    let body = request.body().as_ref();
    Request {
        method: Cow::Borrowed(request.method().as_str()),
        url: Cow::Owned(request.uri().to_string()),
        headers: headers_of(request.headers()),
        body: match body {
            [] => RequestBody::Absent,
            blank if blank.iter().all(u8::is_ascii_whitespace) => RequestBody::Blank,
            bytes => RequestBody::Present(content(bytes, request.headers())),
        },
        recorded_media: None,
    }
}

fn response_of(response: &http::Response<impl AsRef<[u8]>>) -> Response<'_> {
    Response {
        status: response.status().as_u16(),
        headers: headers_of(response.headers()),
        recorded_media: None,
        body: match response.body().as_ref() {
            [] => ResponseBody::Empty,
            bytes => ResponseBody::Present(content(bytes, response.headers())),
        },
    }
}

fn content<'b>(bytes: &'b [u8], headers: &http::HeaderMap) -> BodyContent<'b> {
    let coding = headers.get(http::header::CONTENT_ENCODING).and_then(|value| value.to_str().ok());
    BodyContent::Bytes(Cow::Borrowed(bytes)).coded(coding)
}

/// Header values may be any bytes (RFC 9110 section 5.5); what is not UTF-8 is read as far as it is.
fn headers_of(map: &http::HeaderMap) -> Headers<'_> {
    map.iter().map(|(name, value)| (name.as_str(), String::from_utf8_lossy(value.as_bytes()))).fold(
        Headers::new(),
        |mut headers, (name, value)| {
            headers.push(name, value);
            headers
        },
    )
}
