//! A client's connection: one exchange after the other.

use std::time::Duration;

use serde_json::json;
use tokio::io::{AsyncRead, AsyncReadExt as _, AsyncWrite, AsyncWriteExt as _};
use tokio::net::TcpStream;
use tokio::time::{Instant, timeout};

use super::exchange::{ConnectionSide, ServiceConnection, pass};
use super::head::{HeadError, RequestHead, asked};
use super::listen::RelayState;

use super::notice::RelayNotice;
use super::tunnel::tunnel;
use super::upstream::ONLY_HTTP2;

/// A connection on which nothing comes is kept for so long.
const IDLE: Duration = Duration::from_secs(60);

/// The same, while others wait to be let in: for a client that was served, and for one that has sent no request yet.
const IDLE_IN_A_CROWD: Duration = Duration::from_secs(2);
const SILENT_IN_A_CROWD: Duration = Duration::from_secs(5);

/// How often it is looked whether there is a crowd.
const GLANCE: Duration = Duration::from_secs(2);

/// So long is waited for a client to read the last of what it was sent.
const PARTING: Duration = Duration::from_secs(1);

pub(super) async fn serve(stream: TcpStream, shared: &RelayState) {
    // Small responses are not held back.
    let _ = stream.set_nodelay(true);
    let (from, mut to) = stream.into_split();
    let mut client = ConnectionSide::new(from);
    let mut line: Option<ServiceConnection> = None;
    // Where that leads, where requests say it.
    let mut origin: Option<String> = None;
    let mut in_a_crowd = SILENT_IN_A_CROWD;
    loop {
        let asked = match next(&mut client, in_a_crowd, shared).await {
            NextRequest::Received(asked) => *asked,
            NextRequest::Refused(refusal) => {
                shared.refused();
                refuse(&mut to, &refusal).await;
                break;
            }
            NextRequest::Gone => break,
        };
        in_a_crowd = IDLE_IN_A_CROWD;
        if asked.method == "CONNECT" {
            open_tunnel(&asked, &mut client, &mut to, shared).await;
            break;
        }
        if origin != asked.to.origin {
            line = None;
            origin.clone_from(&asked.to.origin);
        }
        if !exchange(asked, &mut client, &mut to, &mut line, shared).await {
            break;
        }
    }
    part(&mut client, &mut to, shared).await;
}

/// What came of waiting for a request.
enum NextRequest {
    Received(Box<RequestHead>),
    Refused(HeadError),
    Gone,
}

async fn next<R: AsyncRead + Unpin>(
    client: &mut ConnectionSide<R>,
    in_a_crowd: Duration,
    shared: &RelayState,
) -> NextRequest {
    let since = Instant::now();
    loop {
        match asked(&client.ahead, shared.goal()) {
            Ok(Some((asked, length))) => {
                client.ahead.drain(..length);
                return NextRequest::Received(Box::new(asked));
            }
            Err(refusal) => return NextRequest::Refused(refusal),
            Ok(None) => {}
        }
        let more = tokio::select! {
            more = timeout(GLANCE, client.more()) => more,
            () = shared.stopping() => return NextRequest::Gone,
        };
        if matches!(more, Ok(Ok(false) | Err(_))) {
            return NextRequest::Gone;
        }
        // Whoever sends a byte now and then is silent, too.
        let is_crowded = shared.is_crowded();
        let patience = if is_crowded { in_a_crowd } else { IDLE };
        if since.elapsed() >= patience {
            if is_crowded && in_a_crowd == SILENT_IN_A_CROWD {
                shared.tell(RelayNotice::Crowd).await;
            }
            return NextRequest::Gone;
        }
    }
}

/// Passes one exchange on, over the connection that there is or a new one. Can there be another?
async fn exchange<R, W>(
    asked: RequestHead,
    client: &mut ConnectionSide<R>,
    to: &mut W,
    line: &mut Option<ServiceConnection>,
    shared: &RelayState,
) -> bool
where
    R: AsyncRead + Unpin,
    W: AsyncWrite + Unpin,
{
    if let Some(old) = line
        && old.is_stale()
    {
        *line = None;
    }
    for _ in 0..2 {
        if line.is_none() {
            match connected(&asked, shared).await {
                Ok(stream) => *line = Some(stream),
                Err(words) => {
                    shared.enter(shared.unanswered(asked, &words)).await;
                    refuse(to, &HeadError { status: 502, words }).await;
                    return false;
                }
            }
        }
        let Some(open) = line else { return false };
        let outcome = pass(asked.clone(), client, to, open, shared).await;
        if outcome.is_stale {
            *line = None;
            continue;
        }
        let mut protocol = None;
        if let Some(passed) = outcome.passed {
            protocol = passed.switched_to().map(str::to_owned);
            if passed.broken.as_deref() == Some(ONLY_HTTP2) {
                shared.tell(only_http2(&asked)).await;
            }
            shared.enter(passed).await;
        }
        if let Some(protocol) = protocol {
            let url = asked.to.url;
            shared.tell(RelayNotice::Upgrade { protocol, url }).await;
            if let Some(open) = line {
                tunnel(client, to, open, shared).await;
            }
            return false;
        }
        if let Some(refusal) = outcome.refusal {
            refuse(to, &refusal).await;
            return false;
        }
        if !outcome.goes_on {
            *line = None;
        }
        return outcome.goes_on;
    }
    false
}

/// A new connection to the service that a request is for, or why there is none.
async fn connected(asked: &RequestHead, shared: &RelayState) -> Result<ServiceConnection, String> {
    let upstream = shared.upstream(asked).map_err(|error| format!("no connection: {error}"))?;
    match upstream.connect(shared.own).await {
        Ok(stream) => Ok(ServiceConnection::new(stream)),
        Err(error) => {
            let why = error.to_string();
            if why == ONLY_HTTP2 {
                shared.tell(only_http2(asked)).await;
            }
            Err(format!("no connection: {why}"))
        }
    }
}

fn only_http2(asked: &RequestHead) -> RelayNotice {
    RelayNotice::OnlyHttp2 { to: asked.to.authority.clone() }
}

/// Opens a tunnel: what passes through it is the client's and the service's own.
async fn open_tunnel<R, W>(
    asked: &RequestHead,
    client: &mut ConnectionSide<R>,
    to: &mut W,
    shared: &RelayState,
) where
    R: AsyncRead + Unpin,
    W: AsyncWrite + Unpin,
{
    match connected(asked, shared).await {
        Ok(mut open) => {
            shared.tell(RelayNotice::Tunnel { to: asked.to.authority.clone() }).await;
            if to.write_all(b"HTTP/1.1 200 Connection Established\r\n\r\n").await.is_ok() {
                tunnel(client, to, &mut open, shared).await;
            }
        }
        Err(words) => refuse(to, &HeadError { status: 502, words }).await,
    }
}

/// Tells a client why there is no response from the service. The response is the recorder's own, and says so.
async fn refuse<W: AsyncWrite + Unpin>(to: &mut W, refusal: &HeadError) {
    let HeadError { status, words } = refusal;
    let phrase = match status {
        400 => "Bad Request",
        431 => "Request Header Fields Too Large",
        501 => "Not Implemented",
        504 => "Gateway Timeout",
        505 => "HTTP Version Not Supported",
        _ => "Bad Gateway",
    };
    let detail = format!("The recorder in front of the service says: {words}.");
    let body = json!({"title": phrase, "status": status, "detail": detail}).to_string();
    let response = format!(
        "HTTP/1.1 {status} {phrase}\r\nServer: fclerk\r\nContent-Type: application/problem+json\r\n\
         Content-Length: {}\r\nConnection: close\r\n\r\n{body}",
        body.len()
    );
    // A client that is gone need not be told.
    let _ = to.write_all(response.as_bytes()).await;
}

/// Closes a connection so that what was sent last is not lost with it: a client that is still sending would take
/// the reset for the response (RFC 9112 section 9.6).
async fn part<R: AsyncRead + Unpin, W: AsyncWrite + Unpin>(
    client: &mut ConnectionSide<R>,
    to: &mut W,
    shared: &RelayState,
) {
    let _ = to.shutdown().await;
    let rest = async {
        let mut bytes = [0; 4096];
        while matches!(client.from.read(&mut bytes).await, Ok(1..)) {}
    };
    tokio::select! {
        _ = timeout(PARTING, rest) => {}
        () = shared.stopped() => {}
    }
}
