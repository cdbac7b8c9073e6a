//! The service that requests go to, and connections to it.

use std::fmt;
use std::io;
use std::sync::Arc;
use std::time::Duration;

use rustls::ClientConfig;
use rustls::pki_types::ServerName;
use rustls_platform_verifier::ConfigVerifierExt as _;
use tokio::io::{AsyncRead, AsyncWrite};
use tokio::net::TcpStream;
use tokio::time::timeout;
use tokio_rustls::TlsConnector;
use url::Url;

use super::head::ForwardTarget;

/// So long a connection may take to come about.
const PATIENCE: Duration = Duration::from_secs(10);

/// What bytes go over: plain or encrypted.
pub(super) trait ByteStream: AsyncRead + AsyncWrite + Send + Unpin {}

impl<S: AsyncRead + AsyncWrite + Send + Unpin> ByteStream for S {}

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

    /// The URL of a target that was passed on to it.
    pub(super) fn url_of(&self, target: &str) -> String {
        let origin = self.url.strip_suffix(self.path.as_str()).unwrap_or(&self.url);
        if target.starts_with('/') { format!("{origin}{target}") } else { format!("{origin}/") }
    }

    pub(super) fn goal(&self) -> ForwardTarget<'_> {
        ForwardTarget { authority: &self.authority, path: &self.path }
    }

    /// A new connection.
    pub(super) async fn connect(&self) -> io::Result<Box<dyn ByteStream>> {
        let connecting = async {
            let stream = TcpStream::connect((self.host.as_str(), self.port)).await?;
            stream.set_nodelay(true)?;
            match &self.tls {
                None => Ok(Box::new(stream) as Box<dyn ByteStream>),
                Some((connector, name)) => {
                    let stream = connector.connect(name.clone(), stream).await?;
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
            (upstream.authority.clone(), upstream.path.clone(), upstream.url_of("/v1/x?a=1"))
        };
        let text = str::to_owned;
        assert_eq!(
            of("http://127.0.0.1:7878/v1/"),
            (text("127.0.0.1:7878"), text("/v1"), text("http://127.0.0.1:7878/v1/x?a=1"))
        );
        assert_eq!(
            of("https://harbour.example"),
            (text("harbour.example"), text(""), text("https://harbour.example/v1/x?a=1"))
        );
        let six = Upstream::at("http://[::1]:80/").unwrap();
        assert_eq!((six.host.as_str(), six.authority.as_str()), ("::1", "[::1]"));
        for url in ["ftp://a", "nowhere", "http://me:secret@a/", "http://a/?b", "http://a/#b"] {
            assert!(Upstream::at(url).is_err(), "{url}");
        }
    }
}
