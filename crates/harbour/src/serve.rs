//! Puts the service on a socket.

use std::num::NonZeroU32;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};

use axum::Router;
use axum::body::{Body, to_bytes};
use axum::extract::State as Shared;
use axum::http::{HeaderName, HeaderValue, Request as Asked, Response, StatusCode};
use futures_util::{StreamExt as _, stream};
use tokio::net::TcpListener;

use crate::problem::plain;
use crate::{Edition, Fate, Harbour, HarbourRequest, Reply};

/// A request with more than this is refused by closing.
const LARGEST: usize = 1 << 20;

/// So long after a part of a response the connection breaks off.
const BREAKING: Duration = Duration::from_millis(30);

/// A reply that never comes is kept back for so long.
const NEVER: Duration = Duration::from_secs(3600);

/// The time within which requests are counted.
const SECOND: Duration = Duration::from_secs(1);

/// The harbour, and how busy it is.
struct Office {
    harbour: Harbour,
    per_second: Option<NonZeroU32>,
    /// When the second began in which requests are counted, and how many they are.
    counted: (Instant, u32),
}

impl Office {
    /// Is this request one too many in this second?
    fn is_busy(&mut self) -> bool {
        let Some(most) = self.per_second else { return false };
        if self.counted.0.elapsed() >= SECOND {
            self.counted = (Instant::now(), 0);
        }
        self.counted.1 += 1;
        self.counted.1 > most.get()
    }
}

/// Serves the harbour until `stop` is there: so many requests in a second, if that is given, and a 429 to the others.
///
/// # Errors
/// Where the socket fails.
pub async fn serve(
    listener: TcpListener,
    state: Edition,
    per_second: Option<NonZeroU32>,
    stop: impl Future<Output = ()> + Send + 'static,
) -> std::io::Result<()> {
    let (harbour, counted) = (Harbour::new(state), (Instant::now(), 0));
    let harbour = Arc::new(Mutex::new(Office { harbour, per_second, counted }));
    let router = Router::new().fallback(answer).with_state(harbour);
    tokio::select! {
        served = axum::serve(listener, router) => served,
        () = stop => Ok(()),
    }
}

async fn answer(Shared(office): Shared<Arc<Mutex<Office>>>, asked: Asked<Body>) -> Response<Body> {
    let (parts, body) = asked.into_parts();
    let Ok(body) = to_bytes(body, LARGEST).await else {
        return status(413);
    };
    let header = |(name, value): (&HeaderName, &HeaderValue)| {
        (name.to_string(), String::from_utf8_lossy(value.as_bytes()).into_owned())
    };
    let request = HarbourRequest {
        method: parts.method.to_string(),
        path: parts.uri.path().to_owned(),
        query: parts.uri.query().unwrap_or_default().to_owned(),
        headers: parts.headers.iter().map(header).collect(),
        body: body.to_vec(),
    };
    let reply = {
        let mut office: MutexGuard<'_, Office> =
            office.lock().unwrap_or_else(PoisonError::into_inner);
        if office.is_busy() { too_many() } else { office.harbour.answer(&request) }
    };
    if reply.fate == Fate::Never {
        tokio::time::sleep(NEVER).await;
    }
    sent(reply)
}

/// The clerk has no hand free.
fn too_many() -> Reply {
    plain(429, "The office takes no more requests in this second.").header("Retry-After", "1")
}

fn sent(reply: Reply) -> Response<Body> {
    let Reply { status: code, headers, body, fate } = reply;
    let mut response = status(code);
    for (name, value) in headers {
        if let (Ok(name), Ok(value)) = (HeaderName::try_from(name), HeaderValue::try_from(value)) {
            response.headers_mut().append(name, value);
        }
    }
    let body = body.unwrap_or_default();
    *response.body_mut() = match fate {
        Fate::Cut(length) => {
            // What was announced is more than what comes before the connection breaks off.
            response.headers_mut().insert("content-length", HeaderValue::from(body.len()));
            let part = body.get(..length).unwrap_or_default().to_owned();
            // What was sent has to be on its way before the connection goes.
            let broken = async {
                tokio::time::sleep(BREAKING).await;
                Err(std::io::Error::other("cut"))
            };
            let part = stream::once(async { Ok(part) });
            Body::from_stream(part.chain(stream::once(broken)))
        }
        Fate::Whole | Fate::Never => Body::from(body),
    };
    response
}

fn status(code: u16) -> Response<Body> {
    let mut response = Response::new(Body::empty());
    *response.status_mut() =
        StatusCode::from_u16(code).unwrap_or(StatusCode::INTERNAL_SERVER_ERROR);
    response
}
