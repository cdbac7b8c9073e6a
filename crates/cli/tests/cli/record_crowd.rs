//! More clients than the recorder lets in at once.

use std::io::{Read as _, Write as _};
use std::net::TcpStream;
use std::time::{Duration, Instant};

use crate::harbour::Served;
use crate::harness::Project;
use crate::record::Recorder;
use crate::script::Script;

/// More clients than are let in at once, each of which keeps its connection: all are served in the end.
#[test]
fn a_crowd_is_served() {
    let project = Project::new();
    let served = Served::start(&project, "after");
    let call = format!("--upstream http://{}/v1 --output r.jsonl", served.address);
    let recorder = Recorder::start(&project, &call);
    let mut clients: Vec<TcpStream> =
        (0..450).map(|_| TcpStream::connect(&recorder.address).unwrap()).collect();
    for client in &mut clients {
        client.set_read_timeout(Some(Duration::from_secs(30))).unwrap();
        client.write_all(b"GET /berths/A-3 HTTP/1.1\r\nHost: localhost\r\n\r\n").unwrap();
    }
    for client in &mut clients {
        let mut status = [0; 15];
        client.read_exact(&mut status).unwrap();
        assert_eq!(&status, b"HTTP/1.1 200 OK");
    }
    recorder.stop().exits(0).complains("450 exchanges are in r.jsonl");
}

/// Clients that only connect, or send a byte now and then, keep nobody out for long.
#[test]
fn four_hundred_silent_clients_keep_nobody_out() {
    let project = Project::new();
    let script = Script::start(vec![b"HTTP/1.1 200 OK\r\nContent-Length: 2\r\n\r\n{}".to_vec()]);
    let call = format!("--upstream http://{} --output r.jsonl", script.address);
    let recorder = Recorder::start(&project, &call);
    let mut silent: Vec<TcpStream> =
        (0..410).map(|_| TcpStream::connect(&recorder.address).unwrap()).collect();
    let start = Instant::now();
    let address = recorder.address.clone();
    let other = std::thread::spawn(move || {
        let mut client = TcpStream::connect(address).unwrap();
        client.set_read_timeout(Some(Duration::from_secs(30))).unwrap();
        client.write_all(b"GET /0 HTTP/1.1\r\nHost: localhost\r\n\r\n").unwrap();
        let mut status = [0; 15];
        client.read_exact(&mut status).map(|()| status)
    });
    while !other.is_finished() && start.elapsed() < Duration::from_secs(30) {
        for client in &mut silent {
            let _ = client.write_all(b"G");
        }
        std::thread::sleep(Duration::from_millis(700));
    }
    assert_eq!(&other.join().unwrap().unwrap(), b"HTTP/1.1 200 OK");
    assert!(start.elapsed() < Duration::from_secs(15), "{:?}", start.elapsed());
    recorder.stop().exits(0).complains("400 clients are connected, and no more are let in at once");
}
