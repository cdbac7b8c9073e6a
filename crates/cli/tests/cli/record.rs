//! `fclerk record`: between clients and services of every sort, on loopback.

use std::io::{BufRead as _, BufReader, Read as _, Write as _};
use std::net::{TcpListener, TcpStream};
use std::process::{Child, ChildStdout, Command, Stdio};
use std::time::{Duration, Instant};

use serde_json::Value;

use crate::harbour::Served;
use crate::harness::{Project, Run};
use crate::script::Script;

const TOKEN: &str = "made-up-token-of-the-harbour-office";

/// The recorder, running.
pub(crate) struct Recorder {
    child: Child,
    stdout: BufReader<ChildStdout>,
    pub(crate) address: String,
    call: String,
}

impl Recorder {
    pub(crate) fn start(project: &Project, call: &str) -> Self {
        Self::spawn(project.command(&format!("record --listen 127.0.0.1:0 {call}")), call)
    }

    pub(crate) fn spawn(mut command: Command, call: &str) -> Self {
        command.stdin(Stdio::null()).stdout(Stdio::piped()).stderr(Stdio::piped());
        let mut child = command.spawn().unwrap();
        let mut stdout = BufReader::new(child.stdout.take().unwrap());
        let mut lines = [String::new(), String::new()];
        lines.iter_mut().for_each(|line| _ = stdout.read_line(line).unwrap());
        let address = lines[0]
            .strip_prefix("Listening on http://")
            .and_then(|rest| rest.split([',', ' ']).next());
        let address = address.unwrap_or_else(|| panic!("{lines:?}")).to_owned();
        Self { child, stdout, address, call: call.to_owned() }
    }

    /// Ends it as Ctrl-C does, and gives what it said.
    pub(crate) fn stop(mut self) -> Run {
        let id = self.child.id().to_string();
        assert!(Command::new("kill").args(["-INT", &id]).status().unwrap().success());
        let (mut stdout, mut stderr) = (String::new(), String::new());
        self.stdout.read_to_string(&mut stdout).unwrap();
        self.child.stderr.take().unwrap().read_to_string(&mut stderr).unwrap();
        let code = self.child.wait().unwrap().code();
        Run::of(&self.call, code, stdout, stderr)
    }
}

impl Drop for Recorder {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

/// Sends bytes, and gives all that comes until the connection is closed, or nothing comes for a while.
pub(crate) fn send(address: &str, request: &[u8]) -> Vec<u8> {
    send_and_wait(address, request, PAUSE)
}

/// Between the bytes of a response there is no longer pause than this.
const PAUSE: Duration = Duration::from_millis(400);

/// The same, with a patience of its own for the first byte.
fn send_and_wait(address: &str, request: &[u8], patience: Duration) -> Vec<u8> {
    let mut stream = TcpStream::connect(address).unwrap();
    stream.set_read_timeout(Some(patience)).unwrap();
    stream.write_all(request).unwrap();
    let (mut response, mut piece) = (Vec::new(), [0; 65536]);
    while let Ok(length @ 1..) = stream.read(&mut piece) {
        response.extend_from_slice(&piece[..length]);
        stream.set_read_timeout(Some(PAUSE)).unwrap();
    }
    response
}

pub(crate) fn text(bytes: &[u8]) -> String {
    String::from_utf8_lossy(bytes).into_owned()
}

pub(crate) fn entries(project: &Project, name: &str) -> Vec<Value> {
    let text = std::fs::read_to_string(project.path().join(name)).unwrap();
    text.lines().map(|line| serde_json::from_str(line).unwrap()).collect()
}

/// A request, the response to it, and what is recorded: status, and the body as text or the number of its bytes.
type Case = (&'static str, Vec<u8>, u64, &'static str);

/// What passes, from the plain to the odd. The target of the Nth request is `/N`.
fn corpus() -> Vec<Case> {
    let of = |response: &str| response.as_bytes().to_vec();
    let large = [
        b"HTTP/1.1 200 OK\r\nContent-Type: text/plain\r\nContent-Length: 3000000\r\n\r\n".to_vec(),
        vec![b'x'; 3_000_000],
    ]
    .concat();
    let packed = b"HTTP/1.1 200 OK\r\nContent-Type: application/json\r\nContent-Encoding: gzip\r\nContent-Length: 4\r\n\r\n\x1f\x8b\x00\xff";
    vec![
        (
            "GET /0 HTTP/1.1\r\nHost: localhost\r\nX-Odd:   two  words  \r\n\r\n",
            of(
                "HTTP/1.1 404 Nothing here\r\nContent-Type: application/problem+json\r\nContent-Length: 14\r\n\r\n{\"status\": 404",
            ),
            404,
            "{\"status\": 404",
        ),
        (
            "GET /1 HTTP/1.1\r\nHost: localhost\r\n\r\n",
            of(
                "HTTP/1.1 200 OK\r\nTransfer-Encoding: chunked\r\nTrailer: Digest\r\n\r\n3;why=not\r\n{\"a\r\n4\r\n\": 1\r\n1\r\n}\r\n0\r\nDigest: x\r\n\r\n",
            ),
            200,
            "{\"a\": 1}",
        ),
        (
            "HEAD /2 HTTP/1.1\r\nHost: localhost\r\n\r\n",
            of("HTTP/1.1 200 OK\r\nContent-Length: 1234\r\n\r\n"),
            200,
            "",
        ),
        (
            "DELETE /3 HTTP/1.1\r\nHost: localhost\r\n\r\n",
            of("HTTP/1.1 204 No Content\r\nX-A: 1\r\nx-a: 2\r\n\r\n"),
            204,
            "",
        ),
        (
            "GET /4 HTTP/1.1\r\nHost: localhost\r\nIf-None-Match: \"x\"\r\n\r\n",
            of("HTTP/1.1 304 Not Modified\r\nETag: \"x\"\r\n\r\n"),
            304,
            "",
        ),
        (
            "GET /5 HTTP/1.1\r\nHost: localhost\r\n\r\n",
            of(
                "HTTP/1.1 103 Early Hints\r\nLink: </x>\r\n\r\nHTTP/1.1 100 Continue\r\n\r\nHTTP/1.1 200 OK\r\nContent-Length: 2\r\n\r\n{}",
            ),
            200,
            "{}",
        ),
        (
            "GET /6 HTTP/1.1\r\nHost: localhost\r\n\r\n",
            of("HTTP/1.1 500 Oh\nContent-Type: text/plain\nContent-Length: 3\n\nno\n"),
            500,
            "no\n",
        ),
        (
            "GET /7 HTTP/1.0\r\n\r\n",
            of("HTTP/1.0 200 OK\r\n\r\nuntil the end"),
            200,
            "until the end",
        ),
        (
            "GET /8 HTTP/1.1\r\nHost: localhost\r\n\r\n",
            of("HTTP/1.1 200 OK\r\nConnection: close\r\n\r\n{}"),
            200,
            "{}",
        ),
        (
            "POST /9 HTTP/1.1\r\nHost: localhost\r\nContent-Type: application/json\r\nContent-Length: 7\r\n\r\n{\"a\":1}",
            of("HTTP/1.1 201 Created\r\nLocation: /x\r\nContent-Length: 0\r\n\r\n"),
            201,
            "",
        ),
        (
            "POST /10 HTTP/1.1\r\nHost: localhost\r\nTransfer-Encoding: chunked\r\n\r\n3\r\n{\"a\r\n4\r\n\":1}\r\n0\r\n\r\n",
            of("HTTP/1.1 422 No\r\nContent-Length: 2\r\n\r\n{}"),
            422,
            "{}",
        ),
        (
            "GET /11 HTTP/1.1\r\nHost: localhost\r\n\r\nGET /0 HTTP/1.1\r\nHost: localhost\r\n\r\n",
            of("HTTP/1.1 200 OK\r\nContent-Length: 4\r\n\r\n[11]"),
            200,
            "[11]",
        ),
        ("GET /12 HTTP/1.1\r\nHost: localhost\r\n\r\n", large, 200, "3000000"),
        ("GET /13 HTTP/1.1\r\nHost: localhost\r\n\r\n", packed.to_vec(), 200, "4"),
    ]
}

#[test]
fn bytes_that_pass_are_the_bytes_without_the_recorder() {
    let corpus = corpus();
    let responses = corpus.iter().map(|(_, answer, ..)| answer.clone()).collect();
    let script = Script::start(responses);
    let project = Project::new();
    let recorder = Recorder::start(
        &project,
        &format!("--upstream http://{} --output r.jsonl", script.address),
    );
    for (request, ..) in &corpus {
        // Every one has a response; on a busy machine it may take its time.
        let exchanged =
            |address: &str| send_and_wait(address, request.as_bytes(), Duration::from_secs(5));
        let (direct, passed) = (exchanged(&script.address), exchanged(&recorder.address));
        assert!(direct == passed, "{request}\n{}\n{}", text(&direct), text(&passed));
    }
    // What the service was asked differs by its own name, and by nothing else.
    let asked = script.asked.lock().unwrap();
    let named = format!("Host: {}\r\n", script.address);
    let (mut direct, mut passed) = (Vec::new(), Vec::new());
    for request in asked.iter().map(|request| text(request)) {
        match request.contains(&named) {
            true => passed.push(request.replace(&named, "Host: localhost\r\n")),
            false => {
                direct.push(request.replace("HTTP/1.0\r\n", "HTTP/1.0\r\nHost: localhost\r\n"));
            }
        }
    }
    assert_eq!(direct, passed);
    let run = recorder.stop().exits(0).complains("15 exchanges are in r.jsonl");
    assert!(!run.stderr.contains("under way"), "{run}");
    let mut entries = entries(&project, "r.jsonl");
    // An exchange is written when it is at its end, which may be behind the start of the next.
    entries.sort_by_key(|entry| entry["startedDateTime"].to_string());
    // The second of the two that were sent at once stands behind the first.
    let mut expected: Vec<(u64, &str)> = corpus.iter().map(|case| (case.2, case.3)).collect();
    expected.insert(12, (404, "{\"status\": 404"));
    for (entry, (status, body)) in entries.iter().zip(expected) {
        let response = &entry["response"];
        assert_eq!(response["status"], status, "{entry}");
        assert!(response.get("_error").is_none(), "{entry}");
        assert!(entry["time"].as_f64().unwrap() > 0.0, "{entry}");
        let content = &response["content"];
        match body.parse::<u64>() {
            Ok(size) => assert_eq!(content["size"], size),
            Err(_) => assert_eq!(content["text"].as_str().unwrap_or_default(), body),
        }
    }
    assert_eq!(entries[10]["request"]["postData"]["text"], "{\"a\":1}");
    assert_eq!(entries[0]["request"]["headers"][0]["value"], script.address);
    assert_eq!(entries[0]["response"]["statusText"], "Nothing here");
    // Every command reads it.
    for call in ["survey r.jsonl", "draft r.jsonl", "show r.jsonl#2"] {
        project.run(call).exits(0);
    }
    let run = project.run("show r.jsonl#15 --raw").exits(3);
    run.complains("its content coding can't be undone");
    project.run("convert --to warc --output r.warc r.jsonl").exits(0);
    project.run("compare r.jsonl r.warc").exits(0);
}

/// Every way for a service to be out of its mind, what the client gets, and what is recorded: status and reason.
#[test]
fn a_service_that_fails_is_passed_on_and_recorded_as_that() {
    let of = |answer: &str| answer.as_bytes().to_vec();
    let endless = [of("HTTP/1.1 200 OK\r\n"), b"X-Endless: yes\r\n".repeat(6000)].concat();
    let responses: Vec<(Vec<u8>, u64, &str)> = vec![
        (b"\x00\xff no HTTP at all\r\n\r\n".to_vec(), 0, "this is not HTTP/1.1"),
        (endless, 0, "the head of the"),
        (
            of("HTTP/1.1 404 No\r\nContent-Length: 100\r\nConnection: close\r\n\r\n{\"half\":"),
            404,
            "closed within the body",
        ),
        (
            of("HTTP/1.1 404 No\r\nTransfer-Encoding: chunked\r\n\r\nzz\r\nno length\r\n"),
            404,
            "a chunk without a length",
        ),
        (of(""), 0, "the connection was closed"),
        (of("HTTP/1.1 200 OK\r\nContent-Le"), 0, "closed within the head"),
        (of("HTTP/1.1 101 Switching Protocols\r\nUpgrade: x\r\n\r\n"), 0, "was not requested"),
        (
            of("HTTP/1.1 200 OK\r\nContent-Length: 1\r\nContent-Length: 2\r\n\r\nab"),
            0,
            "two different things",
        ),
    ];
    let script = Script::start(responses.iter().map(|(answer, ..)| answer.clone()).collect());
    let project = Project::new();
    let recorder = Recorder::start(
        &project,
        &format!("--upstream http://{} --output r.jsonl", script.address),
    );
    for (number, (answer, status, why)) in responses.iter().enumerate() {
        let request = format!("GET /{number} HTTP/1.1\r\nHost: localhost\r\n\r\n");
        let got = send(&recorder.address, request.as_bytes());
        if *status == 0 {
            assert!(got.starts_with(b"HTTP/1.1 502 Bad Gateway\r\n"), "{}", text(&got));
            assert!(
                text(&got).contains("The recorder in front of the service says"),
                "{}",
                text(&got)
            );
        } else {
            assert!(got == *answer, "{why}: {}", text(&got));
        }
    }
    // More than was announced is not taken for the next answer.
    let longer = Script::start(vec![of("HTTP/1.1 404 No\r\nContent-Length: 2\r\n\r\n{}and more")]);
    let other = Recorder::start(
        &project,
        &format!("--upstream http://{} --output o.jsonl", longer.address),
    );
    let two = b"GET /0 HTTP/1.1\r\nHost: localhost\r\n\r\n".repeat(2);
    assert!(text(&send(&other.address, &two)).ends_with("\r\n\r\n{}"));
    other.stop().exits(0);
    recorder.stop().exits(0).complains("8 exchanges are in r.jsonl");
    for (entry, (_, status, why)) in entries(&project, "r.jsonl").iter().zip(&responses) {
        let response = &entry["response"];
        assert_eq!(response["status"], *status, "{entry}");
        assert!(response["_error"].as_str().unwrap().contains(why), "{why}: {entry}");
    }
    project.run("survey r.jsonl").exits(0);
}

#[test]
fn services_that_are_not_there_are_said_to_be_not_there() {
    let project = Project::new();
    let free = TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().to_string();
    let plain = Script::start(vec![b"HTTP/1.1 200 OK\r\nContent-Length: 0\r\n\r\n".to_vec()]);
    for (number, to) in [
        format!("http://{free}"),
        "http://nobody.invalid".to_owned(),
        format!("https://{}", plain.address),
    ]
    .iter()
    .enumerate()
    {
        let recorder =
            Recorder::start(&project, &format!("--upstream {to} --output {number}.jsonl"));
        let got =
            text(&send_slowly(&recorder.address, b"GET /0 HTTP/1.1\r\nHost: localhost\r\n\r\n"));
        assert!(got.contains("502 Bad Gateway") && got.contains("no connection"), "{to}: {got}");
        recorder.stop().exits(0).complains("1 exchange is in");
        let entry = &entries(&project, &format!("{number}.jsonl"))[0];
        assert_eq!(entry["response"]["status"], 0);
        assert!(entry["response"]["_error"].as_str().unwrap().starts_with("no connection: "));
    }
}

/// The same as `send`, where a response may take a while, such as a name that resolves to nothing.
fn send_slowly(address: &str, request: &[u8]) -> Vec<u8> {
    let mut stream = TcpStream::connect(address).unwrap();
    stream.set_read_timeout(Some(Duration::from_secs(20))).unwrap();
    stream.write_all(request).unwrap();
    let mut response = Vec::new();
    let _ = stream.read_to_end(&mut response);
    response
}

/// Each finding is there when its exchange has passed; secrets are replaced, and the findings are those of a check.
#[test]
fn the_harbour_is_recorded_judged_and_scrubbed_as_it_passes() {
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    let served = Served::start(&project, "before");
    let here = format!("http://{}/v1", served.address);
    let call = format!("--upstream {here} --output r.har --contract error-contract.toml --scrub");
    let recorder = Recorder::start(&project, &call);
    let get = |path: &str| {
        format!("GET {path} HTTP/1.1\r\nHost: localhost\r\nAuthorization: Bearer {TOKEN}\r\n\r\n")
    };
    send(&recorder.address, get("/berths/A-3").as_bytes());
    send(&recorder.address, get("/berths/Z-99").as_bytes());
    send(&recorder.address, get(&format!("/nowhere/{TOKEN}")).as_bytes());
    // One client does not wait, which says nothing; another waits for long, and leaves without a response.
    let arrivals = format!(
        "POST /arrivals HTTP/1.1\r\nHost: localhost\r\nAuthorization: Bearer {TOKEN}\r\nContent-Length: 0\r\n\r\n"
    );
    send(&recorder.address, arrivals.as_bytes());
    let mut patient = TcpStream::connect(&recorder.address).unwrap();
    patient.write_all(arrivals.as_bytes()).unwrap();
    std::thread::sleep(Duration::from_millis(1200));
    drop(patient);
    std::thread::sleep(Duration::from_millis(100));
    send(&recorder.address, get("/berths").as_bytes());
    let run = recorder.stop().exits(1).complains("5 exchanges are in r.har");
    let run = run.complains("requests not recorded because the client disconnected: 1 exchange");
    for line in [
        "breach   status.fits-situation              r.har#2  GET /berths/{berth_id}\n         at the status line\n         expected  404 (fault no-such-berth)",
        "breach   media.declared                     r.har#3  (unknown route)",
        "breach   exchange.has-response              r.har#4  POST /arrivals",
    ] {
        assert!(run.stdout.contains(line), "{line}\n{run}");
    }
    let har = std::fs::read_to_string(project.path().join("r.har")).unwrap();
    let har_json: Value = serde_json::from_str(&har).unwrap();
    assert_eq!(har_json["log"]["entries"].as_array().unwrap().len(), 5);
    assert!(!har.contains(TOKEN) && !run.stdout.contains(TOKEN), "{har}");
    assert!(!project.path().join("r.har.jsonl").exists());
    assert!(har.contains("the client disconnected before the response"), "{har}");
    let check = project.run("check r.har --format json").exits(1).json();
    let breaches = check["totals"]["breaches"].as_u64().unwrap();
    assert_eq!(breaches, run.stdout.matches("breach  ").count() as u64, "{run}");
}

#[test]
fn calls_that_are_wrong_are_refused_before_anybody_is_let_in() {
    let project = Project::new();
    let taken = TcpListener::bind("127.0.0.1:0").unwrap();
    let port = taken.local_addr().unwrap().port();
    std::fs::write(project.path().join("there.jsonl"), "mine").unwrap();
    for (call, words) in [
        (
            "record --upstream http://127.0.0.1:1 --output a --listen 0.0.0.0:0".to_owned(),
            "--allow-remote-clients",
        ),
        (
            format!("record --upstream http://127.0.0.1:1 --output a --listen 127.0.0.1:{port}"),
            "choose another address with --listen",
        ),
        ("record --upstream ftp://a --output a".to_owned(), "the scheme ftp is not supported"),
        (
            "record --upstream http://me:secret@a --output a".to_owned(),
            "credentials don't belong into a URL",
        ),
        (
            "record --upstream http://127.0.0.1:1 --output there.jsonl --listen 127.0.0.1:0"
                .to_owned(),
            "already exists",
        ),
        (
            "record --upstream http://127.0.0.1:1 --output a.har.gz --listen 127.0.0.1:0"
                .to_owned(),
            "`fclerk convert` converts it",
        ),
        (
            "record --upstream http://127.0.0.1:1 --output no/a --listen 127.0.0.1:0".to_owned(),
            "can't write no/a",
        ),
        (
            "record --upstream http://127.0.0.1:1 --output a --contract none.toml".to_owned(),
            "can't read",
        ),
        (
            "record --upstream http://127.0.0.1:1 --output a --scrub --key-env NO_SUCH_KEY"
                .to_owned(),
            "the environment variable NO_SUCH_KEY is not set",
        ),
        ("record --upstream http://127.0.0.1:1 --output a --key-env KEY".to_owned(), "--scrub"),
    ] {
        let run = project.run(&call).exits(2).complains(words);
        assert!(!project.path().join("a").exists(), "{run}");
    }
    assert_eq!(std::fs::read_to_string(project.path().join("there.jsonl")).unwrap(), "mine");
}

#[test]
fn a_body_over_the_limit_passes_and_is_said_not_to_be_kept() {
    let large = vec![b'x'; 1_500_000];
    let head =
        b"HTTP/1.1 500 Oh\r\nContent-Type: application/json\r\nContent-Length: 1500000\r\n\r\n";
    let script = Script::start(vec![[&head[..], &large].concat()]);
    let project = Project::new();
    let call = format!("--upstream http://{}/base/ --output r.jsonl --max-body 1", script.address);
    let recorder = Recorder::start(&project, &call);
    let request = [
        &b"POST /0?q=1 HTTP/1.1\r\nHost: localhost\r\nContent-Type: text/plain\r\nContent-Length: 1500000\r\n\r\n"[..],
        &large,
    ]
    .concat();
    assert!(send(&recorder.address, &request).ends_with(&large));
    recorder.stop().exits(0);
    let asked = script.asked.lock().unwrap();
    assert!(asked[0].starts_with(b"POST /base/0?q=1 ") && asked[0].ends_with(&large));
    let entry = &entries(&project, "r.jsonl")[0];
    assert_eq!(entry["request"]["url"], format!("http://{}/base/0?q=1", script.address));
    assert_eq!(entry["request"]["bodySize"], 1_500_000);
    assert_eq!(entry["response"]["content"]["size"], 1_500_000);
    assert!(entry["response"]["content"].get("text").is_none());
    let comment = entry["comment"].as_str().unwrap();
    assert!(
        comment.contains("the body of the response was not recorded; it had 1500000 bytes"),
        "{comment}"
    );
    // A body that was not kept is neither empty nor cut.
    project.run("show r.jsonl#1").exits(0).says("a body that the recording does not hold");
}

/// What is killed leaves a recording of everything that had passed; what is stopped lets go of what is under way.
#[test]
fn whoever_ends_it_however_leaves_whole_lines() {
    let response = b"HTTP/1.1 200 OK\r\nContent-Length: 2\r\n\r\n{}".to_vec();
    let project = Project::new();
    let script = Script::start(vec![response, Vec::new()]);
    let mut recorder = Recorder::start(
        &project,
        &format!("--upstream http://{} --output k.jsonl", script.address),
    );
    for _ in 0..5 {
        send(&recorder.address, b"GET /0 HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n\r\n");
    }
    // What passed last may still be on its way into the file.
    let lines = || std::fs::read_to_string(project.path().join("k.jsonl")).unwrap().lines().count();
    let start = Instant::now();
    while lines() < 5 && start.elapsed() < Duration::from_secs(5) {
        std::thread::sleep(Duration::from_millis(20));
    }
    recorder.child.kill().unwrap();
    recorder.child.wait().unwrap();
    assert_eq!(entries(&project, "k.jsonl").len(), 5);
    // A service that accepts and never answers; the client waits.
    let silent = TcpListener::bind("127.0.0.1:0").unwrap();
    let to = silent.local_addr().unwrap();
    let recorder = Recorder::start(&project, &format!("--upstream http://{to} --output s.jsonl"));
    let mut waiting = TcpStream::connect(&recorder.address).unwrap();
    waiting.write_all(b"GET /0 HTTP/1.1\r\nHost: localhost\r\n\r\n").unwrap();
    let mut idle = TcpStream::connect(&recorder.address).unwrap();
    idle.write_all(b"GET /0 HT").unwrap();
    std::thread::sleep(Duration::from_millis(200));
    recorder.stop().exits(0).complains("1 exchange was in flight at the end");
    assert_eq!(entries(&project, "s.jsonl").len(), 0);
    // With a deadline, that is what is recorded.
    let call = format!("--upstream http://{to} --output d.jsonl --timeout 1");
    let recorder = Recorder::start(&project, &call);
    let got = text(&send_slowly(&recorder.address, b"GET /0 HTTP/1.1\r\nHost: localhost\r\n\r\n"));
    assert!(got.starts_with("HTTP/1.1 504 Gateway Timeout"), "{got}");
    recorder.stop().exits(0);
    let entry = &entries(&project, "d.jsonl")[0];
    assert_eq!(entry["response"]["_error"], "no response before the timeout");
    assert!((1000.0..3000.0).contains(&entry["time"].as_f64().unwrap()), "{entry}");
}

/// On a disk that is full, the proxy goes on serving, and what was recorded stays readable.
#[test]
fn a_full_disk_is_said_and_nobody_is_left_without_an_answer() {
    let project = Project::new();
    let small = project.path().join("small");
    std::fs::create_dir(&small).unwrap();
    let mut mount = Command::new("mount");
    mount.args(["-t", "tmpfs", "-o", "size=64k", "tmpfs"]).arg(&small).stderr(Stdio::null());
    if !mount.status().is_ok_and(|status| status.success()) {
        println!("skipped: no file system of 64 kB can be mounted here (that takes root)");
        return;
    }
    let body = "x".repeat(9000);
    let response = format!("HTTP/1.1 200 OK\r\nContent-Length: {}\r\n\r\n{body}", body.len());
    let script = Script::start(vec![response.clone().into_bytes()]);
    let call = format!("--upstream http://{} --output small/r.jsonl", script.address);
    let recorder = Recorder::start(&project, &call);
    for _ in 0..12 {
        let got = send(
            &recorder.address,
            b"GET /0 HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n\r\n",
        );
        assert_eq!(text(&got), response);
    }
    let run = recorder.stop().exits(3).complains("requests are still forwarded");
    let kept = entries(&project, "small/r.jsonl").len();
    let _ = Command::new("umount").arg(&small).status();
    assert!((1..12).contains(&kept), "{run}");
    run.complains(&format!("{} more exchanges were forwarded but could not be written", 12 - kept));
}
