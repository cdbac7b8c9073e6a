//! `fclerk record --contract` in a terminal: what is so now, above the findings as they come.

use std::fs;
use std::process::{Child, Command, Stdio};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread::sleep;
use std::time::Duration;

use crate::harness::Project;
use crate::record::send;
use crate::record_command::CONTRACT;
use crate::script::Script;

/// The contract of a suite, with the media type of its errors.
fn contract() -> String {
    CONTRACT.replace("[everywhere]", "[error]\nmedia = \"application/problem+json\"\n[everywhere]")
}

/// A terminal with the recorder in it, which ends with the test.
struct Terminal(Child);

impl Drop for Terminal {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

/// Waits until a file has this text.
fn wait_for(project: &Project, name: &str, what: &str) -> String {
    for _ in 0..100 {
        let text = fs::read(project.path().join(name)).unwrap_or_default();
        let text = String::from_utf8_lossy(&text).into_owned();
        if text.contains(what) {
            return text;
        }
        sleep(Duration::from_millis(50));
    }
    let text = fs::read(project.path().join(name)).unwrap_or_default();
    panic!("no {what:?} in {:?}", String::from_utf8_lossy(&text));
}

/// A line that was drawn, without what colours and places it.
fn plain(text: &str) -> String {
    let mut parts = text.split('\u{1b}');
    let first = parts.next().unwrap_or_default().to_owned();
    parts.fold(first, |text, part| {
        let end = part.find(|c: char| c.is_ascii_alphabetic()).map_or(0, |at| at + 1);
        text + part.get(end..).unwrap_or_default()
    })
}

#[test]
fn a_cell_turns_when_the_service_is_fixed() {
    if Command::new("script").arg("--version").output().is_err() {
        println!("skipped: there is no script to make a terminal with");
        return;
    }
    let is_fixed = Arc::new(AtomicBool::new(false));
    let fixed = Arc::clone(&is_fixed);
    let service = Script::responding(move |_| {
        let body = "{\"title\":\"Not Found\",\"status\":404}";
        let media =
            if fixed.load(Ordering::Relaxed) { "application/problem+json" } else { "text/html" };
        let length = body.len();
        format!("HTTP/1.1 404 Not Found\r\nContent-Type: {media}\r\nContent-Length: {length}\r\n\r\n{body}").into_bytes()
    });
    let project = Project::new();
    project.write("error-contract.toml", contract());
    let call = format!(
        "record --listen 127.0.0.1:0 --upstream http://{} --output day.jsonl --contract error-contract.toml",
        service.address
    );
    let command = project.command(&call);
    let words: Vec<String> = std::iter::once(command.get_program())
        .chain(command.get_args())
        .map(|word| word.to_string_lossy().into_owned())
        .collect();
    let inner = format!("stty rows 24 cols 90; echo $$ > id; exec {}", words.join(" "));
    let shown = Command::new("script")
        .args(["-q", "-f", "-c", &inner, "screen"])
        .current_dir(project.path())
        .env("TERM", "xterm")
        .env("LC_ALL", "C.UTF-8")
        .stdin(Stdio::null())
        .stdout(Stdio::null())
        .spawn();
    let mut terminal = Terminal(shown.unwrap());
    let text = wait_for(&project, "screen", "no finding yet");
    let address = text.split("Listening on http://").nth(1).unwrap().split(',').next().unwrap();
    let ask = || {
        _ = send(address, b"GET /boats/9 HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n\r\n");
    };
    ask();
    wait_for(
        &project,
        "screen",
        "1 of 1 request broken now; 1 exchange in day.jsonl, 1 breach in all",
    );
    is_fixed.store(true, Ordering::Relaxed);
    ask();
    let text = wait_for(
        &project,
        "screen",
        "0 of 1 request broken now; 2 exchanges in day.jsonl, 1 breach in all",
    );
    // The screen of before and the one of after, each drawn from its upper left corner.
    let screens: Vec<String> = text.split("\u{1b}[H").map(plain).collect();
    let row = |screen: &String| {
        let line = screen.lines().find(|line| line.starts_with("GET /boats/{id}")).unwrap();
        line.trim_end().to_owned()
    };
    let broken = screens.iter().find(|screen| screen.contains("1 of 1 request")).unwrap();
    assert_eq!(row(broken), "GET /boats/{id}  ·        ✗");
    assert!(broken.contains("breach   media.matches-body"), "{broken}");
    let after = screens.iter().find(|screen| screen.contains("0 of 1 request")).unwrap();
    assert_eq!(row(after), "GET /boats/{id}  ·        ✓");
    let id = fs::read_to_string(project.path().join("id")).unwrap();
    assert!(Command::new("kill").args(["-INT", id.trim()]).status().unwrap().success());
    terminal.0.wait().unwrap();
    let text = wait_for(&project, "screen", "`fclerk check` also compares");
    let (_, end) = text.rsplit_once("\u{1b}[?1049l").unwrap();
    assert_eq!(row(&plain(end)), "GET /boats/{id}  ·        ✓");
}

/// Where there is no terminal, a finding follows the other.
#[test]
fn without_a_terminal_there_are_lines_alone() {
    let service = Script::responding(|_| {
        b"HTTP/1.1 404 Not Found\r\nContent-Type: text/html\r\nContent-Length: 2\r\n\r\n{}".to_vec()
    });
    let project = Project::new();
    project.write("error-contract.toml", contract());
    let call = format!(
        "--upstream http://{} --output day.jsonl --contract error-contract.toml",
        service.address
    );
    let command = project.command(&format!("record --listen 127.0.0.1:0 {call}"));
    let recorder = crate::record::Recorder::spawn(command, &call);
    send(&recorder.address, b"GET /boats/9 HTTP/1.1\r\nHost: localhost\r\n\r\n");
    let run = recorder.stop().exits(1).says("breach   media.matches-body");
    assert!(!run.stdout.contains('\u{1b}'), "{run}");
}
