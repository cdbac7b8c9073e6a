//! Where a request goes: to the one service that is recorded or, by a proxy, to whatever it names.

use std::net::IpAddr;

use super::head::HeadError;

/// What requests go to.
#[derive(Debug, Clone, Copy)]
pub(super) enum ForwardTarget<'g> {
    /// One service: its name, what its paths begin with, and the part of its URL before that; and whether it is asked for
    /// by this machine alone.
    Service { authority: &'g str, path: &'g str, origin: &'g str, is_local: bool },
    /// What each request names (RFC 9110 section 3.7, RFC 9112 section 3.2.2).
    Requested,
}

/// Where one request goes.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct ResolvedTarget {
    /// The scheme and the authority, where the request names them.
    pub(super) origin: Option<String>,
    /// What `Host` says.
    pub(super) authority: String,
    /// The target as it goes to the service.
    pub(super) target: String,
    /// The URL as it is recorded.
    pub(super) url: String,
}

impl ForwardTarget<'_> {
    /// Where a request with this target goes.
    pub(super) fn of(self, target: &str) -> Result<ResolvedTarget, HeadError> {
        match self {
            Self::Service { authority, path, origin, .. } => {
                let target = behind(target, path);
                let url = url_of(origin, &target);
                Ok(ResolvedTarget { origin: None, authority: authority.to_owned(), target, url })
            }
            Self::Requested => named(target),
        }
    }

    /// Is a request for this host one of those that it is there for? A page from anywhere can let its own name lead to
    /// loopback, and would reach the service through a browser on this machine.
    pub(super) fn admits(self, host: &str) -> Result<(), HeadError> {
        let Self::Service { authority, is_local: true, .. } = self else { return Ok(()) };
        let name = |authority: &str| {
            let authority = authority.trim().to_ascii_lowercase();
            let port = authority.rfind(':').filter(|at| !authority[*at..].contains(']'));
            port.map_or(authority.clone(), |at| authority[..at].to_owned())
        };
        let asked = name(host);
        let address = asked.trim_matches(['[', ']']).parse::<IpAddr>();
        let is_loopback = address.is_ok_and(|address| address.is_loopback());
        let is_localhost = asked == "localhost" || asked.ends_with(".localhost");
        if is_loopback || is_localhost || asked == name(authority) {
            return Ok(());
        }
        let words =
            format!("this recorder listens on loopback, and is not {host}: ask it by its address");
        Err(HeadError { status: 421, words })
    }
}

/// What a request to a proxy names.
fn named(target: &str) -> Result<ResolvedTarget, HeadError> {
    let no = |status, words: &str| Err(HeadError { status, words: words.to_owned() });
    let Some((scheme, rest)) = target.split_once("://").filter(|_| !target.starts_with('/')) else {
        return no(
            400,
            "this is a proxy, and the request names no host: set it as the client's HTTP proxy",
        );
    };
    if !scheme.eq_ignore_ascii_case("http") {
        return no(501, "the proxy forwards http by its URL, and https by CONNECT");
    }
    let end = rest.find(['/', '?']).unwrap_or(rest.len());
    let (authority, path) = rest.split_at(end);
    if authority.is_empty() || authority.contains('@') {
        return no(400, "the URL of the request names no host, or credentials beside it");
    }
    let target = if path.starts_with('/') { path.to_owned() } else { format!("/{path}") };
    let origin = format!("http://{authority}");
    let url = url_of(&origin, &target);
    Ok(ResolvedTarget { origin: Some(origin), authority: authority.to_owned(), target, url })
}

/// The URL of a target.
fn url_of(origin: &str, target: &str) -> String {
    if target.starts_with('/') { format!("{origin}{target}") } else { format!("{origin}/") }
}

/// A target behind the service's base path, whatever form it had.
fn behind(target: &str, base: &str) -> String {
    let path = match target.split_once("://") {
        Some((_, rest)) if !target.starts_with('/') => {
            rest.find('/').and_then(|at| rest.get(at..)).unwrap_or("/")
        }
        _ => target,
    };
    if path.starts_with('/') { format!("{base}{path}") } else { path.to_owned() }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_proxy_goes_where_the_request_says() {
        let of = |target: &str| {
            let of = ForwardTarget::Requested.of(target).map_err(|error| error.status)?;
            Ok::<_, u16>((of.authority, of.target, of.url))
        };
        let text = str::to_owned;
        assert_eq!(
            of("http://harbour.example:81/v1/x?a=://b"),
            Ok((
                text("harbour.example:81"),
                text("/v1/x?a=://b"),
                text("http://harbour.example:81/v1/x?a=://b")
            ))
        );
        assert_eq!(
            of("HTTP://harbour.example?a"),
            Ok((text("harbour.example"), text("/?a"), text("http://harbour.example/?a")))
        );
        for (target, status) in [
            ("/v1/berths", 400),
            ("*", 400),
            ("/redirect?to=http://a/", 400),
            ("http:///x", 400),
            ("http://me:secret@a/", 400),
            ("https://a/", 501),
        ] {
            assert_eq!(of(target), Err(status), "{target}");
        }
    }
}
