//! What a signal leaves behind: nothing, and soon.
#![cfg(unix)]

use std::io::Write as _;
use std::os::unix::process::ExitStatusExt as _;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use crate::harness::{Project, got, har};
use crate::record::{Recorder, send};
use crate::script::Script;

fn tell(id: u32, signal: &str) {
    assert!(Command::new("kill").args([signal, &id.to_string()]).status().unwrap().success());
}

#[test]
fn temporary_files_are_removed_when_a_signal_ends_the_program() {
    for (call, signal, number) in [
        ("scrub - --output b.har", "-TERM", 15),
        ("convert --to har - --output b.har", "-INT", 2),
        ("check - --report html=b.html", "-HUP", 1),
        ("compare - a.har", "-INT", 2),
    ] {
        let project = Project::with(
            "contract = 1\nservers = [\"/\"]\n",
            &[got("GET", "/a", 200, "application/json", "{}")],
        );
        let folder = project.path().join("temporary");
        std::fs::create_dir(&folder).unwrap();
        let mut command = project.command(call);
        command.env("TMPDIR", &folder).stdin(Stdio::piped()).stdout(Stdio::null());
        let mut child = command.stderr(Stdio::null()).spawn().unwrap();
        // Half of a recording, behind which more is to come.
        let text = har(&[got("GET", "/a", 200, "application/json", "{}")]);
        let mut stdin = child.stdin.take().unwrap();
        stdin.write_all(&text.as_bytes()[..text.len() / 2]).unwrap();
        let files = || {
            let folders = [project.path().to_owned(), folder.clone()];
            let files = folders.iter().flat_map(|folder| std::fs::read_dir(folder).unwrap());
            let names = files.map(|file| file.unwrap().file_name().to_string_lossy().into_owned());
            names.filter(|name| name.starts_with(".tmp")).count()
        };
        let start = Instant::now();
        while files() == 0 && start.elapsed() < Duration::from_secs(10) {
            std::thread::sleep(Duration::from_millis(10));
        }
        assert!(files() > 0, "{call} has a temporary file");
        tell(child.id(), signal);
        let status = child.wait().unwrap();
        assert_eq!((status.signal(), files()), (Some(number), 0), "{call}");
        assert!(!project.path().join("b.har").exists());
    }
}

/// A body that takes many seconds to scrub is on its way when the recorder is told to end.
#[test]
fn the_recorder_ends_within_a_second_whatever_it_is_about() {
    let tokens: Vec<String> =
        (0..1_200_000).map(|n| format!("{{\"token\":\"q7x9k2m4b5{n:07}\"}}")).collect();
    let body = format!("[{}]", tokens.join(","));
    let head = format!(
        "HTTP/1.1 200 OK\r\nContent-Type: application/json\r\nContent-Length: {}\r\n\r\n",
        body.len()
    );
    let script = Script::start(vec![[head.as_bytes(), body.as_bytes()].concat()]);
    for (output, lines) in [("a.jsonl", "a.jsonl"), ("b.har", "b.har.jsonl")] {
        let project = Project::new();
        let recorder = Recorder::start(
            &project,
            &format!(
                "--upstream http://{} --scrub --max-body 64 --output {output}",
                script.address
            ),
        );
        let got = send(
            &recorder.address,
            b"GET /0 HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n\r\n",
        );
        assert!(got.len() > body.len(), "{}", got.len());
        let start = Instant::now();
        let run = recorder.stop();
        let took = start.elapsed();
        let run = run.exits(3).complains("stopped before everything was written");
        assert!(took < Duration::from_millis(1500), "{took:?} {run}");
        let left = std::fs::read_to_string(project.path().join(lines)).unwrap();
        assert!(left.is_empty() || left.ends_with('\n'), "{}", left.len());
    }
}
