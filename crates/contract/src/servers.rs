//! Base URLs of the service, and how recorded URLs come off them.

use std::borrow::Cow;
use std::ops::Range;

use url::Host;

use crate::model::CaseSensitivity;
use crate::router::TemplateSegment;
use crate::url_parts::{UrlParts, UrlPath, plain_path};

/// One base URL. Host, port and path segments may be variables, as in `https://{quay}.example:{port}/v1`. A path alone, as in
/// `/v1`, is that path on any host.
#[derive(Debug, Clone)]
pub struct Server {
    /// As it was written.
    pub text: String,
    /// None for any.
    origin: Option<Origin>,
    prefix: Vec<TemplateSegment>,
    /// What plain URLs below it begin with, where that can be told.
    start: Option<UrlPrefix>,
}

/// Where a server is.
#[derive(Debug, Clone)]
struct Origin {
    scheme: String,
    host: TemplateSegment,
    /// None for any.
    port: Option<u16>,
}

/// What the plain URLs below a base begin with, up to a slash.
#[derive(Debug, Clone)]
struct UrlPrefix {
    text: String,
    host: Range<usize>,
}

impl UrlPrefix {
    /// The start for a base that is written as plain URLs are, without variables.
    fn of(base: &str) -> Option<Self> {
        let text = base.trim_end_matches('/');
        let whole = format!("{text}/");
        let split = UrlParts::plain(&whole).filter(|split| split.query.is_none())?;
        let (scheme, behind) = text.split_once("://")?;
        let host = scheme.len() + 3..scheme.len() + 3 + split.host.len();
        let (_, path) = behind.split_once('/').unwrap_or_default();
        let is_plain = !path.contains("//") && !path.starts_with('/') && !text.contains(['%', '{']);
        is_plain.then(|| Self { text: text.to_owned(), host })
    }
}

impl Server {
    /// Reads a base URL.
    ///
    /// # Errors
    /// What is wrong with it, in a few words.
    pub fn read(text: &str) -> Result<Self, String> {
        if text.starts_with('/') && !text.starts_with("//") {
            return Self::on_any_host(text);
        }
        let (scheme, rest) = text.split_once("://").ok_or("it has no scheme such as `https://`")?;
        if !matches!(scheme, "http" | "https") {
            return Err(format!("`{scheme}` is not http or https"));
        }
        if let Some(odd) = rest.find(['?', '#', '@', ' ']) {
            let odd = rest.get(odd..).and_then(|rest| rest.chars().next()).unwrap_or_default();
            return Err(format!("a base URL has no `{odd}`"));
        }
        let (authority, path) = rest.split_once('/').unwrap_or((rest, ""));
        let (host, port) = match authority.rsplit_once(':') {
            Some((host, port)) if port.starts_with('{') && port.ends_with('}') => (host, None),
            Some((host, port)) if !port.ends_with(']') => {
                let port = port.parse().map_err(|_| format!("`{port}` is not a port"))?;
                (host, Some(port))
            }
            _ => (authority, Some(if scheme == "https" { 443 } else { 80 })),
        };
        if host.is_empty() {
            return Err("it has no host".to_owned());
        }
        let origin = Origin { scheme: scheme.to_owned(), host: host_pattern(host)?, port };
        Ok(Self {
            text: text.to_owned(),
            origin: Some(origin),
            prefix: prefix_of(path)?,
            start: UrlPrefix::of(text),
        })
    }

    /// A base path, wherever it is.
    fn on_any_host(path: &str) -> Result<Self, String> {
        if let Some(odd) = path.chars().find(|c| matches!(c, '?' | '#' | ' ')) {
            return Err(format!("a base URL has no `{odd}`"));
        }
        let prefix = prefix_of(path)?;
        Ok(Self { text: path.to_owned(), origin: None, prefix, start: None })
    }

    /// Is it a path on any host?
    #[must_use]
    pub fn is_on_any_host(&self) -> bool {
        self.origin.is_none()
    }

    /// Its path alone, which is on any host.
    #[must_use]
    pub fn base_path(&self) -> Self {
        let path = match self.text.split_once("://") {
            Some((_, rest)) => rest.split_once('/').map_or("", |(_, path)| path),
            None => &self.text,
        };
        let text = format!("/{}", path.trim_matches('/'));
        Self { text, origin: None, prefix: self.prefix.clone(), start: None }
    }

    /// In what a recorded URL is not below this base.
    #[must_use]
    pub fn differences(&self, url: &str) -> Vec<ServerDifference> {
        let Some(parts) = parts_of(url) else { return vec![ServerDifference::Host] };
        let mut found = Vec::new();
        if let Some(origin) = &self.origin {
            found.extend(origin.differences(&parts));
        }
        if RequestPath::read(url, std::slice::from_ref(self)).is_none() && found.is_empty() {
            found.push(ServerDifference::BasePath);
        }
        found
    }

    /// Can no URL be below both?
    fn is_apart_from(&self, other: &Self) -> bool {
        let (Some(one), Some(other)) = (&self.origin, &other.origin) else { return false };
        let hosts = (&one.host, &other.host);
        one.scheme != other.scheme
            || matches!(hosts, (TemplateSegment::Literal(one), TemplateSegment::Literal(other)) if one != other)
    }

    fn is_host_of(&self, split: &UrlParts<'_>) -> bool {
        self.origin.as_ref().is_none_or(|origin| origin.is_host_of(split))
    }
}

impl Origin {
    fn is_host_of(&self, split: &UrlParts<'_>) -> bool {
        self.scheme == split.scheme
            && self.port.is_none_or(|port| Some(port) == split.port)
            && self.host.admits(&split.host, CaseSensitivity::Sensitive)
    }

    fn differences(&self, parts: &UrlParts<'_>) -> Vec<ServerDifference> {
        let mut found = Vec::new();
        if self.scheme != parts.scheme {
            found.push(ServerDifference::Scheme);
        }
        if !self.host.admits(&parts.host, CaseSensitivity::Sensitive) {
            found.push(ServerDifference::Host);
        }
        // Another scheme has another usual port, which is no difference of its own.
        let is_usual = self.scheme != parts.scheme && parts.port == usual_port(parts.scheme);
        if !is_usual && self.port.is_some_and(|port| Some(port) != parts.port) {
            found.push(ServerDifference::Port);
        }
        found
    }
}

/// The segments of a base path.
fn prefix_of(path: &str) -> Result<Vec<TemplateSegment>, String> {
    let segments = path.split('/').filter(|segment| !segment.is_empty());
    segments.map(TemplateSegment::read).collect()
}

fn parts_of(url: &str) -> Option<UrlParts<'_>> {
    UrlParts::plain(url).or_else(|| UrlParts::parsed(url, true))
}

/// Where a recorded URL leads: its scheme, host, port and the first segment of its path, without credentials.
#[must_use]
pub fn url_start(url: &str) -> Option<String> {
    let parts = parts_of(url)?;
    let port = parts.port.filter(|port| Some(*port) != usual_port(parts.scheme));
    let port = port.map(|port| format!(":{port}")).unwrap_or_default();
    let segment = parts.segments.iter().find(|segment| !segment.is_empty());
    let segment = segment.map(|segment| format!("/{segment}")).unwrap_or_default();
    Some(format!("{}://{}{port}{segment}", parts.scheme, parts.host))
}

/// The origin of a URL that is written as its reader would write it (RFC 6454 section 6.2), and the segments of its path,
/// decoded; `None` for any other URL.
#[must_use]
pub fn plain_origin(url: &str) -> Option<(&str, Vec<Cow<'_, str>>)> {
    let parts = UrlParts::plain(url)?;
    let host = parts.scheme.len() + 3 + parts.host.len();
    let end = host + url.get(host..)?.find('/')?;
    let port = url.get(host..end)?;
    let is_as_written =
        port.is_empty() || (parts.port != usual_port(parts.scheme) && !port.starts_with(":0"));
    is_as_written.then_some((url.get(..end)?, parts.segments))
}

/// The port that a scheme has where a URL names none.
fn usual_port(scheme: &str) -> Option<u16> {
    match scheme {
        "http" => Some(80),
        "https" => Some(443),
        _ => None,
    }
}

/// In what a URL differs from a base.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum ServerDifference {
    /// The scheme.
    Scheme,
    /// The host.
    Host,
    /// The port.
    Port,
    /// The base path.
    BasePath,
}

impl ServerDifference {
    /// What is different, in words.
    #[must_use]
    pub fn words(self) -> &'static str {
        match self {
            Self::Scheme => "another scheme",
            Self::Host => "another host",
            Self::Port => "another port",
            Self::BasePath => "another base path",
        }
    }
}

/// A host as recorded URLs have it: in lower case, and in ASCII.
fn host_pattern(host: &str) -> Result<TemplateSegment, String> {
    if host.contains(['{', '}']) {
        return TemplateSegment::read(&host.to_ascii_lowercase());
    }
    let parsed = Host::parse(host).map_err(|_| format!("`{host}` is not a host"))?;
    Ok(TemplateSegment::Literal(parsed.to_string()))
}

/// The path of a recorded URL below the service's base, still in segments.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RequestPath<'u> {
    segments: Vec<Cow<'u, str>>,
    query: Option<Cow<'u, str>>,
    host: Cow<'u, str>,
}

impl<'u> RequestPath<'u> {
    /// Takes the base off a recorded URL; `None` where it is none of the service's.
    ///
    /// A URL without a host, which some recorders write, is taken for the service's.
    #[must_use]
    pub fn read(url: &'u str, servers: &[Server]) -> Option<Self> {
        if let Some(target) = Self::plain(url, servers) {
            return Some(target);
        }
        if url.starts_with("//") {
            // The recording has no scheme, so either will do.
            let with = |scheme: &str| {
                let split = UrlParts::parsed(&format!("{scheme}:{url}"), true)?;
                Self::below(split, servers)
            };
            return with("https").or_else(|| with("http"));
        }
        let split = match UrlParts::plain(url) {
            Some(split) => split,
            None if url.starts_with('/') => UrlParts::parsed(&format!("http://host{url}"), false)?,
            None => UrlParts::parsed(url, true)?,
        };
        Self::below(split, servers)
    }

    /// The same for most URLs: plain ones that start as a base does, where no other base can be meant.
    fn plain(url: &'u str, servers: &[Server]) -> Option<Self> {
        let (server, start, rest) = servers.iter().find_map(|server| {
            let start = server.start.as_ref()?;
            Some((server, start, url.strip_prefix(start.text.as_str())?))
        })?;
        let UrlPath { segments, query } = plain_path(rest)?;
        let is_other = |other: &&Server| !std::ptr::eq(*other, server);
        let is_meant = servers.iter().filter(is_other).all(|other| other.is_apart_from(server));
        let host = Cow::Borrowed(url.get(start.host.clone())?);
        is_meant.then_some(Self { segments, query, host })
    }

    fn below(split: UrlParts<'u>, servers: &[Server]) -> Option<Self> {
        let below = servers
            .iter()
            .filter(|server| !split.has_host || server.is_host_of(&split))
            .filter(|server| starts_with(&split.segments, &server.prefix))
            .map(|server| server.prefix.len())
            .max();
        let UrlParts { mut segments, query, host, has_host, .. } = split;
        match below {
            Some(length) => _ = segments.drain(..length),
            // A bare path that carries no prefix was recorded behind it.
            None if servers.is_empty() || !has_host => {}
            None => return None,
        }
        Some(Self { segments, query, host })
    }

    /// The host, where the URL has one.
    #[must_use]
    pub fn host(&self) -> &str {
        &self.host
    }

    /// The parameters of the query, decoded, in order.
    pub fn query(&self) -> impl Iterator<Item = (Cow<'_, str>, Cow<'_, str>)> {
        url::form_urlencoded::parse(self.query.as_deref().unwrap_or_default().as_bytes())
    }

    /// The segments, decoded. With `same_slash`, one trailing slash is dropped.
    #[must_use]
    pub fn segments(&self, same_slash: bool) -> &[Cow<'u, str>] {
        match self.segments.split_last() {
            // The path `/` is no segment at all, and so is the base URL itself.
            Some((last, before)) if last.is_empty() && (same_slash || before.is_empty()) => before,
            _ => &self.segments,
        }
    }
}

fn starts_with(segments: &[Cow<'_, str>], prefix: &[TemplateSegment]) -> bool {
    segments.len() >= prefix.len()
        && prefix
            .iter()
            .zip(segments)
            .all(|(pattern, segment)| pattern.admits(segment, CaseSensitivity::Sensitive))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn path(url: &str, servers: &[&str]) -> Option<String> {
        let servers: Vec<Server> = servers.iter().map(|s| Server::read(s).unwrap()).collect();
        RequestPath::read(url, &servers)
            .map(|target| format!("/{}", target.segments(false).join("/")))
    }

    #[test]
    fn a_base_comes_off_by_whole_segments() {
        let servers = [
            "https://harbour.example/v2",
            "http://127.0.0.1:7878",
            "http://[::1]:80",
            "http://häfen.example",
        ];
        for (url, below) in [
            ("https://harbour.example/v2/berths/A-3?free=1#x", Some("/berths/A-3")),
            ("https://HARBOUR.example:443/v2/berths", Some("/berths")),
            ("https://harbour.example/v2", Some("/")),
            ("https://harbour.example/v2/", Some("/")),
            ("https://harbour.example/v2/berths/", Some("/berths/")),
            ("https://harbour.example/v21/berths", None),
            ("http://harbour.example/v2/berths", None),
            ("http://127.0.0.1:7878/berths", Some("/berths")),
            ("http://127.0.0.1:7879/berths", None),
            ("http://[0:0::1]/berths", Some("/berths")),
            ("http://xn--hfen-loa.example/berths", Some("/berths")),
            ("/v2/berths", Some("/berths")),
            ("data:text/plain,x", None),
            ("chrome-extension://abc/x", None),
            ("harbour.example:443", None),
            ("", None),
        ] {
            assert_eq!(path(url, &servers).as_deref(), below, "{url}");
        }
    }

    #[test]
    fn the_origin_of_a_plain_url_is_what_stands_before_its_path() {
        for (url, origin) in [
            ("https://harbour.example/v2/a%2Fb?x=/y", Some("https://harbour.example")),
            ("http://127.0.0.1:7878/", Some("http://127.0.0.1:7878")),
            ("https://harbour.example:443/", None),
            ("https://harbour.example:080/", None),
            ("https://HARBOUR.example/", None),
            ("https://harbour.example", None),
            ("/v2", None),
        ] {
            let found = plain_origin(url);
            assert_eq!(found.as_ref().map(|(origin, _)| *origin), origin, "{url}");
            let parsed = url::Url::parse(url).ok();
            if let (Some((origin, segments)), Some(parsed)) = (found, parsed) {
                assert_eq!(parsed.origin().ascii_serialization(), origin);
                assert_eq!(segments.len(), parsed.path_segments().unwrap().count());
            }
        }
    }

    /// Every URL below every list of bases, with and without the way for most URLs.
    #[test]
    fn a_plain_url_is_found_below_the_base_that_others_are() {
        let bases = [
            "https://harbour.example",
            "https://harbour.example/",
            "https://harbour.example//v1//",
            "https://harbour.example/v1",
            "https://harbour.example:443/v1/x",
            "https://harbour.example:0443/v1",
            "https://harbour.example:8443/v1",
            "https://HARBOUR.example/v1",
            "https://harbour.example/v%31",
            "https://{quay}.example/v1/x",
            "http://harbour.example/v1",
            "http://other.example/v1/x",
        ];
        let urls = ["", ":443", ":0443", ":8443"].map(|port| {
            ["", "/", "//v1/x", "/v1", "/v1?a=1", "/v1/", "/v1//x", "/v1/x/y?a=b#c", "/v1/%78/y"]
                .map(|rest| format!("https://harbour.example{port}{rest}"))
        });
        for one in bases {
            for other in bases {
                let servers = [one, other].map(|base| Server::read(base).unwrap());
                let slow = servers.clone().map(|server| Server { start: None, ..server });
                for url in urls.iter().flatten() {
                    let found = RequestPath::read(url, &servers);
                    assert_eq!(found, RequestPath::read(url, &slow), "{url} {one} {other}");
                }
            }
        }
        let found =
            |base| RequestPath::plain("https://h.example/v1/x", &[Server::read(base).unwrap()]);
        assert!(found("https://h.example/v1/").is_some());
    }

    #[test]
    fn percent_encoding_is_undone_within_a_segment() {
        assert_eq!(path("/%62erths/a%2Fb%20c", &[]).as_deref(), Some("/berths/a/b c"));
        let target = RequestPath::read("/a%2Fb", &[]).unwrap();
        assert_eq!(target.segments(false), ["a/b"]);
    }

    #[test]
    fn the_longest_base_wins_and_variables_are_templates() {
        let servers =
            ["https://{port}.harbour.example", "https://{port}.harbour.example/{tenant}/api"];
        assert_eq!(
            path("https://oban.harbour.example/x/api/berths", &servers).as_deref(),
            Some("/berths")
        );
        assert_eq!(
            path("https://oban.harbour.example/berths", &servers).as_deref(),
            Some("/berths")
        );
        assert_eq!(path("https://harbour.example/berths", &servers), None);
        let any = ["http://127.0.0.1:{port}/v1"];
        for port in ["", ":80", ":7878"] {
            assert_eq!(path(&format!("http://127.0.0.1{port}/v1/x"), &any).as_deref(), Some("/x"));
        }
        assert_eq!(path("https://127.0.0.1:7878/v1/x", &any), None);
    }

    /// A path alone is that path wherever it was recorded, and a longer base counts all the same.
    #[test]
    fn a_path_alone_is_on_any_host() {
        let servers = ["/v1", "https://harbour.example/v1/x"];
        for (url, below) in [
            ("https://harbour.example/v1/berths", Some("/berths")),
            ("http://127.0.0.1:7878/v1/berths?x=1", Some("/berths")),
            ("/v1/berths", Some("/berths")),
            ("https://harbour.example/v1/x/berths", Some("/berths")),
            ("https://other.example/v1/x/berths", Some("/x/berths")),
            ("https://harbour.example/v2/berths", None),
        ] {
            assert_eq!(path(url, &servers).as_deref(), below, "{url}");
        }
        let server = Server::read("https://{quay}.example:{port}/{tenant}/api/").unwrap();
        assert_eq!(server.base_path().text, "/{tenant}/api");
        assert!(server.base_path().is_on_any_host() && !server.is_on_any_host());
        assert_eq!(Server::read("https://harbour.example").unwrap().base_path().text, "/");
    }

    #[test]
    fn a_base_that_is_none_says_why() {
        for text in [
            "harbour.example",
            "//x",
            "/v1?x",
            "ftp://x",
            "https://",
            "https://a?b",
            "https://a:b",
            "https://u@a",
        ] {
            assert!(Server::read(text).is_err(), "{text}");
        }
    }
}
