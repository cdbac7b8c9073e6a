//! `fclerk probe` against services in real web frameworks, running: what it finds by its own requests is what is wrong with
//! them. `corpus/record --install` installs them; those that are not installed are skipped, with a word.

use std::collections::BTreeSet;
use std::net::{TcpListener, TcpStream};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::Duration;

use serde_json::Value;

use crate::harness::Project;

/// A service of the corpus, running.
struct Running {
    child: Child,
    port: u16,
}

impl Drop for Running {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

/// Where a service is installed, if it is.
pub(crate) fn room(service: &str) -> PathBuf {
    root().join("target/frameworks").join(service)
}

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// Starts a service, if it is installed.
fn start(service: &str) -> Option<Running> {
    let room = room(service);
    if !room.join("installed").exists() {
        println!(
            "skipped: {service} is not installed; `corpus/record --install {service}` installs it"
        );
        return None;
    }
    let is_python = room.join("app.py").exists();
    let mut command = match is_python {
        true => Command::new(room.join("env/bin/python")),
        false => Command::new("node"),
    };
    let app = if is_python { "app.py" } else { "app.mjs" };
    let port = TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
    command.arg(app).arg(port.to_string()).current_dir(&room);
    let child = command.stdin(Stdio::null()).stdout(Stdio::null()).stderr(Stdio::null()).spawn();
    let mut running = Running { child: child.unwrap(), port };
    for _ in 0..300 {
        if TcpStream::connect(("127.0.0.1", port)).is_ok() {
            return Some(running);
        }
        assert!(running.child.try_wait().unwrap().is_none(), "{service} ended at once");
        std::thread::sleep(Duration::from_millis(100));
    }
    panic!("{service} does not listen");
}

/// What the probe of a service finds broken: endpoints, each with a clause.
fn broken(service: &str) -> Option<BTreeSet<(String, String)>> {
    let running = start(service)?;
    let project = Project::new();
    let read = |name: &str| std::fs::read_to_string(root().join("corpus").join(name)).unwrap();
    let contract = read(&format!("{service}/errors.toml")) + &read("endpoints.toml");
    let probe = "\n[probe]\ncredentials = { Authorization = \"Bearer $BOAT_TOKEN\" }\n";
    let contract = contract.replace("\"http://127.0.0.1:9301\"", "\"/\"");
    project.write("error-contract.toml", contract + probe);
    let call = format!(
        "probe --base-url http://127.0.0.1:{} --allow-writes --set id=1 --rate 10000 --format json",
        running.port
    );
    let output = project.command(&call).env("BOAT_TOKEN", "made-up-token").output().unwrap();
    let found: Value = serde_json::from_slice(&output.stdout).unwrap();
    let text = |finding: &Value, name: &str| finding[name].as_str().unwrap().to_owned();
    let breaches = found["findings"].as_array().unwrap().iter();
    let breaches = breaches.filter(|finding| finding["severity"] == "breach");
    Some(breaches.map(|finding| (text(finding, "endpoint"), text(finding, "clause"))).collect())
}

fn is(found: Option<BTreeSet<(String, String)>>, expected: &[(&str, &[&str])]) {
    let Some(found) = found else { return };
    let each = |(clause, rows): &(&str, &[&str])| {
        rows.iter().map(|row| ((*row).to_owned(), (*clause).to_owned())).collect::<Vec<_>>()
    };
    let expected: BTreeSet<(String, String)> = expected.iter().flat_map(each).collect();
    let missed: Vec<_> = expected.difference(&found).collect();
    let too_much: Vec<_> = found.difference(&expected).collect();
    assert!(missed.is_empty() && too_much.is_empty(), "missed {missed:#?}, too much {too_much:#?}");
}

/// With a body each.
const BODIES: &[&str] = &["POST /boats", "PUT /boats/{id}", "POST /boats/{id}/launch"];
const METHODS: &[&str] = &[
    "(other methods) /boats",
    "(other methods) /boats/{id}",
    "(other methods) /boats/{id}/launch",
    "(other methods) /boats/{id}/survey",
    "(other methods) /logbook",
];

/// Its own errors are pages, and so is what `abort` sends; a body that is absent is of no media type to it; the survey never
/// looks whether there is such a boat; nothing says how to authenticate.
#[test]
fn flask_by_a_probe() {
    let pages: Vec<&str> = [
        METHODS,
        BODIES,
        &["(unknown route)", "GET /boats/{id}", "DELETE /boats/{id}", "GET /boats/{id}/survey"],
        &["GET /logbook"],
    ]
    .concat();
    is(
        broken("flask-marshmallow"),
        &[
            ("media.declared", &pages),
            ("status.fits-situation", BODIES),
            ("situation.requires-error", &["GET /boats/{id}/survey"]),
            ("header.challenge", &["GET /logbook"]),
        ],
    );
}

/// Malformed JSON, unknown routes and methods, and what is thrown are pages, the first and the last with a trace; a method that
/// is not offered is an unknown route; text is read as a body that lacks everything; the survey throws; nothing says how
/// to authenticate.
#[test]
fn express_by_a_probe() {
    let survey = "GET /boats/{id}/survey";
    let pages: Vec<&str> = [METHODS, BODIES, &["(unknown route)", survey]].concat();
    let traces: Vec<&str> = [BODIES, &[survey]].concat();
    is(
        broken("express-zod"),
        &[
            ("media.declared", &pages),
            ("disclosure.stack-trace", &traces),
            ("status.fits-situation", &[METHODS, BODIES].concat()),
            ("situation.valid-served", &[survey]),
            ("header.challenge", &["GET /logbook"]),
        ],
    );
}

/// Problem details throughout. But text is read as JSON, numbers in texts are taken for numbers and the other way
/// round, and the survey never looks whether there is such a boat.
#[test]
fn litestar_by_a_probe() {
    is(
        broken("litestar-problem"),
        &[
            ("status.fits-situation", BODIES),
            ("situation.requires-error", &[BODIES, &["GET /boats/{id}/survey"]].concat()),
        ],
    );
}
