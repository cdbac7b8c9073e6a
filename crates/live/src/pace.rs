//! When the next request is sent, and how long one is put off.

use std::sync::{Mutex, PoisonError};
use std::time::{Duration, SystemTime};

use tokio::time::Instant;

/// However often a service says that it is too much, requests come no slower than this.
const SLOWEST: Duration = Duration::from_secs(1);

/// What is waited where the service does not say how long.
const USUAL_WAIT: Duration = Duration::from_secs(1);

/// Where so many requests in a row were put off to the end, the others are no longer waited for.
const MOST_IN_VAIN: u32 = 3;

/// The pace of requests, which a service can slow down.
#[derive(Debug)]
pub(crate) struct Pace {
    state: Mutex<PaceState>,
}

#[derive(Debug)]
struct PaceState {
    next: Instant,
    /// What the caller asked for.
    usual: Duration,
    pause: Duration,
    in_vain: u32,
}

impl Pace {
    pub(crate) fn of(per_second: u32) -> Self {
        let pause = Duration::from_secs(1) / per_second.max(1);
        Self {
            state: Mutex::new(PaceState { next: Instant::now(), usual: pause, pause, in_vain: 0 }),
        }
    }

    fn with<T>(&self, change: impl FnOnce(&mut PaceState) -> T) -> T {
        change(&mut self.state.lock().unwrap_or_else(PoisonError::into_inner))
    }

    /// Waits for the turn of the next request.
    pub(crate) async fn turn(&self) {
        let at = self.with(|state| {
            let at = state.next.max(Instant::now());
            state.next = at + state.pause;
            at
        });
        tokio::time::sleep_until(at).await;
    }

    /// The service says that it is too much.
    pub(crate) fn slow_down(&self) {
        self.with(|state| state.pause = (state.pause * 2).min(SLOWEST).max(state.pause));
    }

    /// A request was put off for as long as it was waited for.
    pub(crate) fn in_vain(&self) {
        self.with(|state| state.in_vain += 1);
    }

    /// A request was responded to, so that the next may come sooner again.
    pub(crate) fn recover(&self) {
        self.with(|state| {
            state.in_vain = 0;
            state.pause = (state.pause / 2).max(state.usual);
        });
    }

    /// Is it worth waiting for a request that is put off?
    pub(crate) fn is_worth_waiting(&self) -> bool {
        self.with(|state| state.in_vain < MOST_IN_VAIN)
    }
}

/// How long a response says that its request is put off: 429 and 503 by `Retry-After`, in seconds or as a date (RFC 9110
/// section 10.2.3). None for other responses.
pub(crate) fn put_off(status: u16, headers: &[(String, String)]) -> Option<Duration> {
    if !matches!(status, 429 | 503) {
        return None;
    }
    let named = headers.iter().find(|(name, _)| name.eq_ignore_ascii_case("retry-after"));
    let value = named.map(|(_, value)| value.trim());
    let seconds = value.and_then(|value| value.parse().ok()).map(Duration::from_secs);
    let date = || {
        let at = httpdate::parse_http_date(value?).ok()?;
        Some(at.duration_since(SystemTime::now()).unwrap_or_default())
    };
    Some(seconds.or_else(date).unwrap_or(USUAL_WAIT))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_request_is_put_off_for_as_long_as_the_response_says() {
        let of = |status: u16, value: &str| {
            put_off(status, &[("Retry-After".to_owned(), value.to_owned())])
        };
        assert_eq!(of(429, "7"), Some(Duration::from_secs(7)));
        assert_eq!(of(503, "0"), Some(Duration::ZERO));
        assert_eq!(of(429, "soon"), Some(USUAL_WAIT));
        assert_eq!(of(503, "Sun, 06 Nov 1994 08:49:37 GMT"), Some(Duration::ZERO));
        assert_eq!(of(500, "7"), None);
        assert_eq!(put_off(429, &[]), Some(USUAL_WAIT));
    }
}
