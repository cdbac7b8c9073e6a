//! Takes a URL apart: what a server and a template are compared with.
//!
//! Nearly all recorded URLs are plain, and are taken apart where they stand. Whatever has anything in it
//! that a URL's reader would change is given to one.

use std::borrow::Cow;

use url::Url;

use crate::pointer::percent_decode;

/// The parts of a URL; segments are decoded.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Split<'u> {
    pub(super) scheme: &'static str,
    pub(super) host: Cow<'u, str>,
    pub(super) has_host: bool,
    pub(super) port: Option<u16>,
    pub(super) segments: Vec<Cow<'u, str>>,
    pub(super) query: Option<Cow<'u, str>>,
}

impl<'u> Split<'u> {
    /// Takes a plain URL apart; `None` if it is not plain.
    pub(super) fn plain(url: &'u str) -> Option<Self> {
        let (scheme, rest, usual) = match url.strip_prefix("https://") {
            Some(rest) => ("https", rest, 443),
            None => ("http", url.strip_prefix("http://")?, 80),
        };
        let url = rest.split('#').next()?;
        let (before, query) = match url.split_once('?') {
            Some((before, query)) => (before, Some(query)),
            None => (url, None),
        };
        let (authority, path) = before.split_once('/')?;
        let (host, port) = match authority.split_once(':') {
            Some((host, port)) => (host, plain_port(port)?),
            None => (authority, usual),
        };
        let is_query = |byte: u8| (is_path(byte) && byte != b'\'') || byte == b'?';
        if !is_plain_host(host)
            || !path.bytes().all(is_path)
            || !query.unwrap_or_default().bytes().all(is_query)
        {
            return None;
        }
        let decoded = |segment: &'u str| {
            // `.` and `..`, encoded or not, are steps through the path.
            let is_step = segment.starts_with('.')
                || (segment.contains('%') && (segment.contains("%2e") || segment.contains("%2E")));
            (!is_step).then(|| decoded(segment))
        };
        let mut segments = Vec::with_capacity(6);
        for segment in path.split('/') {
            segments.push(decoded(segment)?);
        }
        Some(Self {
            scheme,
            host: Cow::Borrowed(host),
            has_host: true,
            port: Some(port),
            segments,
            query: query.map(Cow::Borrowed),
        })
    }

    /// Takes any URL apart.
    pub(super) fn parsed(url: &str, has_host: bool) -> Option<Self> {
        let url = Url::parse(url).ok()?;
        let scheme = match url.scheme() {
            "http" => "http",
            "https" => "https",
            _ => return None,
        };
        let owned = |segment: &str| Cow::Owned(decoded(segment).into_owned());
        let host = url.host_str().filter(|_| has_host).unwrap_or_default();
        Some(Self {
            scheme,
            host: Cow::Owned(host.to_owned()),
            has_host,
            port: url.port_or_known_default(),
            segments: url.path_segments()?.map(owned).collect(),
            query: url.query().map(|query| Cow::Owned(query.to_owned())),
        })
    }
}

fn decoded(segment: &str) -> Cow<'_, str> {
    if !segment.contains('%') {
        return Cow::Borrowed(segment);
    }
    percent_decode(segment).map_or(Cow::Borrowed(segment), Cow::Owned)
}

/// A name in lower case that is no address and not in the form for other scripts.
fn is_plain_host(host: &str) -> bool {
    let last = host.rsplit('.').next().unwrap_or_default();
    let is_plain =
        |byte: u8| byte.is_ascii_lowercase() || byte.is_ascii_digit() || b"-.".contains(&byte);
    last.starts_with(|c: char| c.is_ascii_lowercase())
        && !host.contains("xn--")
        && !host.contains("..")
        && !host.starts_with('.')
        && host.bytes().all(is_plain)
}

fn plain_port(port: &str) -> Option<u16> {
    let is_plain = !port.is_empty() && port.bytes().all(|byte| byte.is_ascii_digit());
    port.parse().ok().filter(|_| is_plain)
}

/// What may stand in a path as it is (RFC 3986 section 3.3), with slashes and percent signs.
fn is_path(byte: u8) -> bool {
    PATH.get(usize::from(byte)).copied().unwrap_or_default()
}

static PATH: [bool; 256] = {
    let (mut table, others) = ([false; 256], b"-._~!$&'()*+,;=:@/%");
    let mut at = 0;
    while at < 256 {
        #[allow(clippy::cast_possible_truncation, reason = "it is below 256")]
        let byte = at as u8;
        table[at] = byte.is_ascii_alphanumeric();
        at += 1;
    }
    at = 0;
    while at < others.len() {
        table[others[at] as usize] = true;
        at += 1;
    }
    table
};

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Whatever is plain is taken apart as a URL's reader does it.
        #[test]
        fn plain_urls_are_taken_apart_as_others_are(
            url in "https?://[a-z0-9.-]{1,12}(:[0-9]{0,5})?(/[A-Za-z0-9%.~@'-]{0,6}){0,4}(\\?[a-z0-9=&'%?]{0,8})?(#x)?"
        ) {
            if let Some(split) = Split::plain(&url) {
                prop_assert_eq!(Some(split), Split::parsed(&url, true), "{}", url);
            }
        }
    }

    #[test]
    fn what_a_reader_would_change_is_not_plain() {
        assert!(Split::plain("https://harbour.example/v1/berths/A-3?free=1#x").is_some());
        for url in [
            "https://Harbour.example/",
            "https://127.1/",
            "https://h.example",
            "/berths",
            "https://h.example/a/../b",
            "https://h.example/ä",
            "https://u@h.example/",
        ] {
            assert_eq!(Split::plain(url), None, "{url}");
        }
    }
}
