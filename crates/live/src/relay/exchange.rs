//! One exchange, passed on while it comes.

use std::io;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};

use futures_util::FutureExt as _;
use jiff::Timestamp;
use tokio::io::{
    AsyncRead, AsyncReadExt as _, AsyncWrite, AsyncWriteExt as _, ReadHalf, WriteHalf,
};
use tokio::time::timeout;

use super::body_buffer::KeptBody;
use super::forwarded::ForwardedExchange;
use super::framing::BodyFraming;
use super::head::{HeadError, RequestHead, ResponseHead, answered};
use super::listen::RelayState;
use super::upstream::{ByteStream, ONLY_HTTP2};

/// So much is read at once.
const PIECE: usize = 32 << 10;

/// A client that stops within its request is waited for so long.
pub(super) const STUCK: Duration = Duration::from_secs(60);

/// A client that waits for less than this before it leaves was not kept waiting.
const PATIENCE: Duration = Duration::from_secs(1);

/// One side of a connection: what was read of it and not used yet, and where more comes from.
#[derive(Debug)]
pub(super) struct ConnectionSide<R> {
    pub(super) from: R,
    pub(super) ahead: Vec<u8>,
}

impl<R: AsyncRead + Unpin> ConnectionSide<R> {
    pub(super) fn new(from: R) -> Self {
        Self { from, ahead: Vec::new() }
    }

    /// Reads more; false at the end.
    pub(super) async fn more(&mut self) -> io::Result<bool> {
        self.ahead.reserve(PIECE);
        Ok(self.from.read_buf(&mut self.ahead).await? > 0)
    }

    fn used(&mut self, length: usize) {
        self.ahead.drain(..length);
    }
}

/// A connection to the service.
pub(super) struct ServiceConnection {
    pub(super) from: ConnectionSide<ReadHalf<Box<dyn ByteStream>>>,
    pub(super) to: WriteHalf<Box<dyn ByteStream>>,
    /// Did an exchange pass over it before? Then the service may have closed it since.
    pub(super) is_used: bool,
}

impl ServiceConnection {
    pub(super) fn new(stream: Box<dyn ByteStream>) -> Self {
        let (from, to) = tokio::io::split(stream);
        Self { from: ConnectionSide::new(from), to, is_used: false }
    }

    /// Has the service closed it, or sent what nobody asked for, while nothing was under way?
    pub(super) fn is_stale(&mut self) -> bool {
        // What is there at once; a timer, however short, would wait for its next tick.
        let seen = self.from.more().now_or_never();
        seen.is_some() || !self.from.ahead.is_empty()
    }
}

/// How an exchange ended.
#[derive(Debug)]
enum ExchangeEnd {
    /// The response passed to its end.
    Whole,
    /// The service's side failed, and why.
    Upstream(String),
    /// The client went away, or would not read.
    Client(String),
    /// The recorder was stopped.
    Stopped,
}

/// What is left of an exchange for the connection.
#[derive(Debug)]
pub(super) struct AfterExchange {
    /// The exchange, for the recording; none if it was ended on its way, and not by the service.
    pub(super) passed: Option<ForwardedExchange>,
    /// What the client has to be told, as no response began.
    pub(super) refusal: Option<HeadError>,
    /// Can the connections carry another exchange?
    pub(super) goes_on: bool,
    /// The service's connection was closed before anything came back on it: it may be tried on a new one.
    pub(super) is_stale: bool,
}

/// What passes of a response, as it does.
struct ResponseProgress<'c> {
    answered: &'c mut Option<ResponseHead>,
    came: &'c mut KeptBody,
    waited: &'c mut Option<Duration>,
    start: Instant,
    method: &'c str,
    /// Did anything come?
    any: &'c mut bool,
    /// Did all of the request go out?
    is_sent: &'c AtomicBool,
    /// Did the client ask for another protocol?
    may_switch: bool,
    /// How the body ends, and how far it came.
    framing: &'c mut BodyFraming,
}

/// Passes an exchange on. The request's head was read; its body, if it has one, comes from the client.
pub(super) async fn pass<R, W>(
    asked: RequestHead,
    client: &mut ConnectionSide<R>,
    to_client: &mut W,
    line: &mut ServiceConnection,
    shared: &RelayState,
) -> AfterExchange
where
    R: AsyncRead + Unpin,
    W: AsyncWrite + Unpin,
{
    let (at, start) = (Timestamp::now(), Instant::now());
    let (mut sent, mut came) = (shared.kept(), shared.kept());
    let (mut reply, mut waited, mut any) = (None, None, false);
    let mut framing = asked.framing.clone();
    let is_sent = AtomicBool::new(false);
    let mut came_framing = BodyFraming::NONE;
    let end = {
        let sending = send(&asked, &mut framing, client, &mut line.to, &mut sent, &is_sent);
        let coming = ResponseProgress {
            answered: &mut reply,
            came: &mut came,
            waited: &mut waited,
            start,
            method: &asked.method,
            any: &mut any,
            is_sent: &is_sent,
            may_switch: asked.upgrade.is_some(),
            framing: &mut came_framing,
        };
        let receiving = receive(coming, &mut line.from, to_client, shared.timeout);
        tokio::select! {
            biased;
            end = receiving => end,
            end = sending => end,
            () = shared.stopped() => ExchangeEnd::Stopped,
        }
    };
    let is_sent = is_sent.into_inner();
    let has_body = asked.framing != BodyFraming::NONE;
    if !is_sent && has_body {
        sent.drop_bytes();
    }
    let is_whole = matches!(end, ExchangeEnd::Whole);
    let is_stale = line.is_used && !any && !has_body && matches!(end, ExchangeEnd::Upstream(_));
    line.is_used = true;
    let closes = asked.closes || reply.as_ref().is_none_or(|reply: &ResponseHead| reply.closes);
    let goes_on = is_whole && is_sent && !closes && line.from.ahead.is_empty();
    let refusal = match &end {
        ExchangeEnd::Upstream(why) if reply.is_none() => {
            let status = if any || waited.is_none() && why != LATE { 502 } else { 504 };
            Some(HeadError { status, words: why.clone() })
        }
        _ => None,
    };
    let whole = start.elapsed();
    let nothing = AfterExchange { passed: None, refusal: None, goes_on: false, is_stale: false };
    let broken = match end {
        ExchangeEnd::Whole => None,
        ExchangeEnd::Upstream(why) => Some(why),
        // That a response is missing after so long says something about the service; that a client has left, not.
        ExchangeEnd::Client(why) if reply.is_none() && is_sent && whole >= PATIENCE => Some(why),
        ExchangeEnd::Client(_) => {
            shared.left();
            return nothing;
        }
        ExchangeEnd::Stopped => {
            shared.stopped_within();
            return nothing;
        }
    };
    let trailers = [framing.trailers(), came_framing.trailers()];
    let waited = waited.unwrap_or(whole);
    let passed = ForwardedExchange {
        at,
        trailers,
        request: asked,
        sent,
        response: reply,
        came,
        waited,
        whole,
        broken,
    };
    AfterExchange { passed: Some(passed), refusal, goes_on, is_stale }
}

/// Why a response did not come in time.
const LATE: &str = "no response before the timeout";

/// Are these bytes the settings with which HTTP/2 begins (RFC 9113 sections 3.4 and 6.5)?
fn is_http2(bytes: &[u8]) -> bool {
    const SETTINGS: u8 = 4;
    matches!(bytes, [0, _, _, SETTINGS, 0, 0, 0, 0, 0, ..])
}

/// Sends the request on, then watches whether the client stays. It only ends if the client goes.
async fn send<R: AsyncRead + Unpin>(
    asked: &RequestHead,
    framing: &mut BodyFraming,
    client: &mut ConnectionSide<R>,
    to: &mut WriteHalf<Box<dyn ByteStream>>,
    sent: &mut KeptBody,
    is_sent: &AtomicBool,
) -> ExchangeEnd {
    let mut is_read = to.write_all(&asked.bytes).await.is_ok() && to.flush().await.is_ok();
    while !framing.is_done() {
        if client.ahead.is_empty() {
            match timeout(STUCK, client.more()).await {
                Ok(Ok(true)) => {}
                Ok(Ok(false) | Err(_)) | Err(_) => {
                    return ExchangeEnd::Client("the client stopped within its request".to_owned());
                }
            }
        }
        let Ok(length) = framing.take(&client.ahead, sent) else {
            return ExchangeEnd::Client("the client's chunks are none".to_owned());
        };
        // A service that reads no more may still respond.
        let entry = client.ahead.get(..length).unwrap_or_default();
        is_read = is_read && to.write_all(entry).await.is_ok() && to.flush().await.is_ok();
        client.used(length);
    }
    is_sent.store(true, Ordering::Relaxed);
    // What comes now belongs to the next request; how much of it is read ahead is bounded.
    while client.ahead.len() < PIECE {
        match client.more().await {
            Ok(true) => {}
            Ok(false) | Err(_) => {
                return ExchangeEnd::Client(
                    "the client disconnected before the response".to_owned(),
                );
            }
        }
    }
    std::future::pending().await
}

/// Passes the response on: interim ones, then the final one.
async fn receive<R: AsyncRead + Unpin, W: AsyncWrite + Unpin>(
    coming: ResponseProgress<'_>,
    from: &mut ConnectionSide<R>,
    to: &mut W,
    deadline: Duration,
) -> ExchangeEnd {
    let gone = || ExchangeEnd::Client("the client disconnected during the response".to_owned());
    let end = |read: Result<io::Result<bool>, _>| match read {
        Ok(Ok(true)) => None,
        Ok(Ok(false)) => Some("the connection was closed".to_owned()),
        Ok(Err(error)) => Some(error.to_string()),
        Err(tokio::time::error::Elapsed { .. }) => Some(LATE.to_owned()),
    };
    let reply = loop {
        match answered(&from.ahead, coming.method) {
            Ok(Some((reply, length))) => {
                if reply.status == 101 && !coming.may_switch {
                    return ExchangeEnd::Upstream(
                        "it switched to a protocol that was not requested".to_owned(),
                    );
                }
                let head = from.ahead.get(..length).unwrap_or_default();
                if to.write_all(head).await.is_err() {
                    return gone();
                }
                from.used(length);
                // Interim responses (RFC 9110 section 15.2) are passed on, and are not the response.
                if reply.status >= 200 || reply.status == 101 {
                    break reply;
                }
            }
            Ok(None) => {
                let more = timeout(deadline, from.more()).await;
                if more.is_err() && !coming.is_sent.load(Ordering::Relaxed) {
                    // The service can't be late as long as it is still being asked.
                    continue;
                }
                if let Some(why) = end(more) {
                    let before = if from.ahead.is_empty() { "" } else { " within the head" };
                    return ExchangeEnd::Upstream(format!("{why}{before}"));
                }
                *coming.any = true;
                coming.waited.get_or_insert_with(|| coming.start.elapsed());
            }
            Err(_) if is_http2(&from.ahead) => return ExchangeEnd::Upstream(ONLY_HTTP2.to_owned()),
            Err(refusal) => return ExchangeEnd::Upstream(refusal.words),
        }
    };
    let framing = coming.framing;
    *framing = reply.framing.clone();
    *coming.answered = Some(reply);
    while !framing.is_done() {
        if from.ahead.is_empty() {
            match end(timeout(deadline, from.more()).await) {
                None => {}
                // That is how it ends.
                Some(_) if *framing == BodyFraming::UntilClose => break,
                Some(why) => {
                    let _ = to.flush().await;
                    return ExchangeEnd::Upstream(format!("{why} within the body"));
                }
            }
        }
        let (length, broken) = match framing.take(&from.ahead, coming.came) {
            Ok(length) => (length, None),
            // Whatever it is, the client gets it.
            Err(broken) => (from.ahead.len(), Some(broken)),
        };
        let entry = from.ahead.get(..length).unwrap_or_default();
        if to.write_all(entry).await.is_err() {
            return gone();
        }
        from.used(length);
        if let Some(broken) = broken {
            return ExchangeEnd::Upstream(format!("the body is malformed: {}", broken.0));
        }
        if from.ahead.is_empty() && to.flush().await.is_err() {
            return gone();
        }
    }
    if to.flush().await.is_err() {
        return gone();
    }
    ExchangeEnd::Whole
}
