//! Recordings of every form, from files, folders and standard input, in whatever state they are.

use std::io::Write as _;
use std::process::Stdio;

use faithful_clerk_check::clauses::HARBOUR;
use flate2::Compression;
use flate2::write::GzEncoder;
use serde_json::{Value, json};

use crate::harness::{Project, got, har};

/// A 404 whose problem says 400, so that it is known to have been read.
fn telling() -> Value {
    got("GET", "/nowhere", 404, "application/problem+json", r#"{"title":"Not Found","status":400}"#)
}

const TOLD: &str = "problem.status-agrees";

const REQUEST: &str = "GET /v1/nowhere HTTP/1.1\r\nHost: harbour.example\r\n\r\n";
const ANSWER: &str = "HTTP/1.1 404 Not Found\r\nContent-Type: application/problem+json\r\nContent-Length: 34\r\n\r\n{\"title\":\"Not Found\",\"status\":400}";

fn gzip(text: &[u8]) -> Vec<u8> {
    let mut encoder = GzEncoder::new(Vec::new(), Compression::fast());
    encoder.write_all(text).unwrap();
    encoder.finish().unwrap()
}

#[test]
fn a_form_is_told_by_content_and_not_by_name() {
    let project = Project::with(HARBOUR, &[telling()]);
    project.write("x.txt", telling().to_string());
    project.write("y.json", har(&[telling()]));
    project.write("z.har", format!("{REQUEST}{ANSWER}"));
    project.write("packed", gzip(har(&[telling()]).as_bytes()));
    project
        .run("convert --to warc --output w.bin a.har")
        .exits(0)
        .complains("1 exchange written as WARC");
    for name in ["x.txt", "y.json", "z.har", "packed", "w.bin"] {
        project.run(&format!("check {name}")).exits(1).says(&format!("{TOLD:35}{name}#1"));
        let file = std::fs::File::open(project.path().join(name)).unwrap();
        project.run_with("check -", file).exits(1).says(&format!("{TOLD:35}-#1"));
    }
    // What the call says goes before what the content tells.
    project.run("check --from warc x.txt").exits(3).complains("is not a WARC record");
}

#[test]
fn folders_are_walked_in_order_and_give_their_recordings() {
    let project = Project::with(HARBOUR, &[telling()]);
    project.write("in/b/2.jsonl", telling().to_string());
    project.write("in/a/1.har", har(&[telling()]));
    project.write("in/c/one.request.http", REQUEST);
    project.write("in/c/one.response.http", ANSWER);
    project.write("in/notes.txt", "no recording");
    project.write("in/api.json", r#"{"openapi": "3.1.0", "paths": {}}"#);
    project.write("in/.hidden.har", har(&[telling()]));
    let run = project.run("check in").exits(1);
    run.says(&format!("{TOLD:35}in/a/1.har#1 in/b/2.jsonl#1 in/c/one.request.http#1"))
        .says("3 exchanges checked");
    // Half of a pair brings the other half.
    project.run("check in/c/one.response.http").exits(1).says("in/c/one.request.http#1");
    project.run("show in/c/one.request.http#1").exits(0).says("404");
    project.write("out/readme.txt", "nothing");
    project.run("check out").exits(2).complains("out: no recordings in this folder");
}

#[cfg(unix)]
#[test]
fn devices_loops_and_closed_folders_end_in_a_message() {
    use std::os::unix::fs::{PermissionsExt as _, symlink};
    let project = Project::with(HARBOUR, &[telling()]);
    project.run("check /dev/zero").exits(2).complains("/dev/zero: a device, not a recording");
    project.write("in/a.har", har(&[telling()]));
    symlink(project.path().join("in"), project.path().join("in/loop")).unwrap();
    project.run("check in").exits(1).says("1 exchange checked");
    let closed = project.path().join("closed");
    std::fs::create_dir(&closed).unwrap();
    std::fs::set_permissions(&closed, std::fs::Permissions::from_mode(0o000)).unwrap();
    // Nothing is closed to the superuser.
    if std::fs::read_dir(&closed).is_err() {
        project.run("check closed a.har").exits(2).complains("closed: Permission denied");
    }
    std::fs::set_permissions(&closed, std::fs::Permissions::from_mode(0o755)).unwrap();
}

#[test]
fn the_largest_entry_is_a_matter_of_the_call() {
    let large = "x".repeat(1_200_000);
    let entry =
        got("GET", "/berths/A-3", 200, "application/json", &format!("{{\"id\":\"{large}\"}}"));
    let project = Project::with(HARBOUR, &[entry, telling()]);
    project.run("check a.har").exits(1).says("2 exchanges checked");
    project
        .run("check --max-exchange 1 a.har")
        .exits(3)
        .says("1 exchange checked")
        .complains("a.har#1, byte 35: the entry is larger than 1048576 bytes");
}

#[test]
fn what_is_not_the_services_own_is_set_aside_unless_all_is_asked_for() {
    let mut other = telling();
    other["request"]["url"] = json!("https://elsewhere.example/v1/nowhere");
    let page = got("GET", "/index.html", 200, "text/html", "<p>");
    let preflight = got("OPTIONS", "/berths", 204, "", "");
    let project = Project::with(HARBOUR, &[telling(), other, page, preflight]);
    let run = project.run("check a.har").exits(1).says(&format!("{TOLD:35}a.har#1\n"));
    run.says("1 exchange checked, 3 excluded");
    let run = project.run("check --all a.har").exits(1);
    run.says(&format!("{TOLD:35}a.har#1 #2\n")).says("4 exchanges checked");
    project.run("survey --all a.har").exits(0).says("4 exchanges");
    project.run("coverage --all a.har").exits(0);
    project.run("show --all a.har#2").exits(0).says(TOLD);
    project.run("compare --all a.har a.har").exits(0).says("4 pairs");
}

/// Many exchanges, so that several batches are in work at once.
#[test]
fn any_number_of_threads_writes_the_same() {
    let project = Project::new();
    project.write("error-contract.toml", include_str!("../../demo/error-contract.toml"));
    let traffic = |form| {
        use faithful_clerk_testkit::{Mixture, Traffic};
        Traffic::new(form, Mixture::Usual, 3_000_000).all()
    };
    use faithful_clerk_testkit::TrafficFormat;
    for (name, form) in [
        ("c.har", TrafficFormat::Compact),
        ("p.har", TrafficFormat::Pretty),
        ("l.jsonl", TrafficFormat::Lines),
    ] {
        project.write(name, traffic(form));
        let one = project.run(&format!("check --threads 1 {name}"));
        for threads in [2, 7] {
            let other = project.run(&format!("check --threads {threads} {name}"));
            assert_eq!((one.code, &one.stdout), (other.code, &other.stdout), "{name}");
        }
        assert!(one.stderr.is_empty(), "{one}");
    }
}

#[test]
fn converting_says_what_was_left_out_and_never_writes_over_anything() {
    let project = Project::with(HARBOUR, &[telling()]);
    project.run("convert --to har --output a.har a.har").exits(2).complains("already exists");
    project
        .run("convert --to http a.har")
        .exits(0)
        .says("HTTP/1.1 404")
        .complains("left out, because HTTP messages can't hold it: the scheme (1)");
    project.run("convert --to jsonl --output b.jsonl.gz a.har").exits(0);
    project.run("convert --to har --output c.har.zst b.jsonl.gz").exits(0);
    project.run("check c.har.zst").exits(1).says(&format!("{TOLD:35}c.har.zst#1"));
    project.write("broken.jsonl", format!("{}\n{{\"request\":\n{}", telling(), telling()));
    let run = project.run("convert --to har --output d.har broken.jsonl").exits(3);
    run.complains("broken.jsonl#2, byte").complains("2 exchanges written as HAR");
    project.run("convert --to har --output no/folder.har a.har").exits(2).complains("can't write");
}

/// What a recording lacks is no fault of the service.
#[test]
fn a_message_that_is_cut_is_named_and_judged_by_what_came() {
    let project = Project::with(HARBOUR, &[telling()]);
    let whole = format!("{REQUEST}{ANSWER}");
    let half = &ANSWER[..ANSWER.len() - 20];
    // In the middle and at the end; its status, media type and header fields are judged.
    for (name, text) in [
        ("a.http", format!("{REQUEST}{half}\n{whole}")),
        ("b.http", format!("{whole}{REQUEST}{half}")),
    ] {
        project.write(name, text);
        let number = if name == "a.http" { 1 } else { 2 };
        let kept = if name == "a.http" { 15 } else { 14 };
        let run = project.run(&format!("check {name}")).exits(3);
        let run = run.complains(&format!("{name}#{number}, byte"));
        run.complains(&format!(
            "the response is cut: {kept} of the 34 bytes of its body are recorded"
        ))
        .says("2 exchanges checked")
        .says("the recording does not hold the body");
    }
    let html = half.replace("application/problem+json", "text/html");
    project.write("c.http", format!("{REQUEST}{html}"));
    let run = project.run("check c.http").exits(3).says("media.declared");
    assert!(!run.stdout.contains("message.complete") && !run.stdout.contains("truncated"), "{run}");
    // A request that is cut is named, and its response belongs to it all the same.
    let post = "POST /v1/berths HTTP/1.1\r\nHost: harbour.example\r\nContent-Type: application/json\r\nContent-Length: 40\r\n\r\n{\"name\":";
    project.write("d.http", format!("{post}\n{ANSWER}{whole}"));
    let run =
        project.run("check d.http").exits(3).complains("d.http#1, byte 0: the request is cut");
    run.says("2 exchanges checked");
    // So does that of a request whose head is cut, and it is left out with it.
    project.write("e.http", format!("GET /v1/lost HTTP/1.1\r\nHos\n{ANSWER}{whole}"));
    let run = project
        .run("check e.http")
        .exits(3)
        .complains("e.http#1, byte 0: the head of this message");
    run.says("1 exchange checked").says("e.http#2");
    let record = |kind: &str, more: &str, block: &str| {
        format!(
            "WARC/1.1\r\nWARC-Type: {kind}\r\nWARC-Record-ID: <urn:x:{kind}>\r\nWARC-Target-URI: https://harbour.example/v1/nowhere\r\n\
             Content-Type: application/http\r\n{more}Content-Length: {}\r\n\r\n{block}\r\n\r\n",
            block.len()
        )
    };
    for (name, more, block, told) in [
        ("a.warc", "", half, "14 of the 34 bytes"),
        (
            "b.warc",
            "WARC-Truncated: length\r\n",
            half,
            "the message is cut, as its record says: length",
        ),
        (
            "c.warc",
            "WARC-Truncated: time\r\n",
            &ANSWER.replace("34", "14").replace(",\"status\":400}", ""),
            "the message is cut, as its record says: time",
        ),
    ] {
        project.write(name, record("request", "", REQUEST) + &record("response", more, block));
        let run = project.run(&format!("check {name}")).exits(3).says("1 exchange checked");
        run.complains(told);
    }
    // That the service broke off is its fault, and the archive is whole.
    let broken = record("request", "", REQUEST)
        + &record("response", "WARC-Truncated: disconnect\r\n", half);
    project.write("d.warc", broken);
    project.run("check d.warc").exits(0).says("exchange.complete").says("truncated");
}

/// A body that was not kept stays not kept, and takes nothing of what stands behind it.
#[test]
fn what_was_not_recorded_is_not_made_up_by_converting() {
    let entry = |method: &str, size: i64| {
        json!({
            "startedDateTime": "2027-03-08T09:00:00Z",
            "request": {"method": method, "url": "https://harbour.example/v1/berths", "headers": [], "bodySize": size},
            "response": {"status": 404, "headers": [{"name": "Content-Type", "value": "application/problem+json"}], "content": {"size": 59, "mimeType": ""}},
        })
    };
    let project = Project::with(HARBOUR, &[entry("GET", 0), entry("POST", 12), telling()]);
    let before = project.run("check --format json a.har").exits(1).json();
    for format in ["http", "warc"] {
        project.run(&format!("convert --to {format} a.har --output a.{format}")).exits(0);
        project.run(&format!("convert --to har a.{format} --output {format}.har")).exits(0);
        for name in [format!("a.{format}"), format!("{format}.har")] {
            let after = project.run(&format!("check --format json {name}")).exits(1).json();
            for member in ["findings", "not_checked", "exchanges"] {
                let of = |json: &Value| json[member].to_string().replace(&name, "a.har");
                assert_eq!(of(&after), of(&before), "{name}: {member}");
            }
        }
    }
}

/// A gigabyte through a pipe, made while it is read. Run it with `cargo test -- --ignored`.
#[cfg(target_os = "linux")]
#[test]
#[ignore = "it takes a minute"]
fn a_gigabyte_needs_no_more_memory_than_a_megabyte() {
    use faithful_clerk_testkit::{Mixture, Traffic, TrafficFormat};
    let peak = |form: TrafficFormat, bytes: usize| -> u64 {
        let project = Project::new();
        project.write("error-contract.toml", include_str!("../../demo/error-contract.toml"));
        let mut command = project.command("check --threads 2 -");
        let mut child = command.stdin(Stdio::piped()).stdout(Stdio::null()).spawn().unwrap();
        let mut stdin = child.stdin.take().unwrap();
        std::io::copy(&mut Traffic::new(form, Mixture::Usual, bytes), &mut stdin).unwrap();
        let status = std::fs::read_to_string(format!("/proc/{}/status", child.id())).unwrap();
        drop(stdin);
        assert_eq!(child.wait().unwrap().code(), Some(1));
        let line = status.lines().find(|line| line.starts_with("VmHWM:")).unwrap();
        line.split_whitespace().nth(1).unwrap().parse::<u64>().unwrap() / 1024
    };
    for form in [TrafficFormat::Compact, TrafficFormat::Lines] {
        let (small, large) = (peak(form, 10_000_000), peak(form, 1_000_000_000));
        assert!(large <= 32 && large <= small + 4, "{form:?}: {small} MiB, then {large} MiB");
    }
}
