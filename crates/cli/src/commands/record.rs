//! `fclerk record`: stands between clients and a running service, and records what passes.

use std::net::SocketAddr;
use std::time::Duration;

use faithful_clerk_check::classify::{Classification, Credentials, classify};
use faithful_clerk_check::clauses::check_exchange;
use faithful_clerk_contract::{EndpointRow, ErrorContract, Server};
use faithful_clerk_live::{ForwardedExchange, Relay, Upstream};
use faithful_clerk_model::exchange::Exchange;
use faithful_clerk_model::finding::{Finding, Severity};
use faithful_clerk_model::secret::SecretRules;
use faithful_clerk_recording::{Format, ReadOptions, Source, Traversal, Unreadable, Visitor};
use faithful_clerk_report::text::{self, counted};
use faithful_clerk_scrub::Scrubber;
use tokio::net::TcpListener;
use tokio::runtime::Runtime;
use tokio::sync::mpsc;

use super::scrub::key;
use crate::contracts::contract;
use crate::exit::{Completion, Failure};
use crate::flags::{OutputSettings, RecordArgs};
use crate::output::{print_error, print_result, print_unless_quiet};
use crate::recording_file::RecordingFile;

/// So many exchanges wait to be written, at the most; then clients wait.
const WAITING: usize = 256;

pub(crate) fn run(args: &RecordArgs, settings: &OutputSettings) -> Result<Completion, Failure> {
    if !args.listen.ip().is_loopback() && !args.allow_remote_clients {
        return Err(Failure::Call(format!(
            "{} is not a loopback address: anyone who can reach it could use the service through the recorder. Allow that with --allow-remote-clients",
            args.listen
        )));
    }
    let upstream = Upstream::at(&args.upstream)
        .map_err(|why| Failure::Call(format!("can't forward to {}: {why}", args.upstream)))?;
    let expected = match &args.contract {
        Some(path) => Some(contract(Some(path), settings.stderr)?.contract),
        None => None,
    };
    let rules =
        expected.as_ref().map_or_else(SecretRules::default, |contract| contract.secret.clone());
    let expected = expected.map(|contract| serving(contract, upstream.url()));
    let key = if args.scrub { Some(key(args.key_env.as_deref())?) } else { None };
    let runtime = Runtime::new().map_err(Failure::Output)?;
    let fail = |error: std::io::Error| {
        Failure::Call(format!(
            "can't listen on {}: {error}; choose another address with --listen",
            args.listen
        ))
    };
    let listener = runtime.block_on(TcpListener::bind(args.listen)).map_err(fail)?;
    let address = listener.local_addr().map_err(fail)?;
    let journal = RecordingFile::new(&args.output)?;
    print_result(&greeting(address, args, &upstream))?;
    let deadline = Duration::from_secs(args.timeout);
    let largest = usize::try_from(args.max_body << 20).unwrap_or(usize::MAX);
    let relay = Relay::new(upstream, deadline, largest);
    let mut scribe = LiveReporter {
        journal,
        name: args.output.display().to_string(),
        scrubber: key.map(|key| Scrubber::new(&rules, key)),
        contract: expected,
        credentials: Credentials::NotRecorded,
        breaches: 0,
        others: 0,
        settings,
    };
    let (passed, mut passing) = mpsc::channel(WAITING);
    let running = runtime.spawn(relay.run(listener, stopped(), passed));
    while let Some(passed) = passing.blocking_recv() {
        scribe.enter(&passed);
    }
    let counts = runtime.block_on(running).map_err(|error| Failure::Output(error.into()))?;
    if counts.refused > 0 {
        let refused = counted(counts.refused, "request");
        print_error(&format!(
            "requests refused because they are not HTTP/1.1 or can't be forwarded: {refused}"
        ));
    }
    if counts.left > 0 {
        let left = counted(counts.left, "exchange");
        print_error(&format!("requests not recorded because the client disconnected: {left}"));
    }
    if counts.stopped > 0 {
        let (stopped, were) =
            (counted(counts.stopped, "exchange"), verb(counts.stopped, "was", "were"));
        print_error(&format!("{stopped} {were} in flight at the end and not recorded"));
    }
    scribe.close()
}

fn greeting(address: SocketAddr, args: &RecordArgs, upstream: &Upstream) -> String {
    format!(
        "Listening on http://{address}, forwarding to {}\nRecording to {}. Press Ctrl-C to stop.\n",
        upstream.url(),
        args.output.display()
    )
}

/// The contract, with the service it is now held to: wherever that is, it is asked as the contract's own.
fn serving(mut contract: ErrorContract, url: &str) -> ErrorContract {
    if contract.request_path("GET", url).is_none()
        && let Ok(server) = Server::read(url)
    {
        print_error(&format!(
            "the contract's servers don't include {url}: it is checked here as if they did, but `fclerk check` will exclude the recording"
        ));
        contract.add_server(&server);
    }
    contract
}

fn verb(count: u64, one: &'static str, many: &'static str) -> &'static str {
    if count == 1 { one } else { many }
}

/// Comes when somebody wants it to end: Ctrl-C, or a request to terminate.
async fn stopped() {
    // Where nobody can listen for it, the process ends by it anyway.
    let interrupted = async {
        if tokio::signal::ctrl_c().await.is_err() {
            std::future::pending::<()>().await;
        }
    };
    #[cfg(unix)]
    let terminated = async {
        use tokio::signal::unix::{SignalKind, signal};
        match signal(SignalKind::terminate()) {
            Ok(mut signal) => _ = signal.recv().await,
            Err(_) => std::future::pending().await,
        }
    };
    #[cfg(not(unix))]
    let terminated = std::future::pending::<()>();
    tokio::select! {
        () = interrupted => {}
        () = terminated => {}
    }
}

/// Writes down what passes, and says what it breaks.
struct LiveReporter<'r> {
    journal: RecordingFile,
    name: String,
    scrubber: Option<Scrubber<'r>>,
    contract: Option<ErrorContract>,
    credentials: Credentials,
    breaches: u64,
    others: u64,
    settings: &'r OutputSettings,
}

impl LiveReporter<'_> {
    fn enter(&mut self, passed: &ForwardedExchange) {
        let mut entry = passed.entry().to_string();
        // It is checked as it was: marks of secrets are no credentials.
        if self.contract.is_some() {
            self.judge(&entry);
        }
        if let Some(scrubber) = &mut self.scrubber {
            entry = scrubber.as_it_comes(&entry);
        }
        self.journal.enter(&entry);
    }

    fn judge(&mut self, entry: &str) {
        let Some(contract) = &self.contract else { return };
        let opening = ReadOptions { format: Some(Format::JsonLines), max_exchange: usize::MAX };
        let traversal = Traversal { options: opening, ..Traversal::default() };
        let mut judging = EntryCheck {
            contract,
            credentials: self.credentials,
            row: EndpointRow::UnknownRoute,
            found: Vec::new(),
        };
        traversal.visit_in_order(Source::of(entry.as_bytes()), 0, &mut judging);
        let EntryCheck { credentials, row, found, .. } = judging;
        self.credentials = credentials;
        let address = format!("{}#{}", self.name, self.journal.entries + 1);
        for finding in &found {
            match finding.severity {
                Severity::Breach => self.breaches += 1,
                Severity::Warning | Severity::Note => self.others += 1,
            }
            let line = text::passing(finding, &address, &row, contract, self.settings.stdout);
            // Who listens may have gone away; the recording goes on.
            let _ = print_unless_quiet(&line, self.settings);
        }
    }

    fn close(self) -> Result<Completion, Failure> {
        let Self { journal, breaches, others, contract, .. } = self;
        let (entries, lost) = (journal.entries, journal.lost);
        let path = journal.close()?;
        let are = verb(entries, "is", "are");
        print_error(&format!("{} {are} in {}", counted(entries, "exchange"), path.display()));
        if lost > 0 {
            print_error(&format!("{lost} more exchanges were forwarded but could not be written"));
        }
        if contract.is_some() {
            print_error(&format!(
                "{}, and {} of lower severity; `fclerk check` also compares exchanges with one another",
                counted(breaches, "breach"),
                counted(others, "finding")
            ));
        }
        Ok(match (lost, breaches) {
            (1.., _) => Completion::NotAllRead,
            (0, 1..) => Completion::Broken,
            (0, 0) => Completion::Kept,
        })
    }
}

/// Checks the one exchange of an entry.
struct EntryCheck<'c> {
    contract: &'c ErrorContract,
    credentials: Credentials,
    row: EndpointRow,
    found: Vec<Finding>,
}

impl Visitor for EntryCheck<'_> {
    fn exchange(&mut self, exchange: &Exchange<'_>) {
        if self.contract.credentials.iter().any(|name| exchange.request.headers.has(name)) {
            self.credentials = Credentials::Recorded;
        }
        if let Classification::Classified(classified) =
            classify(exchange, self.contract, self.credentials)
        {
            self.row = classified.row();
            self.found = check_exchange(&classified).findings;
        }
    }

    fn on_unreadable(&mut self, _: Unreadable) {}
}
