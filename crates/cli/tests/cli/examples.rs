//! The scripts of `examples`, run on the demo's recordings, and what the documentation says of them.

use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

use serde_json::Value;

use crate::harbour::Served;
use crate::harness::Project;

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

fn demo() -> Project {
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    project
}

/// Runs an example in the project's folder; gives its exit code.
#[track_caller]
fn run(project: &Project, name: &str, arguments: &[&str]) -> Option<i32> {
    let folder = Path::new(env!("CARGO_BIN_EXE_fclerk")).parent().unwrap();
    let path = std::env::var("PATH").unwrap_or_default();
    let output = Command::new("sh")
        .arg(root().join("examples").join(name))
        .args(arguments)
        .current_dir(project.path())
        .env("PATH", format!("{}:{path}", folder.display()))
        .output()
        .unwrap();
    // How much was recorded is told there, and why nothing could be.
    let is_told = |line: &&str| !line.ends_with("are in suite.jsonl");
    let stderr = String::from_utf8_lossy(&output.stderr);
    let others: Vec<&str> = stderr.lines().filter(is_told).collect();
    assert!(others.is_empty() || output.status.code() == Some(2), "{name}: {stderr}");
    output.status.code()
}

fn has(project: &Project, name: &str) -> bool {
    std::fs::metadata(project.path().join(name)).is_ok_and(|file| file.len() > 100)
}

#[test]
fn the_gate_fails_and_leaves_its_reports() {
    let project = demo();
    assert_eq!(run(&project, "gate.sh", &["before.har"]), Some(1));
    for name in ["junit.xml", "findings.sarif", "comment.md", "page.html"] {
        assert!(has(&project, &format!("reports/{name}")), "{name}");
    }
}

#[test]
fn the_first_run_fails_nothing_and_the_next_only_what_is_new() {
    let project = demo();
    assert_eq!(run(&project, "since.sh", &["before.har"]), Some(0));
    std::fs::rename(
        project.path().join("reports/ledger.json"),
        project.path().join("baseline.json"),
    )
    .unwrap();
    assert_eq!(run(&project, "since.sh", &["after.har"]), Some(0));
    assert_eq!(run(&project, "since.sh", &["before.har"]), Some(0));
    std::fs::rename(project.path().join("reports/ledger.json"), project.path().join("again.json"))
        .unwrap();
    // What was fixed and breaks again is new.
    assert_eq!(run(&project, "since.sh", &["after.har"]), Some(0));
    std::fs::rename(
        project.path().join("reports/ledger.json"),
        project.path().join("baseline.json"),
    )
    .unwrap();
    assert_eq!(run(&project, "since.sh", &["before.har"]), Some(1));
}

#[test]
fn the_gate_is_on_from_the_first_day() {
    let project = demo();
    assert_eq!(run(&project, "first-day.sh", &["before.har", "2999-12-31"]), Some(0));
    project.run("check before.har").exits(0);
}

#[test]
fn shards_give_one_result() {
    let project = demo();
    assert_eq!(run(&project, "shards.sh", &["before.har", "after.har"]), Some(1));
    assert!(has(&project, "reports/junit.xml") && has(&project, "reports/page.html"));
}

/// On an engine that is installed (`tools/engines` does that), the sum of the parts is one check; where it is not, that is said.
#[test]
fn engines_give_the_result_of_one_check() {
    let python = root().join("target/engines/env/bin/python");
    let is_there = |code: &str| {
        let mut command = Command::new(&python);
        command.args(["-c", code]).stderr(Stdio::null());
        command.status().is_ok_and(|status| status.success())
    };
    for (engine, needs) in [
        ("dask", "import dask.bag"),
        ("spark", "import pyspark, shutil; assert shutil.which('java')"),
    ] {
        if !is_there(needs) {
            println!("skipped: {engine} is not installed in target/engines");
            continue;
        }
        let project = demo();
        project.run("convert --to jsonl before.har --output before.jsonl").exits(0);
        let whole = project.run("check before.jsonl --from jsonl --format json").json();
        let program = Path::new(env!("CARGO_BIN_EXE_fclerk")).parent().unwrap();
        let paths = std::env::var("PATH").unwrap_or_default();
        let mut command = Command::new(&python);
        command.arg(root().join("examples").join(format!("{engine}_check.py")));
        command.args(["before.jsonl", "--format", "json"]).current_dir(project.path());
        let output =
            command.env("PATH", format!("{}:{paths}", program.display())).output().unwrap();
        let told = String::from_utf8_lossy(&output.stderr);
        let sum: Value = serde_json::from_slice(&output.stdout)
            .unwrap_or_else(|error| panic!("{error}: {told}"));
        for member in ["totals", "clauses", "passed", "not_checked", "excluded"] {
            assert_eq!(sum[member], whole[member], "{engine}: {member}");
        }
        assert_eq!(output.status.code(), Some(1), "{engine}: {told}");
    }
}

/// The suite is a probe: it asks at the recorder's address, and the service's own is recorded.
#[test]
fn a_suite_is_recorded_and_checked() {
    let project = demo();
    let served = Served::start(&project, "after");
    let here = format!("http://{}/v1", served.address);
    let suite = "HARBOUR_TOKEN=made-up-token-of-the-harbour-office fclerk probe --base-url $SERVICE_URL --output suite-own.jsonl \
                 --only 'GET /' --rate 500 --quiet 2>suite.log";
    assert_eq!(run(&project, "record.sh", &[&here, "sh", "-c", suite]), Some(0));
    assert!(has(&project, "suite.jsonl") && has(&project, "suite.xml"));
    let recorded = std::fs::read_to_string(project.path().join("suite.jsonl")).unwrap();
    assert!(recorded.contains(&here) && !recorded.contains("made-up-token"), "{recorded}");
    // A suite that fails is what fails.
    std::fs::remove_file(project.path().join("suite.jsonl")).unwrap();
    assert_eq!(run(&project, "record.sh", &[&here, "sh", "-c", "exit 7"]), Some(7));
    // A recorder that can't begin says so, and nothing hangs.
    assert_eq!(run(&project, "record.sh", &["nowhere", "true"]), Some(2));
}

#[test]
fn the_handbook_is_published() {
    let project = demo();
    assert_eq!(run(&project, "publish.sh", &[]), Some(0));
    assert!(has(&project, "site/faults/berth-taken/index.html"));
}

#[test]
fn the_documentation_shows_the_scripts_that_are_there() {
    for (page, language, ending) in [("docs/ci.md", "sh", "sh"), ("docs/scale.md", "python", "py")]
    {
        let page = std::fs::read_to_string(root().join(page)).unwrap();
        let mut count = 0;
        for entry in std::fs::read_dir(root().join("examples")).unwrap() {
            let path = entry.unwrap().path();
            if path.extension().is_some_and(|found| found == ending) {
                let script = std::fs::read_to_string(&path).unwrap();
                let block = format!("```{language}\n{script}```\n");
                assert!(page.contains(&block), "{}", path.display());
                count += 1;
            }
        }
        assert_eq!(count, page.matches(&format!("```{language}\n")).count());
    }
}
