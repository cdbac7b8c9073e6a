//! Lets clients in, and tells what all their connections share.

use std::borrow::Cow;
use std::net::{IpAddr, Ipv4Addr, SocketAddr};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::time::Duration;

use jiff::Timestamp;
use tokio::net::TcpListener;
use tokio::sync::{Semaphore, mpsc, watch};
use tokio::task::JoinSet;

use super::body_buffer::{KeptBody, MemoryBudget};
use super::connection::serve;
use super::forwarded::ForwardedExchange;
use super::head::RequestHead;
use super::notice::{RelayEvent, RelayNotice};
use super::target::ForwardTarget;
use super::upstream::{Destination, Upstream, UpstreamError};

/// So many clients are let in at once; others wait at the door. Each takes two of the files that a process may
/// have open, which are 1,024 as a rule.
const MOST_CLIENTS: usize = 400;

/// What is kept of all bodies that are under way, at the most.
const ALL_BODIES: usize = 256 << 20;

/// What is under way when the recorder is stopped has so long to come to its end.
const GRACE: Duration = Duration::from_millis(300);

/// A pause after a client could not be let in.
const PAUSE: Duration = Duration::from_millis(50);

/// What passes exchanges on.
#[derive(Debug)]
pub struct Relay {
    destination: Destination,
    timeout: Duration,
    max_body: usize,
}

/// What happened beside what was passed on.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct RelayCounts {
    /// Requests that were none, or that nobody passes on.
    pub refused: u64,
    /// Exchanges that clients left before they were at their end, and which are not in the recording: it was not the
    /// service that ended them.
    pub left: u64,
    /// Exchanges that were under way when all was stopped, and are not in the recording.
    pub stopped: u64,
}

impl RelayCounts {
    /// Adds those of another relay.
    pub fn add(&mut self, other: Self) {
        let Self { refused, left, stopped } = other;
        self.refused += refused;
        self.left += left;
        self.stopped += stopped;
    }
}

/// What all connections share.
#[derive(Debug)]
pub(super) struct RelayState {
    destination: Destination,
    /// Where it listens.
    pub(super) own: SocketAddr,
    pub(super) timeout: Duration,
    max_body: usize,
    budget: Arc<MemoryBudget>,
    passed: mpsc::Sender<RelayEvent>,
    stop: watch::Receiver<bool>,
    is_crowded: AtomicBool,
    refused: AtomicU64,
    left: AtomicU64,
    stopped: AtomicU64,
}

impl Relay {
    /// What passes exchanges on: a response has so long to begin, and to go on; of a body, so many bytes
    /// are kept.
    #[must_use]
    pub fn new(destination: Destination, timeout: Duration, max_body: usize) -> Self {
        Self { destination, timeout, max_body }
    }

    /// Lets clients in until `stop` is there. What passed is sent to `passed`; while nobody takes it from
    /// there, clients wait.
    pub async fn run(
        self,
        listener: TcpListener,
        stop: impl Future<Output = ()>,
        passed: mpsc::Sender<RelayEvent>,
    ) -> RelayCounts {
        let nowhere = SocketAddr::new(IpAddr::V4(Ipv4Addr::UNSPECIFIED), 0);
        let (stopping, watched) = watch::channel(false);
        let shared = Arc::new(RelayState {
            destination: self.destination,
            own: listener.local_addr().unwrap_or(nowhere),
            timeout: self.timeout,
            max_body: self.max_body,
            budget: Arc::new(MemoryBudget::new(ALL_BODIES)),
            passed,
            stop: watched,
            is_crowded: AtomicBool::new(false),
            refused: AtomicU64::new(0),
            left: AtomicU64::new(0),
            stopped: AtomicU64::new(0),
        });
        let mut clients = JoinSet::new();
        tokio::select! {
            () = let_in(&listener, &shared, &mut clients) => {}
            () = stop => {}
        }
        drop(listener);
        let _ = stopping.send(true);
        while clients.join_next().await.is_some() {}
        let count = |count: &AtomicU64| count.load(Ordering::Relaxed);
        let (refused, left) = (count(&shared.refused), count(&shared.left));
        RelayCounts { refused, left, stopped: count(&shared.stopped) }
    }
}

/// Lets clients in as long as there is room; never ends.
async fn let_in(listener: &TcpListener, shared: &Arc<RelayState>, clients: &mut JoinSet<()>) {
    let room = Arc::new(Semaphore::new(MOST_CLIENTS));
    loop {
        while clients.try_join_next().is_some() {}
        shared.is_crowded.store(room.available_permits() == 0, Ordering::Relaxed);
        let Ok(location) = Arc::clone(&room).acquire_owned().await else { return };
        match listener.accept().await {
            Ok((stream, _)) => {
                let shared = Arc::clone(shared);
                clients.spawn(async move {
                    serve(stream, &shared).await;
                    drop(location);
                });
            }
            // The system has no more files or memory for a moment, or the client is gone again.
            Err(_) => tokio::time::sleep(PAUSE).await,
        }
    }
}

impl RelayState {
    pub(super) fn kept(&self) -> KeptBody {
        KeptBody::new(self.max_body, Arc::clone(&self.budget))
    }

    /// An exchange that did not even reach the service.
    pub(super) fn unanswered(&self, asked: RequestHead, why: &str) -> ForwardedExchange {
        let mut sent = self.kept();
        if asked.framing != super::framing::BodyFraming::NONE {
            sent.drop_bytes();
        }
        ForwardedExchange {
            at: Timestamp::now(),
            request: asked,
            sent,
            response: None,
            came: self.kept(),
            waited: Duration::ZERO,
            whole: Duration::ZERO,
            broken: Some(why.to_owned()),
            trailers: Default::default(),
        }
    }

    pub(super) async fn enter(&self, passed: ForwardedExchange) {
        // Who takes them only ends when all is over.
        let _ = self.passed.send(RelayEvent::Passed(Box::new(passed))).await;
    }

    pub(super) async fn tell(&self, notice: RelayNotice) {
        let _ = self.passed.send(RelayEvent::Notice(notice)).await;
    }

    pub(super) fn goal(&self) -> ForwardTarget<'_> {
        match &self.destination {
            Destination::Service(upstream) => upstream.goal(self.own.ip().is_loopback()),
            Destination::Requested => ForwardTarget::Requested,
        }
    }

    /// The service that a request goes to.
    pub(super) fn upstream(&self, asked: &RequestHead) -> Result<Cow<'_, Upstream>, UpstreamError> {
        match (&self.destination, &asked.to.origin) {
            (Destination::Service(upstream), _) => Ok(Cow::Borrowed(upstream)),
            (Destination::Requested, origin) => {
                Upstream::at(origin.as_deref().unwrap_or_default()).map(Cow::Owned)
            }
        }
    }

    pub(super) fn is_crowded(&self) -> bool {
        self.is_crowded.load(Ordering::Relaxed)
    }

    pub(super) fn refused(&self) {
        self.refused.fetch_add(1, Ordering::Relaxed);
    }

    pub(super) fn left(&self) {
        self.left.fetch_add(1, Ordering::Relaxed);
    }

    pub(super) fn stopped_within(&self) {
        self.stopped.fetch_add(1, Ordering::Relaxed);
    }

    /// Comes when nothing new is to be begun.
    pub(super) async fn stopping(&self) {
        let mut stop = self.stop.clone();
        let _ = stop.wait_for(|stop| *stop).await;
    }

    /// Comes when what is under way is given up.
    pub(super) async fn stopped(&self) {
        self.stopping().await;
        tokio::time::sleep(GRACE).await;
    }
}
