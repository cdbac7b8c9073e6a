//! `fclerk record`: stands between clients and a running service, and records what passes.

use std::net::{IpAddr, Ipv4Addr, SocketAddr};
use std::path::Path;
use std::time::Duration;

use faithful_clerk_check::Check;
use faithful_clerk_contract::{ErrorContract, Server};
use faithful_clerk_live::{Destination, Relay, RelayCounts};
use faithful_clerk_model::secret::SecretRules;
use faithful_clerk_recording::ReadOptions;
use faithful_clerk_scrub::Scrubber;
use tokio::runtime::Runtime;
use tokio::sync::{mpsc, watch};
use tokio::task::JoinSet;
use tokio::time::timeout;

use super::scrub::key;
use crate::child::{self, EndSignals, exit_code};
use crate::contracts::{LoadedContract, contract_or_description};
use crate::exit::{Completion, Failure};
use crate::flags::{OutputSettings, RecordArgs};
use crate::inputs::Input;
use crate::output::{print_error, print_result};
use crate::prepared_check::PreparedCheck;
use crate::recorder::{
    Deadline, ListeningService, LiveReporter, LiveScreen, Notices, greeting, listening, services,
    started,
};
use crate::recording_file::RecordingFile;
use crate::recordings::{RecordingInputs, threads};
use crate::temporary::signals_are_handled;

/// So many exchanges wait to be written, at the most; then clients wait.
const WAITING: usize = 256;

/// Where it listens, unless the call says otherwise.
const USUAL_ADDRESS: SocketAddr = SocketAddr::new(IpAddr::V4(Ipv4Addr::LOCALHOST), 7979);

/// Any free port, for a command that is told which.
const ANY_PORT: SocketAddr = SocketAddr::new(IpAddr::V4(Ipv4Addr::LOCALHOST), 0);

pub(crate) fn run(args: &RecordArgs, settings: &OutputSettings) -> Result<Completion, Failure> {
    signals_are_handled();
    let has_command = !args.command.is_empty();
    let usual = if has_command { ANY_PORT } else { USUAL_ADDRESS };
    let listen = args.listen.unwrap_or(usual);
    if !listen.ip().is_loopback() && !args.allow_remote_clients {
        return Err(Failure::Call(format!(
            "{listen} is not a loopback address: anyone who can reach it could use the service through the recorder. Allow that with --allow-remote-clients"
        )));
    }
    let services = services(args)?;
    let expected = expected(args, &services, settings)?;
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
    // Whoever reads that it listens may end it at once.
    let mut asked = runtime.block_on(async { EndSignals::listen() });
    let services = listening(services, listen, &runtime)?;
    let journal = RecordingFile::new(&args.output)?;
    let lines = journal.lines().display().to_string();
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
    let recording = (journal, args.output.display().to_string());
    let scrubber = key.map(|key| Scrubber::new(&rules, key).personal(args.personal));
    let watched = contract.filter(|_| !has_command);
    let screen = watched.and_then(|contract| LiveScreen::open(contract, settings));
    let notices = Notices::new(has_command || screen.is_some());
    let mut scribe = LiveReporter::new(recording, scrubber, watched, notices, settings);
    if let Some(screen) = screen {
        scribe.show_on(screen);
    }
    let (passed, mut passing) = mpsc::channel(WAITING);
    let (ended, end) = watch::channel(false);
    let mut running = JoinSet::new();
    for ListeningService { destination, listener, .. } in services {
        let relay = Relay::new(destination, deadline, largest);
        let mut end = end.clone();
        let stop = async move {
            let _ = end.wait_for(|is_ended| *is_ended).await;
        };
        running.spawn_on(relay.run(listener, stop, passed.clone()), runtime.handle());
    }
    drop(passed);
    let written = Deadline::default();
    let deadline = written.clone();
    let waiting = runtime.spawn(async move {
        let status = match started {
            Some(child) => Some(child::ended(child, asked).await),
            None => {
                asked.come().await;
                deadline.begin(lines);
                None
            }
        };
        let _ = ended.send(true);
        status
    });
    loop {
        let next = match scribe.due() {
            None => passing.blocking_recv(),
            Some(wait) => match runtime.block_on(async { timeout(wait, passing.recv()).await }) {
                Ok(next) => next,
                Err(_) => {
                    scribe.draw();
                    continue;
                }
            },
        };
        let Some(event) = next else { break };
        scribe.event(event);
    }
    let mut counts = RelayCounts::default();
    for one in runtime.block_on(running.join_all()) {
        counts.add(one);
    }
    scribe.end(&counts)?;
    let status = runtime.block_on(waiting).map_err(|error| Failure::Output(error.into()))?;
    let code = status.transpose().map_err(Failure::Output)?.map(exit_code);
    // A command that failed before it sent anything has said why.
    let is_of_nothing = scribe.entries() == 0 && code.is_some_and(|code| code != 0);
    let prepared = prepared.filter(|_| !is_of_nothing);
    let (recording, outcome) = scribe.close(prepared.is_some())?;
    written.is_met();
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

/// What the exchanges are checked against, if against anything.
fn expected(
    args: &RecordArgs,
    services: &[(Option<String>, Destination)],
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
    for (_, destination) in services {
        if let Destination::Service(upstream) = destination {
            serving(&mut expected.contract, upstream.url());
        }
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
    prepared.run((of_contract.0, &of_contract.1), &check, recordings, &options, settings)
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
