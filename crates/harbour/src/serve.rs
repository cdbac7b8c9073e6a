//! Puts the service on a socket.

use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;

use axum::Router;
use axum::body::{Body, to_bytes};
use axum::extract::State as Shared;
use axum::http::{HeaderName, HeaderValue, Request as Asked, Response, StatusCode};
use futures_util::{StreamExt as _, stream};
use tokio::net::TcpListener;

use crate::{Edition, Fate, Harbour, HarbourRequest, Reply};

/// A request with more than this is refused by closing.
const LARGEST: usize = 1 << 20;

/// So long after a part of a response the connection breaks off.
const BREAKING: Duration = Duration::from_millis(30);

/// A reply that never comes is kept back for so long.
const NEVER: Duration = Duration::from_secs(3600);

/// Serves the harbour until `stop` is there.
///
/// # Errors
/// Where the socket fails.
pub async fn serve(
    listener: TcpListener,
    state: Edition,
    stop: impl Future<Output = ()> + Send + 'static,
) -> std::io::Result<()> {
    let harbour = Arc::new(Mutex::new(Harbour::new(state)));
    let router = Router::new().fallback(answer).with_state(harbour);
    tokio::select! {
        served = axum::serve(listener, router) => served,
        () = stop => Ok(()),
    }
}

async fn answer(
    Shared(harbour): Shared<Arc<Mutex<Harbour>>>,
    asked: Asked<Body>,
) -> Response<Body> {
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
    let reply = harbour.lock().unwrap_or_else(PoisonError::into_inner).answer(&request);
    if reply.fate == Fate::Never {
        tokio::time::sleep(NEVER).await;
    }
    sent(reply)
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
