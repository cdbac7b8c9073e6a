//! `fclerk record … -- COMMAND`: a test suite is recorded by one command, and ends as the suite does, or as the check does.

use std::process::{Command, Stdio};

use serde_json::Value;

use crate::harness::Project;
use crate::script::Script;

pub(crate) const CONTRACT: &str = r#"contract = 1
servers = ["/"]
[fault.none]
status = 404
when = ["resource-not-found"]
[everywhere]
faults = ["none"]
[endpoint."GET /boats/{id}"]
success = [200]
"#;

/// A service of one boat, whose error is not the agreed one where it is asked for 13.
fn service() -> Script {
    Script::responding(|request| {
        let text = String::from_utf8_lossy(request).into_owned();
        let (status, body) = match text.split(' ').nth(1).unwrap() {
            "/boats/1" => ("200 OK", "{\"id\":1}"),
            "/boats/13" => (
                "500 Internal Server Error",
                "{\"title\":\"Internal Server Error\",\"status\":500}",
            ),
            _ => ("404 Not Found", "{\"title\":\"Not Found\",\"status\":404}"),
        };
        let length = body.len();
        format!("HTTP/1.1 {status}\r\nContent-Type: application/json\r\nContent-Length: {length}\r\n\r\n{body}").into_bytes()
    })
}

const PYTHON: &str = r#"
import os, sys, unittest, urllib.error, urllib.request

class Boats(unittest.TestCase):
    def status(self, path):
        try:
            return urllib.request.urlopen(os.environ["SERVICE_URL"] + path).status
        except urllib.error.HTTPError as error:
            return error.code

    def test_one(self):
        self.assertEqual(self.status("/boats/1"), 200)

    def test_none(self):
        self.assertEqual(self.status("/boats/9"), 404)

    def test_other(self):
        if os.environ.get("OTHER"):
            self.assertEqual(self.status("/boats/13"), int(os.environ["OTHER"]))

if __name__ == "__main__":
    unittest.main(argv=[sys.argv[0]])
"#;

const NODE: &str = r#"
const test = require("node:test"), assert = require("node:assert"), http = require("node:http");
const base = process.argv[2];
const status = path => new Promise((done, fail) =>
  http.get(base + path, response => { response.resume(); done(response.statusCode); }).on("error", fail));
test("one", async () => assert.equal(await status("/boats/1"), 200));
test("none", async () => assert.equal(await status("/boats/9"), 404));
"#;

fn has(program: &str) -> bool {
    let mut asked = Command::new(program);
    asked.arg("--version").stdout(Stdio::null()).stderr(Stdio::null());
    let is_there = asked.status().is_ok_and(|status| status.success());
    if !is_there {
        println!("skipped: there is no {program} here");
    }
    is_there
}

fn statuses(project: &Project, name: &str) -> Vec<u64> {
    let text = std::fs::read_to_string(project.path().join(name)).unwrap();
    let status = |line: &str| {
        serde_json::from_str::<Value>(line).unwrap()["response"]["status"].as_u64().unwrap()
    };
    let mut all: Vec<u64> = text.lines().map(status).collect();
    all.sort_unstable();
    all
}

#[test]
fn a_python_suite_is_recorded_and_ends_as_it_does_or_as_the_check_does() {
    if !has("python3") {
        return;
    }
    let service = service();
    let project = Project::new();
    project.write("suite.py", PYTHON);
    project.write("error-contract.toml", CONTRACT);
    let record = |output: &str, more: &str, other: Option<&str>| {
        let call = format!(
            "record --upstream http://{} --output {output} {more} -- python3 suite.py",
            service.address
        );
        let mut command = project.command(&call);
        if let Some(other) = other {
            command.env("OTHER", other);
        }
        let run = command.output().unwrap();
        let text = |bytes: Vec<u8>| String::from_utf8_lossy(&bytes).into_owned();
        crate::harness::Run::of(&call, run.status.code(), text(run.stdout), text(run.stderr))
    };
    let run = record("a.jsonl", "", None).exits(0).complains("2 exchanges are in a.jsonl");
    // What the suite says is passed on.
    assert!(run.stderr.contains("Ran 3 tests"), "{run}");
    assert_eq!(statuses(&project, "a.jsonl"), [200, 404]);
    // The suite's own failure.
    record("b.jsonl", "", Some("404")).exits(1).complains("FAILED");
    assert_eq!(statuses(&project, "b.jsonl"), [200, 404, 500]);
    // It passes, and the check does not; then it is the check's code, and what was asked for is written.
    let with = "--contract error-contract.toml --report json=check.json --report junit=check.xml";
    let run = record("c.jsonl", with, Some("500")).exits(1);
    run.says("status.declared").complains("OK");
    let check: Value =
        serde_json::from_slice(&std::fs::read(project.path().join("check.json")).unwrap()).unwrap();
    assert_eq!(check["totals"]["checked"], 3);
    assert!(project.path().join("check.xml").is_file());
    record("d.jsonl", "--contract error-contract.toml", None).exits(0).says("2 exchanges checked");
    // The suite fails, and that is its code, whatever the check says.
    record("e.jsonl", "--contract error-contract.toml", Some("200")).exits(1).complains("FAILED");
}

#[test]
fn a_suite_of_pytest_is_recorded() {
    let python = crate::frameworks::room("flask-marshmallow").join("env/bin/python");
    if !python.parent().is_some_and(|folder| folder.join("pytest").exists()) {
        println!("skipped: there is no pytest in {}", python.display());
        return;
    }
    let service = service();
    let project = Project::new();
    project.write("test_boats.py", PYTHON);
    project.write("error-contract.toml", CONTRACT);
    let call = format!(
        "record --upstream http://{} --output a.jsonl --contract error-contract.toml -- {} -m pytest -q",
        service.address,
        python.display()
    );
    let run = project.run(&call).exits(0).says("3 passed").says("2 exchanges checked");
    assert_eq!(statuses(&project, "a.jsonl"), [200, 404], "{run}");
}

#[test]
fn a_node_suite_is_recorded_by_its_argument() {
    if !has("node") {
        return;
    }
    let service = service();
    let project = Project::new();
    project.write("suite.js", NODE);
    let call = format!(
        "record --upstream http://{} --output a.har -- node suite.js {{url}}",
        service.address
    );
    project.run(&call).exits(0);
    let har: Value =
        serde_json::from_slice(&std::fs::read(project.path().join("a.har")).unwrap()).unwrap();
    assert_eq!(har["log"]["entries"].as_array().unwrap().len(), 2);
}

#[test]
fn the_command_is_started_told_and_waited_for() {
    let service = service();
    let project = Project::new();
    let record = |output: &str, more: &str| {
        format!("record --upstream http://{} --output {output} {more}", service.address)
    };
    // Its code, also by a signal; and the name of the variable.
    let run = |output: &str, more: &str, script: &str| {
        project.write("script.sh", script);
        project.run(&format!("{} -- sh script.sh", record(output, more)))
    };
    run("a.jsonl", "", "exit 42").exits(42);
    run("b.jsonl", "", "kill -9 $$").exits(128 + 9);
    run("c.jsonl", "--env BASE", "case $BASE in http://127.0.0.1:*) exit 0;; esac; exit 9")
        .exits(0);
    run("d.jsonl", "--env A=B", "exit 0").exits(2).complains("can't be the name of a variable");
    // A command that is not there leaves no recording.
    project
        .run(&format!("{} -- no-such-command", record("e.jsonl", "")))
        .exits(2)
        .complains("can't run no-such-command");
    assert!(!project.path().join("e.jsonl").exists() && !project.path().join("d.jsonl").exists());
    project
        .run(&record("f.jsonl", "--report json=x.json"))
        .exits(2)
        .complains("name it with --contract FILE or --openapi FILE");
    // Who ends the recorder ends the command, which may have something to clean up.
    project.write(
        "wait.sh",
        "trap 'echo gone >ended; exit 3' TERM; echo on >begun; while :; do sleep 0.05; done",
    );
    let mut command = project.command(&format!("{} -- sh wait.sh", record("g.jsonl", "")));
    let mut recorder = command.stderr(Stdio::null()).spawn().unwrap();
    let is_there = |name: &str| {
        for _ in 0..200 {
            if project.path().join(name).exists() {
                return true;
            }
            std::thread::sleep(std::time::Duration::from_millis(25));
        }
        false
    };
    assert!(is_there("begun"));
    let id = recorder.id().to_string();
    assert!(Command::new("kill").args(["-TERM", &id]).status().unwrap().success());
    assert_eq!(recorder.wait().unwrap().code(), Some(3));
    assert!(is_there("ended"));
}

/// Several services at once: each is recorded at an address of its own, and the command knows all of them.
#[test]
fn several_services_are_recorded_into_one_file() {
    const ASK: &str = "import os, sys, urllib.request\n\
        assert os.environ['SERVICE_URL'] == os.environ['SERVICE_URL_BOATS'] == sys.argv[1]\n\
        assert os.environ['SERVICE_URL_TIDE_TABLE'] == sys.argv[2] != sys.argv[1]\n\
        for url in sys.argv[1:]:\n    urllib.request.urlopen(url + '/boats/1').read()\n";
    if !has("python3") {
        return;
    }
    let (boats, tides) = (service(), service());
    let project = Project::new();
    project.write("ask.py", ASK);
    let call = |first: &str, second: &str, output: &str| {
        format!(
            "record --upstream {first}http://{} --upstream {second}http://{} --output {output}",
            boats.address, tides.address
        )
    };
    let record = call("boats=", "tide-table=", "a.jsonl");
    project
        .run(&format!("{record} -- python3 ask.py {{url:boats}} {{url:tide-table}}"))
        .exits(0)
        .complains("2 exchanges are in a.jsonl");
    let text = std::fs::read_to_string(project.path().join("a.jsonl")).unwrap();
    for address in [&boats.address, &tides.address] {
        assert_eq!(text.matches(&format!("http://{address}/boats/1")).count(), 1, "{text}");
    }
    let refused = |first: &str, second: &str, why: &str| {
        project.run(&call(first, second, "b.jsonl")).exits(2).complains(why);
    };
    refused("", "tides=", "several services need names");
    refused("a=", "a=", "two services are called a");
    refused("1=", "b=", "the scheme 1=http is not supported");
}
