//! What a recorder does beside requests for one service: as a proxy, through a switch of protocols, behind a body.

use std::io::{Read as _, Write as _};
use std::net::{TcpListener, TcpStream};
use std::process::Command;
use std::thread::spawn;
use std::time::Duration;

use crate::harness::{Project, Run};
use crate::record::{Recorder, entries, send, text};
use crate::script::Script;

const OK: &[u8] =
    b"HTTP/1.1 200 OK\r\nContent-Type: application/json\r\nContent-Length: 2\r\n\r\n{}";

fn recorder(project: &Project, call: &str) -> Recorder {
    Recorder::spawn(project.command(&format!("record --listen 127.0.0.1:0 {call}")), call)
}

/// A service that answers the first bytes with these, and gives back everything behind them.
fn echo(first: &'static [u8]) -> String {
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    let address = listener.local_addr().unwrap().to_string();
    spawn(move || {
        for mut stream in listener.incoming().flatten() {
            let mut bytes = [0; 4096];
            if !first.is_empty() {
                let _ = stream.read(&mut bytes);
                let _ = stream.write_all(first);
            }
            while let Ok(length @ 1..) = stream.read(&mut bytes) {
                let _ = stream.write_all(&bytes[..length]);
            }
        }
    });
    address
}

/// Reads until the text has come, or nothing more does.
fn read_until(stream: &mut TcpStream, end: &str) -> String {
    stream.set_read_timeout(Some(Duration::from_secs(5))).unwrap();
    let (mut all, mut piece) = (Vec::new(), [0; 4096]);
    while !text(&all).contains(end) {
        match stream.read(&mut piece) {
            Ok(length @ 1..) => all.extend_from_slice(&piece[..length]),
            _ => break,
        }
    }
    text(&all)
}

#[test]
fn a_proxy_records_what_each_request_names() {
    let (one, other) = (Script::start(vec![OK.to_vec()]), Script::start(vec![OK.to_vec()]));
    let project = Project::new();
    let recorder = recorder(&project, "--proxy --output day.jsonl");
    // Two services over one connection.
    let head = |service: &Script, more: &str| {
        format!("GET http://{}/0?a=1 HTTP/1.1\r\nHost: elsewhere\r\n{more}\r\n", service.address)
    };
    let requests =
        head(&one, "Proxy-Connection: keep-alive\r\nProxy-Authorization: Basic c2VjcmV0\r\n");
    let mut stream = TcpStream::connect(&recorder.address).unwrap();
    stream.write_all(requests.as_bytes()).unwrap();
    assert!(read_until(&mut stream, "{}").ends_with("{}"));
    stream.write_all(head(&other, "Connection: close\r\n").as_bytes()).unwrap();
    assert!(read_until(&mut stream, "{}").ends_with("{}"));
    let asked = text(&one.asked.lock().unwrap()[0]);
    assert_eq!(asked, format!("GET /0?a=1 HTTP/1.1\r\nHost: {}\r\n\r\n", one.address));
    // What names no service, what is not a proxy's, and the proxy itself.
    for (target, status) in [
        ("/0".to_owned(), " 400 "),
        ("https://127.0.0.1/0".to_owned(), " 501 "),
        (format!("http://{}/0", recorder.address), " 502 "),
    ] {
        let request =
            format!("GET {target} HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n\r\n");
        let response = text(&send(&recorder.address, request.as_bytes()));
        assert!(response.starts_with("HTTP/1.1") && response.contains(status), "{response}");
    }
    let urls = |project: &Project| -> Vec<String> {
        let url = |entry: &serde_json::Value| entry["request"]["url"].as_str().unwrap().to_owned();
        entries(project, "day.jsonl").iter().map(url).collect()
    };
    let (address, [first, second]) =
        (recorder.address.clone(), [&one, &other].map(|of| format!("http://{}/0?a=1", of.address)));
    recorder.stop().exits(0);
    assert_eq!(urls(&project), [first, second, format!("http://{address}/0")]);
    assert!(
        !std::fs::read_to_string(project.path().join("day.jsonl")).unwrap().contains("c2VjcmV0")
    );
}

#[test]
fn a_tunnel_passes_and_is_named_as_not_recorded() {
    let project = Project::new();
    let service = echo(b"");
    let recorder = recorder(&project, "--proxy --output day.jsonl");
    for word in ["hello", "again"] {
        let mut stream = TcpStream::connect(&recorder.address).unwrap();
        let request = format!("CONNECT {service} HTTP/1.1\r\nHost: {service}\r\n\r\n{word}");
        stream.write_all(request.as_bytes()).unwrap();
        let response = read_until(&mut stream, word);
        assert!(response.starts_with("HTTP/1.1 200 ") && response.ends_with(word), "{response}");
    }
    let closed = TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap();
    let request = format!("CONNECT {closed} HTTP/1.1\r\nHost: localhost\r\n\r\n");
    assert!(text(&send(&recorder.address, request.as_bytes())).contains(" 502 "));
    let told = format!("not recorded: what passes through a tunnel to {service}; it is encrypted");
    let run = recorder.stop().exits(0);
    assert!(run.stderr.contains(&format!("{told}\n")), "{run}");
    assert!(run.stderr.contains(&format!("{told} (2 times)")), "{run}");
    assert_eq!(entries(&project, "day.jsonl").len(), 0);
}

#[test]
fn a_suite_that_cannot_be_told_a_url_is_recorded_through_the_proxy() {
    if Command::new("python3").arg("--version").output().is_err() {
        println!("skipped: there is no python3 here");
        return;
    }
    let service = Script::start(vec![OK.to_vec()]);
    let project = Project::new();
    let script = format!(
        "import os, urllib.request\nurllib.request.urlopen('http://{}/0')\nassert 'NO_PROXY' not in os.environ\n",
        service.address
    );
    project.write("suite.py", script);
    let call = "record --proxy --output a.jsonl -- python3 suite.py";
    let output = project.command(call).env("NO_PROXY", "*").output().unwrap();
    let of = |bytes: Vec<u8>| text(&bytes);
    let run = Run::of(call, output.status.code(), of(output.stdout), of(output.stderr));
    run.exits(0).complains("1 exchange is in a.jsonl");
    project.run("record --proxy --upstream http://a/ --output b.jsonl").exits(2);
    project.run("record --output b.jsonl").exits(2).complains("--upstream");
}

#[test]
fn a_switch_of_protocols_passes_and_is_named() {
    const SWITCHED: &[u8] =
        b"HTTP/1.1 101 Switching Protocols\r\nUpgrade: websocket\r\nConnection: Upgrade\r\n\r\n";
    let project = Project::new();
    project.write(
        "error-contract.toml",
        "contract = 1\nservers = [\"/\"]\n[endpoint.\"GET /feed\"]\nsuccess = [200]\n",
    );
    let service = echo(SWITCHED);
    let call = format!("--upstream http://{service} --output day.jsonl");
    let recorder = recorder(&project, &call);
    let mut stream = TcpStream::connect(&recorder.address).unwrap();
    let head = "GET /feed HTTP/1.1\r\nHost: localhost\r\nConnection: Upgrade\r\nUpgrade: websocket\r\n\r\n";
    stream.write_all(head.as_bytes()).unwrap();
    assert_eq!(read_until(&mut stream, "\r\n\r\n"), text(SWITCHED));
    for word in ["\u{1}frame", "\u{2}other"] {
        stream.write_all(word.as_bytes()).unwrap();
        assert_eq!(read_until(&mut stream, word), word);
    }
    drop(stream);
    let run = recorder.stop().exits(0);
    let told = format!("what passes after a switch to websocket, at http://{service}/feed");
    assert!(run.stderr.contains(&told), "{run}");
    let entries = entries(&project, "day.jsonl");
    assert_eq!(entries[0]["response"]["status"], 101);
    let comment = "what passed after the switch to websocket was not recorded";
    assert_eq!(entries[0]["comment"], comment);
    project.run("check day.jsonl").exits(0);
}

/// A page whose name leads to loopback asks by that name, and gets nothing.
#[test]
fn a_foreign_host_is_refused_on_loopback() {
    let service = Script::start(vec![OK.to_vec()]);
    let project = Project::new();
    let recorder =
        recorder(&project, &format!("--upstream http://{} --output day.jsonl", service.address));
    let ask = |host: &str| {
        let request = format!("GET /0 HTTP/1.1\r\nHost: {host}\r\nConnection: close\r\n\r\n");
        text(&send(&recorder.address, request.as_bytes()))
    };
    for host in
        ["rebound.example", "rebound.example:80", "127.0.0.1.rebound.example", "[2001:db8::1]:80"]
    {
        let response = ask(host);
        assert!(response.starts_with("HTTP/1.1 421 ") && response.contains(host), "{response}");
    }
    assert_eq!(service.asked.lock().unwrap().len(), 0);
    for host in ["localhost", "127.0.0.1:1", "[::1]:7979", "boats.localhost", &service.address] {
        assert!(ask(host).starts_with("HTTP/1.1 200 "), "{host}");
    }
    recorder.stop().exits(0);
    assert_eq!(entries(&project, "day.jsonl").len(), 5);
}

#[test]
fn trailers_are_kept() {
    let response = b"HTTP/1.1 200 OK\r\nTransfer-Encoding: chunked\r\nTrailer: Digest\r\n\r\n2\r\n{}\r\n0\r\nDigest: x\r\nServer-Timing: a;dur=1\r\n\r\n";
    let project = Project::new();
    let service = Script::start(vec![response.to_vec(), OK.to_vec()]);
    let call = format!("--upstream http://{} --output day.jsonl", service.address);
    let recorder = recorder(&project, &call);
    let came =
        send(&recorder.address, b"GET /0 HTTP/1.1\r\nHost: localhost\r\nTE: trailers\r\n\r\n");
    assert_eq!(text(&came), text(response));
    send(&recorder.address, b"GET /1 HTTP/1.1\r\nHost: localhost\r\n\r\n");
    recorder.stop().exits(0);
    let entries = entries(&project, "day.jsonl");
    let trailers = serde_json::json!([
        {"name": "Digest", "value": "x"}, {"name": "Server-Timing", "value": "a;dur=1"},
    ]);
    assert_eq!(entries[0]["response"]["_trailers"], trailers);
    assert_eq!(entries[0]["response"]["content"]["text"], "{}");
    assert!(entries[1]["response"].get("_trailers").is_none());
}

#[test]
fn a_service_of_http_2_alone_is_named_with_what_to_do() {
    // The settings with which every HTTP/2 server begins, whatever it is asked.
    let service = echo(b"\x00\x00\x06\x04\x00\x00\x00\x00\x00\x00\x03\x00\x00\x00\x64");
    let project = Project::new();
    let call = format!("--upstream http://{service} --output day.jsonl");
    let recorder = recorder(&project, &call);
    let came = send(&recorder.address, b"GET /0 HTTP/1.1\r\nHost: localhost\r\n\r\n");
    assert!(
        text(&came).contains(" 502 ") && text(&came).contains("speaks HTTP/2"),
        "{}",
        text(&came)
    );
    let run = recorder.stop().exits(0);
    let told = format!("{service} speaks HTTP/2 and not HTTP/1.1, which the recorder needs");
    assert!(run.stderr.contains(&told), "{run}");
    let why = entries(&project, "day.jsonl")[0]["response"]["_error"].as_str().unwrap().to_owned();
    assert!(why.contains("put a proxy in front of it that does"), "{why}");
}
