//! The service that requests go to, and connections to it.

use std::fmt;
use std::io;
use std::net::SocketAddr;
use std::sync::Arc;
use std::time::Duration;

use rustls::pki_types::ServerName;
use rustls::{AlertDescription, ClientConfig};
use rustls_platform_verifier::ConfigVerifierExt as _;
use tokio::io::{AsyncRead, AsyncWrite};
use tokio::net::TcpStream;
use tokio::time::timeout;
use tokio_rustls::TlsConnector;
use url::Url;

use super::target::ForwardTarget;

/// What is said of a service that speaks nothing but HTTP/2.
pub(super) const ONLY_HTTP2: &str = "it speaks HTTP/2 and not HTTP/1.1, which the recorder needs; let it speak HTTP/1.1, too, or put a proxy in front of it that does";

/// So long a connection may take to come about.
const PATIENCE: Duration = Duration::from_secs(10);

/// What bytes go over: plain or encrypted.
pub(super) trait ByteStream: AsyncRead + AsyncWrite + Send + Unpin {}

impl<S: AsyncRead + AsyncWrite + Send + Unpin> ByteStream for S {}

/// Where a recorder sends what it gets.
#[derive(Debug, Clone)]
pub enum Destination {
    /// To one service.
    Service(Upstream),
    /// To what each request names: the recorder is the client's proxy.
    Requested,
}

/// A service to which requests are passed on.
#[derive(Clone)]
pub struct Upstream {
    url: String,
    host: String,
    port: u16,
    authority: String,
    path: String,
    tls: Option<(TlsConnector, ServerName<'static>)>,
}

impl fmt::Debug for Upstream {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("Upstream").field("url", &self.url).finish_non_exhaustive()
    }
}

/// Why nothing can be passed on there.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct UpstreamError(String);

impl fmt::Display for UpstreamError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.0)
    }
}

impl std::error::Error for UpstreamError {}

impl Upstream {
    /// The service at a URL: http or https, with a path or without, and nothing else.
    ///
    /// # Errors
    /// What is wrong with the URL, or that there is no TLS to be had.
    pub fn at(text: &str) -> Result<Self, UpstreamError> {
        let no = |why: &str| UpstreamError(why.to_owned());
        let url = Url::parse(text).map_err(|error| UpstreamError(error.to_string()))?;
        let is_tls = match url.scheme() {
            "http" => false,
            "https" => true,
            _ => return Err(no("it is neither http nor https")),
        };
        if !url.username().is_empty() || url.password().is_some() {
            return Err(no("credentials don't belong into a URL; clients send their own"));
        }
        if url.query().is_some() || url.fragment().is_some() {
            return Err(no("it has a query or a fragment"));
        }
        let host = url.host_str().ok_or_else(|| no("it has no host"))?.to_owned();
        let port = url.port_or_known_default().ok_or_else(|| no("it has no port"))?;
        let authority = match url.port() {
            Some(port) => format!("{host}:{port}"),
            None => host.clone(),
        };
        // An IPv6 address stands in brackets in a URL, and without them everywhere else.
        let host = host.trim_start_matches('[').trim_end_matches(']').to_owned();
        let tls = if is_tls { Some(tls(&host)?) } else { None };
        let path = url.path().trim_end_matches('/').to_owned();
        let url = url.as_str().trim_end_matches('/').to_owned();
        Ok(Self { url, host, port, authority, path, tls })
    }

    /// Its URL, without a slash at its end.
    #[must_use]
    pub fn url(&self) -> &str {
        &self.url
    }

    /// The same as where requests go.
    pub(super) fn goal(&self, is_local: bool) -> ForwardTarget<'_> {
        let origin = self.url.strip_suffix(self.path.as_str()).unwrap_or(&self.url);
        ForwardTarget::Service { authority: &self.authority, path: &self.path, origin, is_local }
    }

    /// A new connection. A recorder does not ask itself.
    pub(super) async fn connect(&self, own: SocketAddr) -> io::Result<Box<dyn ByteStream>> {
        let connecting = async {
            let stream = TcpStream::connect((self.host.as_str(), self.port)).await?;
            let there = stream.peer_addr()?;
            if there.port() == own.port() && (there.ip() == own.ip() || own.ip().is_unspecified()) {
                return Err(io::Error::other("that is where the recorder itself listens"));
            }
            stream.set_nodelay(true)?;
            match &self.tls {
                None => Ok(Box::new(stream) as Box<dyn ByteStream>),
                Some((connector, name)) => {
                    let connected = connector.connect(name.clone(), stream).await;
                    let stream = connected.map_err(only_http2)?;
                    Ok(Box::new(stream) as Box<dyn ByteStream>)
                }
            }
        };
        match timeout(PATIENCE, connecting).await {
            Ok(connected) => connected,
            Err(_) => Err(io::Error::new(io::ErrorKind::TimedOut, "nothing is listening there")),
        }
    }
}

/// Says so where a service speaks nothing but HTTP/2 over TLS (RFC 7301 section 3.2).
fn only_http2(error: io::Error) -> io::Error {
    let alert = error.get_ref().and_then(|inner| inner.downcast_ref::<rustls::Error>());
    match alert {
        Some(rustls::Error::AlertReceived(AlertDescription::NoApplicationProtocol)) => {
            io::Error::other(ONLY_HTTP2)
        }
        _ => error,
    }
}

/// TLS with the certificates that this machine trusts; nothing but HTTP/1.1 is spoken over it.
fn tls(host: &str) -> Result<(TlsConnector, ServerName<'static>), UpstreamError> {
    let no = |error: &dyn fmt::Display| UpstreamError(format!("TLS is not available: {error}"));
    // Another part of the program may have chosen before.
    let _ = rustls::crypto::ring::default_provider().install_default();
    let mut config = ClientConfig::with_platform_verifier().map_err(|error| no(&error))?;
    config.alpn_protocols = vec![b"http/1.1".to_vec()];
    let name = ServerName::try_from(host.to_owned()).map_err(|error| no(&error))?;
    Ok((TlsConnector::from(Arc::new(config)), name))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_url_says_where_requests_go() {
        let of = |text: &str| {
            let upstream = Upstream::at(text).unwrap();
            let to = upstream.goal(true).of("/x?a=1").unwrap();
            (upstream.authority.clone(), upstream.path.clone(), to.url)
        };
        let text = str::to_owned;
        assert_eq!(
            of("http://127.0.0.1:7878/v1/"),
            (text("127.0.0.1:7878"), text("/v1"), text("http://127.0.0.1:7878/v1/x?a=1"))
        );
        assert_eq!(
            of("https://harbour.example"),
            (text("harbour.example"), text(""), text("https://harbour.example/x?a=1"))
        );
        let six = Upstream::at("http://[::1]:80/").unwrap();
        assert_eq!((six.host.as_str(), six.authority.as_str()), ("::1", "[::1]"));
        for url in ["ftp://a", "nowhere", "http://me:secret@a/", "http://a/?b", "http://a/#b"] {
            assert!(Upstream::at(url).is_err(), "{url}");
        }
    }
}
