//! `fclerk probe`: sends the requests that must be refused, records what comes, and checks it.

use std::collections::{BTreeSet, HashMap};
use std::time::Duration;

use faithful_clerk_check::Check;
use faithful_clerk_contract::{ErrorContract, Server, nearest};
use faithful_clerk_insight::probe::{
    NotPlanned, PlanBounds, PlannedRequest, ProbeCredentials, ProbePlan,
};
use faithful_clerk_live::{
    BaseUrl, KeptValues, ProbeClient, SendEnd, SendResult, SendSettings, keep, run_of,
};
use faithful_clerk_model::intention::{self, Intention};
use faithful_clerk_recording::ReadOptions;
use faithful_clerk_report::escape::terminal;
use tokio::runtime::Runtime;

use crate::contracts::contract_or_description;
use crate::exit::{Completion, Failure};
use crate::flags::{NamedValue, OutputSettings, ProbeArgs};
use crate::inputs::Input;
use crate::output::{print_error, print_result};
use crate::prepared_check::PreparedCheck;
use crate::recording_file::RecordingFile;
use crate::recordings::{RecordingInputs, threads};
use crate::temporary::signals_are_handled;

/// A service that is not there is told at once, and not as findings.
fn somebody_listens(base: &str) -> Result<(), Failure> {
    const LONGEST: Duration = Duration::from_secs(5);
    let no = |why: String| Failure::Call(format!("nothing was sent to {base}: {why}"));
    let url = url::Url::parse(base).map_err(|error| no(error.to_string()))?;
    let addresses = url.socket_addrs(|| None).map_err(|error| no(error.to_string()))?;
    let mut last = None;
    for address in addresses {
        match std::net::TcpStream::connect_timeout(&address, LONGEST) {
            Ok(_) => return Ok(()),
            Err(error) => last = Some(error),
        }
    }
    let why = last.map_or_else(|| "it has no address".to_owned(), |error| error.to_string());
    Err(no(format!("{why}; is the service running?")))
}

/// Refuses a text of `--only` or `--skip` that no request's name has, and a name of `--set` that nothing has.
fn known_names(
    args: &ProbeArgs,
    contract: &ErrorContract,
    plan: &ProbePlan,
) -> Result<(), Failure> {
    let names = || plan.requests.iter().map(|planned| planned.name.as_str());
    for (option, texts) in [("--only", &args.only), ("--skip", &args.skip)] {
        let is_unknown = |text: &&String| !names().any(|name| name.contains(text.as_str()));
        if let Some(text) = texts.iter().find(is_unknown) {
            let words = names().flat_map(|name| name.split([' ', ':', '`', '/', '{', '}']));
            let hint = match nearest(text, words.filter(|word| !word.is_empty())) {
                Some(near) => format!("did you mean `{near}`?"),
                None => "`--dry-run` lists the names".to_owned(),
            };
            let message = format!("no planned request has {option} `{text}` in its name; {hint}");
            return Err(Failure::Call(message));
        }
    }
    let parameters: BTreeSet<&str> = contract
        .endpoints
        .iter()
        .flat_map(|endpoint| endpoint.path.split(['{', '}']).skip(1).step_by(2))
        .collect();
    let is_unknown =
        |of: &&NamedValue| !of.name.starts_with('/') && !parameters.contains(of.name.as_str());
    if let Some(NamedValue { name, .. }) = args.set.iter().find(is_unknown) {
        let hint = match nearest(name, parameters.iter().copied()) {
            Some(near) => format!("did you mean `{near}`?"),
            None => "a member of a body is named by its JSON Pointer, as in /berth_id".to_owned(),
        };
        return Err(Failure::Call(format!("no path has the parameter `{name}`; {hint}")));
    }
    Ok(())
}

pub(crate) fn run(args: &ProbeArgs, settings: &OutputSettings) -> Result<Completion, Failure> {
    signals_are_handled();
    let mut expected = contract_or_description(
        args.contract.as_deref(),
        args.openapi.as_deref(),
        settings.stderr,
    )?;
    let values = args.set.iter().map(|of| (of.name.clone(), of.value.clone())).collect();
    let bounds =
        PlanBounds { depth: usize::try_from(args.depth).unwrap_or(1), most: args.most.get() };
    let mut plan = ProbePlan::of(&expected.contract, &values, bounds);
    let holds = |planned: &PlannedRequest, texts: &[String]| {
        texts.iter().any(|text| planned.name.contains(text))
    };
    known_names(args, &expected.contract, &plan)?;
    plan.requests.retain(|planned| args.only.is_empty() || holds(planned, &args.only));
    plan.requests.retain(|planned| !holds(planned, &args.skip));
    if args.dry_run {
        print_result(&told(&plan))?;
        return Ok(Completion::Kept);
    }
    let Some(at) = &args.base_url else { return Err(Failure::Said) };
    let base = BaseUrl::of(at, &expected.contract, &args.allow_host)
        .map_err(|why| Failure::Call(format!("nothing was sent to {at}: {why}")))?;
    let credentials = credentials(&expected.contract)?;
    somebody_listens(&base.url)?;
    leave_out(&mut plan, args, !credentials.is_empty(), &expected.contract);
    if plan.requests.is_empty() {
        return Err(Failure::Call(
            "nothing to send; `--dry-run` shows what could be sent".to_owned(),
        ));
    }
    let mut sending_settings = SendSettings {
        base: base.url.clone(),
        run: new_run()?,
        credentials,
        timeout: Duration::from_secs(args.timeout),
        parallel: usize::try_from(args.parallel).unwrap_or(1),
        per_second: args.rate.get(),
        most_failures: args.stop_after.get(),
    };
    let prepared =
        PreparedCheck::of(&args.results, &expected.contract, &[expected.path.as_path()])?;
    let mut kept = KeptValues::default();
    let mut journal = match args.resume {
        true => resumed(args, &mut plan, &mut kept, &mut sending_settings.run)?,
        false => RecordingFile::new(&args.output)?,
    };
    let sending = sent(sending_settings, &plan, kept, |entry| journal.enter(entry))?;
    let (count, lost) = (journal.entries, journal.lost);
    let recording = journal.close()?;
    print_left_out(&sending.left_out);
    print_created(&sending.created);
    print_put_off(&sending.put_off, plan.requests.len());
    expected.contract.bind(&sending.kept);
    if !base.is_declared
        && let Ok(server) = Server::read(&base.url)
    {
        // Wherever it is, it was asked as the service of the contract.
        expected.contract.add_server(&server);
    }
    let mut check = Check::new(&expected.contract);
    check.threads(threads(None));
    let recordings = RecordingInputs::of_one(Input::of(&recording));
    let outcome = prepared.run(
        (&expected.contract, &expected.name()),
        &check,
        recordings,
        &ReadOptions::default(),
        settings,
    )?;
    let of = plan.requests.len();
    Ok(match sending.ended {
        SendEnd::Done if lost > 0 => Completion::NotAllRead,
        // What was not tested is not met.
        SendEnd::Done if outcome == Completion::Kept && !sending.put_off.is_empty() => {
            Completion::NotAllRead
        }
        SendEnd::Done => outcome,
        SendEnd::Failing => {
            print_error(&format!(
                "stopped after {} failures in a row, with {count} of {of} sent",
                args.stop_after
            ));
            Completion::NotAllRead
        }
        SendEnd::Stopped => {
            print_error(&format!("stopped, with {count} of {of} sent"));
            Completion::NotAllRead
        }
    })
}

/// The recording of a probe that was stopped. What is in it is taken out of the plan, and what it gave is kept.
fn resumed(
    args: &ProbeArgs,
    plan: &mut ProbePlan,
    kept: &mut KeptValues,
    run: &mut String,
) -> Result<RecordingFile, Failure> {
    let before = plan.requests.len();
    let journal = RecordingFile::resume(&args.output, |line| {
        let Ok(entry) = serde_json::from_str::<serde_json::Value>(line) else { return };
        if let Some(of) = run_of(&entry) {
            *run = of;
        }
        let intention = entry.get(intention::MEMBER).map(ToString::to_string);
        let intention = intention.and_then(|raw| Intention::read(&raw));
        let is_it = |planned: &PlannedRequest| {
            intention.as_ref().is_some_and(|intention| *intention == planned.intention())
        };
        if let Some(at) = plan.requests.iter().position(is_it) {
            keep(&plan.requests.remove(at), &entry, kept);
        }
    })?;
    let (done, name) = (before - plan.requests.len(), args.output.display());
    print_error(&format!("{done} of {before} requests are in {name} already"));
    Ok(journal)
}

/// What idempotency keys begin with in a new run: all but the last part of a random UUID (RFC 9562 section 5.4).
pub(super) fn new_run() -> Result<String, Failure> {
    let mut bytes = [0; 10];
    getrandom::fill(&mut bytes)
        .map_err(|error| Failure::Call(format!("the system's random source failed: {error}")))?;
    bytes[6] = 0x40 | bytes[6] & 0x0f;
    bytes[8] = 0x80 | bytes[8] & 0x3f;
    let hex = bytes.map(|byte| format!("{byte:02x}")).concat();
    Ok(format!("{}-{}-{}-{}", &hex[..8], &hex[8..12], &hex[12..16], &hex[16..]))
}

/// Says what could not be sent.
fn print_left_out(names: &[String]) {
    match names {
        [] => {}
        [name] => print_error(&format!("not sent, as no response provided what it needs: {name}")),
        [first, more @ ..] => print_error(&format!(
            "not sent, as no response provided what they need: {first} and {} more",
            more.len()
        )),
    }
}

/// Says what was made and not taken away again.
fn print_created(addresses: &[String]) {
    const FIRST: usize = 5;
    if addresses.is_empty() {
        return;
    }
    let first: Vec<&str> = addresses.iter().take(FIRST).map(String::as_str).collect();
    let more = match addresses.len().saturating_sub(FIRST) {
        0 => String::new(),
        more => format!(" and {more} more"),
    };
    let first = terminal(&first.join(", ")).into_owned();
    print_error(&format!("created, and still there: {first}{more}"));
}

/// Says what the service put off.
fn print_put_off(names: &[String], of: usize) {
    const FIRST: usize = 3;
    if names.is_empty() {
        return;
    }
    let first: Vec<&str> = names.iter().take(FIRST).map(String::as_str).collect();
    let more = match names.len().saturating_sub(FIRST) {
        0 => String::new(),
        more => format!(" and {more} more"),
    };
    print_error(&format!(
        "{} of {of} requests were not tested, since the service put them off with 429 or 503: {}{more}; allow more time with --timeout, or send less with --rate",
        names.len(),
        first.join(", ")
    ));
}

/// The plan, a line each.
fn told(plan: &ProbePlan) -> String {
    let mut text = String::new();
    for planned in &plan.requests {
        let writes = if planned.can_write() { "  (can write)" } else { "" };
        let line = format!("{} {}", planned.method, planned.target);
        text.push_str(&format!("{}  [{}]{writes}\n", terminal(&planned.name), terminal(&line)));
    }
    let writes = plan.requests.iter().filter(|planned| planned.can_write()).count();
    text.push_str(&format!(
        "\n{} requests; {writes} of them could change data\n",
        plan.requests.len()
    ));
    text.push_str(&not_planned(&plan.left_out));
    text
}

/// What could not be planned, a line for each reason.
fn not_planned(left_out: &[NotPlanned]) -> String {
    let mut by_reason: Vec<(&NotPlanned, BTreeSet<&str>, usize)> = Vec::new();
    let mut places: HashMap<&str, usize> = HashMap::new();
    for one in left_out {
        let at = *places.entry(&one.why).or_insert_with(|| {
            by_reason.push((one, BTreeSet::new(), 0));
            by_reason.len() - 1
        });
        by_reason[at].1.insert(&one.name);
        by_reason[at].2 += one.requests;
    }
    let line = |(first, names, requests): (&NotPlanned, BTreeSet<&str>, usize)| {
        let names = names.len();
        let more = if names > 1 { format!(" and {} more", names - 1) } else { String::new() };
        let sum = if requests > names { format!(" ({requests} requests)") } else { String::new() };
        format!("not planned: {}{more}: {}{sum}\n", terminal(&first.name), terminal(&first.why))
    };
    by_reason.into_iter().map(line).collect()
}

/// Takes out what is not to be sent, and says how much it is.
fn leave_out(
    plan: &mut ProbePlan,
    args: &ProbeArgs,
    has_credentials: bool,
    contract: &ErrorContract,
) {
    if !args.allow_writes {
        let before = plan.requests.len();
        plan.requests.retain(|planned| !planned.can_write());
        let count = before - plan.requests.len();
        if count > 0 {
            print_error(&format!(
                "{count} requests that could change data were left out; include them with --allow-writes"
            ));
        }
    }
    // What is not created can't be read.
    let saved: BTreeSet<String> = plan
        .requests
        .iter()
        .flat_map(|planned| planned.saves.iter().map(|(name, _)| name.clone()))
        .collect();
    plan.requests.retain(|planned| {
        let is_there = |name: &String| saved.contains(name);
        planned.uses.iter().all(is_there)
    });
    let needs = |planned: &PlannedRequest| planned.credentials == ProbeCredentials::Invalid;
    if !has_credentials && plan.requests.iter().any(needs) {
        let header = contract.credentials.first().map_or("Authorization", String::as_str);
        print_error(&format!(
            "no credentials will be sent: the contract's [probe] names no environment variable for {header}"
        ));
        plan.requests.retain(|planned| !needs(planned));
    }
}

/// The credentials, from the environment.
fn credentials(contract: &ErrorContract) -> Result<Vec<(String, String)>, Failure> {
    let mut found = Vec::new();
    for (header, template) in &contract.probe_credentials {
        let mut value = String::new();
        for (at, part) in template.split('$').enumerate() {
            if at == 0 {
                value.push_str(part);
                continue;
            }
            let end =
                part.find(|c: char| !c.is_ascii_alphanumeric() && c != '_').unwrap_or(part.len());
            let (name, rest) = part.split_at(end);
            let secret = std::env::var(name).map_err(|_| {
                Failure::Call(format!(
                    "the environment variable {name}, which the contract names for {header}, is not set"
                ))
            })?;
            if secret.chars().any(|c| c.is_control() && c != '\t') {
                return Err(Failure::Call(format!(
                    "the environment variable {name} has a line break or another control character in it, which no header field can have; set it without"
                )));
            }
            value.push_str(&secret);
            value.push_str(rest);
        }
        found.push((header.clone(), value));
    }
    Ok(found)
}

/// Sends all of it; `take` gets each entry, as a line.
pub(super) fn sent(
    settings: SendSettings,
    plan: &ProbePlan,
    kept: KeptValues,
    mut take: impl FnMut(&str),
) -> Result<SendResult, Failure> {
    let runtime = Runtime::new().map_err(Failure::Output)?;
    let client = ProbeClient::new(settings).map_err(Failure::Call)?;
    let sending = runtime.block_on(async {
        let stop = async {
            // Where nobody can listen for it, the process ends by it anyway.
            let _ = tokio::signal::ctrl_c().await;
        };
        let take = |entry: serde_json::Value| {
            let (name, status) = (&entry["comment"], &entry["response"]["status"]);
            crate::output::step(format_args!("sent {name}: {status}"));
            take(&entry.to_string());
        };
        client.send(&plan.requests, kept, stop, take).await
    });
    runtime.shutdown_background();
    Ok(sending)
}
