//! `fclerk record`: stands between clients and a running service, and records what passes.

use std::collections::BTreeSet;
use std::net::{IpAddr, Ipv4Addr, SocketAddr};
use std::path::{Path, PathBuf};
use std::time::Duration;

use faithful_clerk_check::Check;
use faithful_clerk_check::classify::{Classification, Credentials, classify};
use faithful_clerk_check::clauses::check_exchange;
use faithful_clerk_contract::{EndpointRow, ErrorContract, Server};
use faithful_clerk_live::{ForwardedExchange, Relay, RelayCounts, Upstream};
use faithful_clerk_model::exchange::Exchange;
use faithful_clerk_model::finding::{Finding, Severity};
use faithful_clerk_model::secret::SecretRules;
use faithful_clerk_recording::{Format, ReadOptions, Source, Traversal, Unreadable, Visitor};
use faithful_clerk_report::text::{self, counted};
use faithful_clerk_scrub::Scrubber;
use tokio::net::TcpListener;
use tokio::process::Child;
use tokio::runtime::Runtime;
use tokio::sync::{mpsc, watch};
use tokio::task::JoinSet;

use super::scrub::key;
use crate::child::{self, RecordedAddress, asked_to_end, command, exit_code};
use crate::contracts::{LoadedContract, contract_or_description};
use crate::exit::{Completion, Failure};
use crate::flags::{OutputSettings, RecordArgs, ServiceUrl};
use crate::inputs::Input;
use crate::output::{print_error, print_result, print_unless_quiet};
use crate::prepared_check::PreparedCheck;
use crate::recording_file::RecordingFile;
use crate::recordings::{RecordingInputs, threads};

/// So many exchanges wait to be written, at the most; then clients wait.
const WAITING: usize = 256;

/// Where it listens, unless the call says otherwise.
const USUAL_ADDRESS: SocketAddr = SocketAddr::new(IpAddr::V4(Ipv4Addr::LOCALHOST), 7979);

/// Any free port, for a command that is told which.
const ANY_PORT: SocketAddr = SocketAddr::new(IpAddr::V4(Ipv4Addr::LOCALHOST), 0);

pub(crate) fn run(args: &RecordArgs, settings: &OutputSettings) -> Result<Completion, Failure> {
    let has_command = !args.command.is_empty();
    let usual = if has_command { ANY_PORT } else { USUAL_ADDRESS };
    let listen = args.listen.unwrap_or(usual);
    if !listen.ip().is_loopback() && !args.allow_remote_clients {
        return Err(Failure::Call(format!(
            "{listen} is not a loopback address: anyone who can reach it could use the service through the recorder. Allow that with --allow-remote-clients"
        )));
    }
    let upstreams = upstreams(&args.upstream)?;
    let expected = expected(args, &upstreams, settings)?;
    // What only a whole check can tell is told at the end, as is everything where a command has the terminal.
    let prepared = match &expected {
        Some(expected) if has_command || args.results.is_asked_for() => {
            let reads = [expected.path.as_path()];
            Some(PreparedCheck::of(&args.results, &expected.contract, &reads)?)
        }
        _ => None,
    };
    let contract = expected.as_ref().map(|expected| &expected.contract);
    let rules = contract.map_or_else(SecretRules::default, |contract| contract.secret.clone());
    let key = if args.scrub { Some(key(args.key_env.as_deref())?) } else { None };
    let runtime = Runtime::new().map_err(Failure::Output)?;
    let services = listening(upstreams, listen, &runtime)?;
    let journal = RecordingFile::new(&args.output)?;
    let started = match has_command {
        true => match started(args, &services, &runtime) {
            Ok(child) => Some(child),
            Err(failure) => {
                journal.discard();
                return Err(failure);
            }
        },
        false => {
            print_result(&greeting(&services, args))?;
            None
        }
    };
    let deadline = Duration::from_secs(args.timeout);
    let largest = usize::try_from(args.max_body << 20).unwrap_or(usize::MAX);
    let mut scribe = LiveReporter {
        journal,
        name: args.output.display().to_string(),
        scrubber: key.map(|key| Scrubber::new(&rules, key)),
        contract: contract.filter(|_| !has_command),
        credentials: Credentials::NotRecorded,
        breaches: 0,
        others: 0,
        settings,
    };
    let (passed, mut passing) = mpsc::channel(WAITING);
    let (ended, end) = watch::channel(false);
    let mut running = JoinSet::new();
    for ListeningService { upstream, listener, .. } in services {
        let relay = Relay::new(upstream, deadline, largest);
        let mut end = end.clone();
        let stop = async move {
            let _ = end.wait_for(|is_ended| *is_ended).await;
        };
        running.spawn_on(relay.run(listener, stop, passed.clone()), runtime.handle());
    }
    drop(passed);
    let waiting = runtime.spawn(async move {
        let status = match started {
            Some(child) => Some(child::ended(child).await),
            None => {
                asked_to_end().await;
                None
            }
        };
        let _ = ended.send(true);
        status
    });
    while let Some(passed) = passing.blocking_recv() {
        scribe.enter(&passed);
    }
    let mut counts = RelayCounts::default();
    for one in runtime.block_on(running.join_all()) {
        counts.add(one);
    }
    print_counts(&counts);
    let status = runtime.block_on(waiting).map_err(|error| Failure::Output(error.into()))?;
    let code = status.transpose().map_err(Failure::Output)?.map(exit_code);
    // A command that failed before it sent anything has said why.
    let is_of_nothing = scribe.journal.entries == 0 && code.is_some_and(|code| code != 0);
    let prepared = prepared.filter(|_| !is_of_nothing);
    let (recording, outcome) = scribe.close(prepared.is_some())?;
    let outcome = match (prepared, &expected) {
        (Some(prepared), Some(expected)) => {
            let found = checked(prepared, expected, &recording, settings)?;
            if outcome == Completion::NotAllRead { outcome } else { found }
        }
        _ => outcome,
    };
    Ok(match code {
        Some(code) if code != 0 => Completion::OfCommand(code),
        _ => outcome,
    })
}

/// A service, and where it is recorded.
struct ListeningService {
    name: Option<String>,
    upstream: Upstream,
    listener: TcpListener,
    address: SocketAddr,
}

/// The services of a call. Where there are several, each has a name of its own.
fn upstreams(asked: &[ServiceUrl]) -> Result<Vec<(Option<String>, Upstream)>, Failure> {
    let mut names = BTreeSet::new();
    let mut found = Vec::new();
    for ServiceUrl { name, url } in asked {
        if asked.len() > 1 {
            let Some(name) = name else {
                let why = format!("several services need names; write --upstream NAME={url}");
                return Err(Failure::Call(why));
            };
            if !names.insert(name) {
                return Err(Failure::Call(format!("two services are called {name}")));
            }
        }
        let upstream = Upstream::at(url)
            .map_err(|why| Failure::Call(format!("can't forward to {url}: {why}")))?;
        found.push((name.clone(), upstream));
    }
    Ok(found)
}

/// Listens for each service: for the first at the address that was asked for, for the others at any free port there.
fn listening(
    upstreams: Vec<(Option<String>, Upstream)>,
    listen: SocketAddr,
    runtime: &Runtime,
) -> Result<Vec<ListeningService>, Failure> {
    let mut at = listen;
    let mut services = Vec::new();
    for (name, upstream) in upstreams {
        let fail = |error: std::io::Error| {
            Failure::Call(format!(
                "can't listen on {at}: {error}; choose another address with --listen"
            ))
        };
        let listener = runtime.block_on(TcpListener::bind(at)).map_err(fail)?;
        let address = listener.local_addr().map_err(fail)?;
        services.push(ListeningService { name, upstream, listener, address });
        at.set_port(0);
    }
    Ok(services)
}

/// Starts the command.
fn started(
    args: &RecordArgs,
    services: &[ListeningService],
    runtime: &Runtime,
) -> Result<Child, Failure> {
    let address = |service: &ListeningService| RecordedAddress {
        name: service.name.clone(),
        url: format!("http://{}", service.address),
    };
    let addresses: Vec<RecordedAddress> = services.iter().map(address).collect();
    let mut command = command(&args.command, &args.env, &addresses)?;
    // What is started belongs to the runtime that waits for it.
    let _inside = runtime.enter();
    command.spawn().map_err(|error| {
        let program = args.command.first().map(|program| program.display().to_string());
        Failure::Call(format!("can't run {}: {error}", program.unwrap_or_default()))
    })
}

/// What the exchanges are checked against, if against anything.
fn expected(
    args: &RecordArgs,
    upstreams: &[(Option<String>, Upstream)],
    settings: &OutputSettings,
) -> Result<Option<LoadedContract>, Failure> {
    if args.contract.is_none() && args.openapi.is_none() {
        if args.results.is_asked_for() {
            let why = "a report or a gate needs something to check against; name it with --contract FILE or --openapi FILE";
            return Err(Failure::Call(why.to_owned()));
        }
        return Ok(None);
    }
    let (contract, openapi) = (args.contract.as_deref(), args.openapi.as_deref());
    let mut expected = contract_or_description(contract, openapi, settings.stderr)?;
    for (_, upstream) in upstreams {
        serving(&mut expected.contract, upstream.url());
    }
    Ok(Some(expected))
}

/// The check of the whole recording, once it is closed.
fn checked(
    prepared: PreparedCheck<'_>,
    expected: &LoadedContract,
    recording: &Path,
    settings: &OutputSettings,
) -> Result<Completion, Failure> {
    let mut check = Check::new(&expected.contract);
    check.threads(threads(None));
    let recordings = RecordingInputs::of_one(Input::of(recording));
    let of_contract = (&expected.contract, expected.name());
    let options = ReadOptions::default();
    prepared.run((of_contract.0, &of_contract.1), &check, recordings, options, settings)
}

fn print_counts(counts: &RelayCounts) {
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
}

fn greeting(services: &[ListeningService], args: &RecordArgs) -> String {
    let line = |service: &ListeningService| {
        let name = service.name.as_ref().map(|name| format!(" for {name}")).unwrap_or_default();
        let (address, upstream) = (service.address, service.upstream.url());
        format!("Listening on http://{address}{name}, forwarding to {upstream}\n")
    };
    let lines: String = services.iter().map(line).collect();
    format!("{lines}Recording to {}. Press Ctrl-C to stop.\n", args.output.display())
}

/// The contract, with the service it is now held to: wherever that is, it is asked as the contract's own.
fn serving(contract: &mut ErrorContract, url: &str) {
    if contract.request_path("GET", url).is_none()
        && let Ok(server) = Server::read(url)
    {
        print_error(&format!(
            "the contract's servers don't include {url}: it is checked here as if they did, but `fclerk check` will exclude the recording"
        ));
        contract.add_server(&server);
    }
}

fn verb(count: u64, one: &'static str, many: &'static str) -> &'static str {
    if count == 1 { one } else { many }
}

/// Writes down what passes, and says what it breaks.
struct LiveReporter<'r> {
    journal: RecordingFile,
    name: String,
    scrubber: Option<Scrubber<'r>>,
    contract: Option<&'r ErrorContract>,
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
        let Some(contract) = self.contract else { return };
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

    /// The recording, and how it went. Where a check follows, that says how much was recorded, and what it breaks.
    fn close(self, is_checked: bool) -> Result<(PathBuf, Completion), Failure> {
        let Self { journal, breaches, others, contract, .. } = self;
        let (entries, lost) = (journal.entries, journal.lost);
        let path = journal.close()?;
        if !is_checked {
            let are = verb(entries, "is", "are");
            print_error(&format!("{} {are} in {}", counted(entries, "exchange"), path.display()));
        }
        if lost > 0 {
            print_error(&format!("{lost} more exchanges were forwarded but could not be written"));
        }
        if contract.is_some() && !is_checked {
            print_error(&format!(
                "{}, and {} of lower severity; `fclerk check` also compares exchanges with one another",
                counted(breaches, "breach"),
                counted(others, "finding")
            ));
        }
        let outcome = match (lost, breaches) {
            (1.., _) => Completion::NotAllRead,
            (0, 1..) => Completion::Broken,
            (0, 0) => Completion::Kept,
        };
        Ok((path, outcome))
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
