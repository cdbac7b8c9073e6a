//! Sends planned requests.

use std::collections::BTreeMap;
use std::error::Error as _;
use std::sync::{Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};

use faithful_clerk_insight::probe::{PlannedRequest, ProbeCredentials, STATUS};
use faithful_clerk_model::situation::Situation;
use futures_util::{StreamExt as _, stream};
use jiff::Timestamp;
use reqwest::Method;
use reqwest::header::{HeaderMap, HeaderValue};
use reqwest::redirect::Policy;
use serde_json::Value;

use crate::entry::{EntryBody, ReceivedResponse, SentRequest, entry};
use crate::own_secrets::OwnSecrets;
use crate::pace::{Pace, put_off};

/// Of a response, so much is kept.
const LARGEST: usize = 16 << 20;

/// What takes the place of credentials that are wrong on purpose.
const WRONG: &str = "Bearer no-such-token";

/// What is spoken.
const VERSION: &str = "HTTP/1.1";

/// How requests are sent.
#[derive(Debug, Clone)]
pub struct SendSettings {
    /// The base URL, without a slash at its end.
    pub base: String,
    /// The headers with the right credentials.
    pub credentials: Vec<(String, String)>,
    /// So long a response is waited for.
    pub timeout: Duration,
    /// So many requests are under way at once, at the most.
    pub parallel: usize,
    /// So many are sent in a second, at the most.
    pub per_second: u32,
    /// What idempotency keys begin with in this run.
    pub run: String,
    /// After so many failures of the service in a row, nothing more is sent.
    pub most_failures: usize,
}

/// How it ended.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum SendEnd {
    /// All was sent.
    Done,
    /// The service failed, or could not be reached, too often in a row.
    Failing,
    /// The caller wanted no more.
    Stopped,
}

/// What came of sending.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SendResult {
    /// How it ended.
    pub ended: SendEnd,
    /// What was kept of responses for later requests, by name.
    pub kept: KeptValues,
    /// The names of requests that could not be sent, as no response gave what they need.
    pub left_out: Vec<String>,
    /// The names of requests that the service put off for as long as they were waited for (429, 503), so that nothing was
    /// tested by them.
    pub put_off: Vec<String>,
    /// The addresses of what was created and not deleted, as far as the service said them.
    pub created: Vec<String>,
}

/// One exchange.
struct SentExchange {
    entry: Value,
    /// Did the service fail?
    has_failed: bool,
    /// How long the service put it off, if it did.
    put_off: Option<Duration>,
}

/// What sends.
#[derive(Debug)]
pub struct ProbeClient {
    client: reqwest::Client,
    settings: SendSettings,
    own: OwnSecrets,
}

impl ProbeClient {
    /// Makes one.
    ///
    /// # Errors
    /// Where there is no TLS to be had.
    pub fn new(settings: SendSettings) -> Result<Self, String> {
        // Another part of the program may have chosen before.
        let _ = rustls::crypto::ring::default_provider().install_default();
        let client = reqwest::Client::builder()
            .redirect(Policy::none())
            .timeout(settings.timeout)
            .user_agent(concat!("faithful-clerk/", env!("CARGO_PKG_VERSION")))
            .no_proxy()
            .build()
            .map_err(|error| reason(&error))?;
        let own = OwnSecrets::of(settings.credentials.iter().map(|(_, value)| value.as_str()));
        Ok(Self { client, settings, own })
    }

    /// Sends the requests in their order, and gives each exchange to `take`, in that order, as an entry of HAR. Those of
    /// which something is kept, and those that use it, are sent one after the other. `stop` ends it at once.
    ///
    /// `kept` is what earlier responses gave.
    pub async fn send(
        &self,
        requests: &[PlannedRequest],
        kept: KeptValues,
        stop: impl Future<Output = ()>,
        mut take: impl FnMut(Value),
    ) -> SendResult {
        let is_kept =
            |planned: &PlannedRequest| !planned.saves.is_empty() || !planned.uses.is_empty();
        let kept = &Mutex::new(kept);
        let pace = &Pace::of(self.settings.per_second);
        let sent = |planned| async move {
            let whole = PlannedRequest::with(planned, &lock(kept));
            let Some(whole) = whole else { return (planned, None) };
            let sent = self.patiently(&whole, pace).await;
            keep(planned, &sent.entry, &mut lock(kept));
            let undone = self.undone(planned, &sent, pace).await;
            (planned, Some((sent, undone)))
        };
        let groups = requests.chunk_by(|one, next| is_kept(one) == is_kept(next));
        let groups = groups.map(|group| {
            let is_chain = group.first().is_some_and(is_kept);
            let parallel = if is_chain { 1 } else { self.settings.parallel.max(1) };
            stream::iter(group).map(sent).buffered(parallel)
        });
        let mut responses = std::pin::pin!(stream::iter(groups).flatten());
        let (mut left_out, mut put_off, mut created) = (Vec::new(), Vec::new(), Vec::new());
        let mut stop = std::pin::pin!(stop);
        let mut failures = 0;
        let ended = loop {
            let next = tokio::select! {
                biased;
                () = &mut stop => break SendEnd::Stopped,
                next = responses.next() => next,
            };
            let sent = match next {
                None => break SendEnd::Done,
                Some((planned, None)) => {
                    left_out.push(planned.name.clone());
                    continue;
                }
                Some((planned, Some((sent, undone)))) => {
                    if sent.put_off.is_some() {
                        put_off.push(planned.name.clone());
                    }
                    note_created(&sent.entry, &mut created);
                    take(sent.entry.clone());
                    if let Some(undone) = undone {
                        note_created(&undone.entry, &mut created);
                        take(undone.entry);
                    }
                    sent
                }
            };
            failures = if sent.has_failed { failures + 1 } else { 0 };
            if failures >= self.settings.most_failures {
                break SendEnd::Failing;
            }
        };
        let kept = lock(kept).clone();
        SendResult { ended, kept, left_out, put_off, created }
    }

    /// Deletes what a request created that was to create nothing.
    async fn undone(
        &self,
        planned: &PlannedRequest,
        sent: &SentExchange,
        pace: &Pace,
    ) -> Option<SentExchange> {
        let undo = planned.undo.as_ref().filter(|_| sent.entry["response"]["status"] == 201)?;
        let request = undo.request.with(&kept_of(&undo.saves, &sent.entry))?;
        Some(self.patiently(&request, pace).await)
    }

    /// One exchange in its turn. One that the service puts off is sent again when it says, within the time that a response
    /// is waited for.
    async fn patiently(&self, planned: &PlannedRequest, pace: &Pace) -> SentExchange {
        let until = Instant::now() + self.settings.timeout;
        // What is asked for is no hindrance.
        let is_meant = matches!(
            planned.situation,
            Some(Situation::TooManyRequests | Situation::ServiceUnavailable)
        );
        loop {
            pace.turn().await;
            let mut sent = self.one(planned).await;
            if is_meant {
                sent.put_off = None;
            }
            let Some(wait) = sent.put_off else {
                pace.recover();
                return sent;
            };
            if !pace.is_worth_waiting() || Instant::now() + wait > until {
                pace.in_vain();
                sent.has_failed = true;
                return sent;
            }
            pace.slow_down();
            tokio::time::sleep(wait).await;
        }
    }

    async fn one(&self, planned: &PlannedRequest) -> SentExchange {
        let url = format!("{}{}", self.settings.base, planned.target);
        let mut recorded = planned.headers_in_run(&self.settings.run);
        if !recorded.iter().any(|(name, _)| name.eq_ignore_ascii_case("accept")) {
            recorded.push((
                "Accept".to_owned(),
                "application/problem+json, application/json".to_owned(),
            ));
        }
        let method = Method::from_bytes(planned.method.as_bytes()).unwrap_or(Method::GET);
        let mut request = self.client.request(method, &url);
        for (name, value) in &recorded {
            request = request.header(name, value);
        }
        for (name, value) in &self.settings.credentials {
            let (value, shown) = match planned.credentials {
                ProbeCredentials::Valid => (value.as_str(), masked(value)),
                ProbeCredentials::Invalid => (WRONG, WRONG.to_owned()),
                ProbeCredentials::None => continue,
            };
            request = request.header(name, value);
            recorded.push((name.clone(), shown));
        }
        if let Some(body) = &planned.body {
            request = request.body(body.clone());
        }
        let (at, start) = (Timestamp::now(), Instant::now());
        let (mut status, mut headers, mut body) = (0, Vec::new(), Vec::new());
        let mut waited = Duration::ZERO;
        let broken = match request.send().await {
            Err(error) => Some(reason(&error)),
            Ok(mut response) => {
                waited = start.elapsed();
                status = response.status().as_u16();
                headers = texts(response.headers());
                loop {
                    match response.chunk().await {
                        Ok(Some(chunk)) if body.len() + chunk.len() > LARGEST => {
                            break Some("the response is longer than what is recorded".to_owned());
                        }
                        Ok(Some(chunk)) => body.extend_from_slice(&chunk),
                        Ok(None) => break None,
                        Err(error) => break Some(reason(&error)),
                    }
                }
            }
        };
        // What a service says of the credentials that it got is not for the recording.
        self.own.hide(&mut body);
        headers.iter_mut().for_each(|(_, value)| self.own.hide_in(value));
        let sent = SentRequest {
            comment: Some(planned.name.clone()),
            intention: Some(planned.intention()),
            at,
            method: &planned.method,
            url: &url,
            version: VERSION,
            headers: &recorded,
            body: planned
                .body
                .as_ref()
                .map_or(EntryBody::None, |body| EntryBody::Here(body.as_bytes())),
            trailers: &[],
        };
        let came = ReceivedResponse {
            status,
            phrase: "",
            version: if status == 0 { "" } else { VERSION },
            headers: &headers,
            body: if body.is_empty() { EntryBody::None } else { EntryBody::Here(&body) },
            trailers: &[],
            waited,
            whole: start.elapsed(),
            broken: broken.as_deref(),
        };
        SentExchange {
            entry: entry(&sent, &came),
            has_failed: status == 0 || status >= 500,
            put_off: put_off(status, &headers),
        }
    }
}

/// What was kept of responses, by name.
pub type KeptValues = BTreeMap<String, String>;

fn lock(kept: &Mutex<KeptValues>) -> MutexGuard<'_, KeptValues> {
    kept.lock().unwrap_or_else(PoisonError::into_inner)
}

/// Keeps what a request wants to have kept of its response, as far as its entry has it.
pub fn keep(planned: &PlannedRequest, entry: &Value, kept: &mut KeptValues) {
    let status = entry["response"]["status"].as_u64().unwrap_or_default();
    // The error that came in its place says nothing of what was to be kept.
    if planned.situation.is_none() && status >= 400 {
        return;
    }
    kept.extend(kept_of(&planned.saves, entry));
}

/// The values that a response gives: names, each with where it stands.
fn kept_of(saves: &[(String, String)], entry: &Value) -> KeptValues {
    let text = entry["response"]["content"]["text"].as_str().unwrap_or_default();
    let body = serde_json::from_str::<Value>(text).unwrap_or_default();
    let mut found = KeptValues::new();
    for (name, place) in saves {
        let value = match place.starts_with('/') || place.is_empty() {
            true => body.pointer(place).cloned(),
            // Its address says in the last step what a thing is called.
            false if place == STATUS => Some(entry["response"]["status"].clone()),
            false if place == "Location" => last_step(entry, place).map(Value::from),
            // A weak tag never matches a condition (RFC 9110 section 13.1.1).
            false => header_value(entry, place)
                .filter(|tag| place != "ETag" || !tag.starts_with("W/"))
                .map(Value::from),
        };
        let value = match value {
            Some(Value::String(text)) => text,
            Some(value @ (Value::Number(_) | Value::Bool(_))) => value.to_string(),
            _ => continue,
        };
        // Of several places, the first that has something.
        found.entry(name.clone()).or_insert(value);
    }
    found
}

/// The run that an entry is of, where it has an idempotency key of a probe's.
#[must_use]
pub fn run_of(entry: &Value) -> Option<String> {
    let headers = entry["request"]["headers"].as_array()?;
    let name = |header: &Value| header["name"].as_str().unwrap_or_default().to_ascii_lowercase();
    let key = headers.iter().find(|header| name(header) == "idempotency-key")?["value"].as_str()?;
    let (run, number) = key.rsplit_once('-')?;
    let is_ours = number.len() == 12 && number.bytes().all(|byte| byte.is_ascii_digit());
    (is_ours && run.len() == 23).then(|| run.to_owned())
}

/// Notes what an exchange created, or takes away what it deleted.
fn note_created(entry: &Value, created: &mut Vec<String>) {
    let status = entry["response"]["status"].as_u64().unwrap_or_default();
    let url = entry["request"]["url"].as_str().unwrap_or_default();
    if entry["request"]["method"] == "DELETE" && (200..300).contains(&status) {
        created.retain(|address| address != url);
    }
    if status == 201
        && let Some(location) = header_value(entry, "Location")
    {
        let whole = url::Url::parse(url).and_then(|base| base.join(location));
        created.push(whole.map_or_else(|_| location.to_owned(), String::from));
    }
}

fn header_value<'e>(entry: &'e Value, name: &str) -> Option<&'e str> {
    let headers = entry["response"]["headers"].as_array()?;
    let is_it = |header: &&Value| {
        header["name"].as_str().is_some_and(|known| known.eq_ignore_ascii_case(name))
    };
    headers.iter().find(is_it)?["value"].as_str()
}

/// The last step of the address in a header field of a response.
fn last_step(entry: &Value, name: &str) -> Option<String> {
    let value = header_value(entry, name)?;
    let path = value.split(['?', '#']).next()?.trim_end_matches('/');
    let last = path.rsplit('/').next().filter(|last| !last.is_empty())?;
    faithful_clerk_model::percent::decode(last)
}

fn texts(headers: &HeaderMap) -> Vec<(String, String)> {
    let text = |value: &HeaderValue| String::from_utf8_lossy(value.as_bytes()).into_owned();
    headers.iter().map(|(name, value)| (name.to_string(), text(value))).collect()
}

/// The scheme of credentials, and nothing else of them.
fn masked(value: &str) -> String {
    match value.split_once(' ') {
        Some((scheme, _)) => format!("{scheme} ***"),
        None => "***".to_owned(),
    }
}

/// Why something went wrong, down to its root, without the URL, which stands beside it.
fn reason(error: &reqwest::Error) -> String {
    if error.is_timeout() {
        return "no response before the timeout".to_owned();
    }
    let mut words =
        if error.is_connect() { "no connection".to_owned() } else { "truncated".to_owned() };
    let mut source = error.source();
    while let Some(inner) = source {
        words = format!("{words}: {inner}");
        source = inner.source();
    }
    words
}
