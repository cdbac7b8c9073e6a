//! Takes a URL apart: what a server and a template are compared with.
//!
//! Nearly all recorded URLs are plain, and are taken apart where they stand. Whatever has anything in it
//! that a URL's reader would change is given to one.

use std::borrow::Cow;
use std::net::Ipv4Addr;

use url::Url;

use faithful_clerk_model::percent;

/// The parts of a URL; segments are decoded.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct UrlParts<'u> {
    pub(super) scheme: &'static str,
    pub(super) host: Cow<'u, str>,
    pub(super) has_host: bool,
    pub(super) port: Option<u16>,
    pub(super) segments: Vec<Cow<'u, str>>,
    pub(super) query: Option<Cow<'u, str>>,
}

/// What comes behind a host and port.
pub(super) struct UrlPath<'u> {
    pub(super) segments: Vec<Cow<'u, str>>,
    pub(super) query: Option<Cow<'u, str>>,
}

impl<'u> UrlParts<'u> {
    /// Takes a plain URL apart; `None` if it is not plain.
    pub(super) fn plain(url: &'u str) -> Option<Self> {
        let (scheme, rest, usual) = match url.strip_prefix("https://") {
            Some(rest) => ("https", rest, 443),
            None => ("http", url.strip_prefix("http://")?, 80),
        };
        let (host, rest) = plain_host(rest)?;
        let (port, rest) = match rest.strip_prefix(':') {
            Some(rest) => {
                let (port, _) = rest.split_once('/')?;
                (plain_port(port)?, rest.get(port.len()..)?)
            }
            None => (usual, rest),
        };
        let UrlPath { segments, query } = plain_path(rest)?;
        Some(Self {
            scheme,
            host: Cow::Borrowed(host),
            has_host: true,
            port: Some(port),
            segments,
            query,
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
    percent::decode(segment).map_or(Cow::Borrowed(segment), Cow::Owned)
}

/// A name in lower case that is not in the form for other scripts (which has two hyphens in a row), or an address of four
/// numbers, and what comes behind it.
fn plain_host(text: &str) -> Option<(&str, &str)> {
    let (host, rest) = text.split_at_checked(run(text, HOST))?;
    let (mut before, mut label_starts_with) = (b'.', b'.');
    for byte in host.bytes() {
        match (before, byte) {
            (b'.', b'.') | (b'-', b'-') => return None,
            (b'.', _) => label_starts_with = byte,
            _ => {}
        }
        before = byte;
    }
    let is_name = before != b'.' && label_starts_with.is_ascii_lowercase();
    // A last label that starts with a digit may make an address of anything.
    (is_name || host.parse::<Ipv4Addr>().is_ok()).then_some((host, rest))
}

/// The segments of a path with its first slash, decoded, and the query, of what comes behind a host and port.
pub(super) fn plain_path(text: &str) -> Option<UrlPath<'_>> {
    let (segments, rest) = plain_segments(text.strip_prefix('/')?)?;
    let query = match rest.strip_prefix('?') {
        Some(rest) => {
            let (query, rest) = rest.split_at_checked(run(rest, QUERY))?;
            (rest.is_empty() || rest.starts_with('#')).then_some(())?;
            Some(Cow::Borrowed(query))
        }
        None => None,
    };
    Some(UrlPath { segments, query })
}

/// The segments of a path without its first slash, decoded, and what comes behind it.
fn plain_segments(path: &str) -> Option<(Vec<Cow<'_, str>>, &str)> {
    let mut segments = Vec::with_capacity(6);
    let mut rest = path;
    loop {
        let (segment, behind) = rest.split_at_checked(run(rest, SEGMENT))?;
        // `.` and `..`, encoded or not, are steps through the path.
        let is_step = segment.starts_with('.')
            || (segment.contains('%') && (segment.contains("%2e") || segment.contains("%2E")));
        if is_step {
            return None;
        }
        segments.push(decoded(segment));
        match behind.strip_prefix('/') {
            Some(next) => rest = next,
            None if behind.is_empty() || behind.starts_with(['?', '#']) => {
                return Some((segments, behind));
            }
            None => return None,
        }
    }
}

fn plain_port(port: &str) -> Option<u16> {
    let is_plain = !port.is_empty() && port.bytes().all(|byte| byte.is_ascii_digit());
    port.parse().ok().filter(|_| is_plain)
}

/// How many bytes at the start are of a class.
fn run(text: &str, class: u8) -> usize {
    let is_of = |byte: u8| CLASSES.get(usize::from(byte)).is_some_and(|of| of & class != 0);
    text.bytes().position(|byte| !is_of(byte)).unwrap_or(text.len())
}

/// What may stand in a segment of a path as it is (RFC 3986 section 3.3), with percent signs.
const SEGMENT: u8 = 1;
/// What may stand in a query as it is (section 3.4), and a URL's reader leaves.
const QUERY: u8 = 2;
/// What may stand in a name of a host in lower case.
const HOST: u8 = 4;

static CLASSES: [u8; 256] = {
    let (mut table, others) = ([0; 256], b"-._~!$&()*+,;=:@%");
    let mut at = 0;
    while at < 256 {
        #[allow(clippy::cast_possible_truncation, reason = "it is below 256")]
        let byte = at as u8;
        if byte.is_ascii_alphanumeric() {
            table[at] = SEGMENT | QUERY | if byte.is_ascii_uppercase() { 0 } else { HOST };
        }
        at += 1;
    }
    at = 0;
    while at < others.len() {
        table[others[at] as usize] = SEGMENT | QUERY;
        at += 1;
    }
    table[b'\'' as usize] = SEGMENT;
    table[b'/' as usize] = QUERY;
    table[b'?' as usize] = QUERY;
    table[b'-' as usize] |= HOST;
    table[b'.' as usize] |= HOST;
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
            url in "https?://([a-z0-9.-]{1,12}|[0-9]{1,3}([.][0-9]{1,3}){3})(:[0-9]{0,5})?(/[A-Za-z0-9%.~@'-]{0,6}){0,4}(\\?[a-z0-9=&'%?]{0,8})?(#x)?"
        ) {
            if let Some(split) = UrlParts::plain(&url) {
                prop_assert_eq!(Some(split), UrlParts::parsed(&url, true), "{}", url);
            }
        }
    }

    #[test]
    fn what_a_reader_would_change_is_not_plain() {
        for url in ["https://harbour.example/v1/berths/A-3?free=1#x", "http://127.0.0.1:7878/v1"] {
            assert!(UrlParts::plain(url).is_some());
        }
        for url in [
            "https://Harbour.example/",
            "https://127.1/",
            "https://h.example",
            "/berths",
            "https://h.example/a/../b",
            "https://h.example/ä",
            "https://u@h.example/",
        ] {
            assert_eq!(UrlParts::plain(url), None, "{url}");
        }
    }
}
