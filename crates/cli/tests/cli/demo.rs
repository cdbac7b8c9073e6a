//! The demo: what it writes and says, and exactly what is broken in its recordings.

use serde_json::Value;

use crate::harness::{Project, findings};

/// Written by hand from what the harbour answers, before any output was looked at: which clause is broken on
/// which exchange of `before.har`, how much it counts, and where.
const BEFORE: [(u64, &str, &str, &str); 38] = [
    (5, "disclosure.stack-trace", "breach", "body /trace/1"),
    (5, "status.fits-situation", "breach", "the status line"),
    (7, "header.allow", "breach", "header Allow"),
    (8, "media.declared", "breach", "header Content-Type"),
    (9, "media.declared", "breach", "header Content-Type"),
    (13, "exchange.complete", "note", "the exchange"),
    (16, "media.declared", "breach", "header Content-Type"),
    (16, "problem.near-miss", "breach", "body /error"),
    (16, "problem.near-miss", "breach", "body /statusCode"),
    (16, "problem.near-miss", "warning", "body /message"),
    (20, "validation.complete", "breach", "body /errors"),
    (21, "body.present", "breach", "the body"),
    (21, "header.challenge", "breach", "header WWW-Authenticate"),
    (22, "status.fits-situation", "breach", "the status line"),
    (23, "header.accept-hint", "note", "header Accept"),
    (24, "media.matches-body", "breach", "header Content-Type"),
    (27, "shape.declared", "breach", "body /errors"),
    (29, "situation.requires-error", "breach", "the status line"),
    (33, "problem.status-agrees", "breach", "body /status"),
    (34, "problem.type-declared", "breach", "body /type"),
    (35, "header.accept-hint", "note", "header Accept"),
    (39, "problem.title-declared", "breach", "body /title"),
    (42, "validation.pointer-resolves", "breach", "body /errors/0/pointer"),
    (43, "problem.type-declared", "breach", "body /type"),
    (44, "problem.required-members", "breach", "body /title"),
    (48, "situation.requires-error", "breach", "the status line"),
    (49, "body.absent", "breach", "the body"),
    (52, "problem.is-object", "breach", "the whole body"),
    (54, "media.matches-body", "breach", "the body"),
    (56, "header.allow", "breach", "header Allow"),
    (60, "shape.declared", "breach", "body /errors/0"),
    (62, "exchange.has-response", "breach", "the exchange"),
    (67, "disclosure.stack-trace", "breach", "the body"),
    (67, "media.declared", "breach", "header Content-Type"),
    (67, "situation.valid-served", "note", "the status line"),
    (68, "status.declared", "breach", "the status line"),
    (72, "problem.member-type", "breach", "body /status"),
    (73, "status.registered", "breach", "the status line"),
];

/// One thing was not fixed: of three wrong fields still only the first is reported.
const AFTER: [(u64, &str, &str, &str); 1] = [(20, "validation.complete", "breach", "body /errors")];

fn demo() -> Project {
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    project
}

fn found(project: &Project, har: &str, code: i32) -> (Value, Vec<(u64, String, String, String)>) {
    let check = project.run(&format!("check --format json {har}")).exits(code).json();
    let rows = findings(&check);
    (check, rows)
}

fn owned(rows: &[(u64, &str, &str, &str)]) -> Vec<(u64, String, String, String)> {
    rows.iter()
        .map(|(n, a, b, c)| (*n, (*a).to_owned(), (*b).to_owned(), (*c).to_owned()))
        .collect()
}

#[test]
fn before_has_exactly_the_findings_that_were_built_in() {
    let (check, rows) = found(&demo(), "before.har", 1);
    assert_eq!(rows, owned(&BEFORE));
    let totals = &check["totals"];
    let count = |name: &str| totals[name].as_u64().unwrap();
    assert_eq!((count("checked"), count("excluded"), count("unreadable")), (75, 1, 0));
    assert_eq!((count("breaches"), count("warnings"), count("notes")), (33, 1, 4));
    assert_eq!(check["not_checked"][0]["reason"], "the response is truncated");
}

#[test]
fn after_has_the_one_thing_that_was_not_fixed() {
    let (_, rows) = found(&demo(), "after.har", 1);
    assert_eq!(rows, owned(&AFTER));
}

#[test]
fn the_demo_leads_through_the_job_on_a_live_service_in_short() {
    let project = Project::new();
    let run = project.run("demo").exits(0).says("The same in full");
    // It leads through the commands in the order in which one would use them.
    let steps =
        ["probe", "survey", "check", "show", "probe", "check", "compare", "compare", "coverage"];
    let led: Vec<&str> = run
        .stdout
        .lines()
        .filter_map(|line| line.strip_prefix("$ fclerk ")?.split(' ').next())
        .collect();
    assert_eq!(led, steps, "{run}");
    let run = run
        .says("218 exchanges checked; 111 breaches")
        .says("500 Internal Server Error")
        .says("breach   validation.complete                probe-after.jsonl#")
        .says("216 exchanges checked; 2 breaches; ")
        .says("regressed: no longer has /depth_m");
    let folder = project.path().join("saltmarsh-harbour");
    for name in ["error-contract.toml", "before.har", "after.har", "probe-before.jsonl"] {
        assert!(folder.join(name).is_file(), "{name}");
    }
    // The same in full runs as it is printed, on a free port.
    let listed = run.stdout.split("The same in full, in a shell:\n").nth(1).unwrap();
    let listed: Vec<&str> = listed.lines().take_while(|line| !line.is_empty()).collect();
    let port = free_port().to_string();
    let script: Vec<String> = listed
        .iter()
        .map(|line| {
            let line = line.trim().replace("7878", &port);
            let line = line.replace(" --serve before", &format!(" --serve before --port {port}"));
            let line = line.replace(" --serve after", &format!(" --serve after --port {port}"));
            match line.ends_with('&') || line.starts_with("kill") {
                true => line,
                // A check that finds something exits with 1.
                false => format!("{line} || test $? -eq 1 || {{ echo failed: '{line}'; exit 9; }}"),
            }
        })
        .collect();
    assert_eq!(script.len(), steps.len() + 8, "{script:#?}");
    let output = std::process::Command::new("sh")
        .args(["-c", &script.join("\n")])
        .current_dir(project.path())
        .output()
        .unwrap();
    let text = String::from_utf8_lossy(&output.stdout);
    assert!(output.status.success() && !text.contains("failed: "), "{output:?}");
    assert!(text.contains("218 exchanges checked; 111 breaches"), "{text}");
    assert!(text.contains("regressed: no longer has /depth_m"), "{text}");
    // Again, over what it wrote itself.
    project.run("demo").exits(0);
}

/// A port that nobody listens on now.
fn free_port() -> u16 {
    std::net::TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port()
}

/// What holds no secret is for whom the umask says; a recording is for its owner.
#[cfg(unix)]
#[test]
fn new_files_are_readable_by_the_umask_and_recordings_by_their_owner() {
    use std::os::unix::fs::PermissionsExt as _;
    let project = Project::new();
    let program = env!("CARGO_BIN_EXE_fclerk");
    let script = [
        "umask 027",
        "F demo --files-only --output .",
        "F check before.har -q --report html=page.html --report findings=f.jsonl --report ledger=l.json",
        "F draft before.har --output drafted.toml",
        "F scrub before.har --output scrubbed.har",
        "F handbook --output book",
        "F convert before.har --to jsonl --output copy.jsonl",
        "true",
    ]
    .map(|line| line.replace("F ", &format!("{program} ")));
    let output = std::process::Command::new("sh")
        .args(["-c", &script.join("\n")])
        .current_dir(project.path())
        .output()
        .unwrap();
    assert!(output.status.success(), "{output:?}");
    let mode = |name: &str| {
        let path = project.path().join(name);
        std::fs::metadata(&path).unwrap_or_else(|_| panic!("{name}")).permissions().mode() & 0o777
    };
    for name in [
        "before.har",
        "error-contract.toml",
        "page.html",
        "f.jsonl",
        "l.json",
        "drafted.toml",
        "scrubbed.har",
    ] {
        assert_eq!(mode(name), 0o640, "{name}");
    }
    assert_eq!(mode("copy.jsonl"), 0o600);
    let mut pages = std::fs::read_dir(project.path().join("book")).unwrap();
    let page =
        pages.find_map(|entry| Some(entry.ok()?.path()).filter(|path| path.is_file())).unwrap();
    assert_eq!(std::fs::metadata(page).unwrap().permissions().mode() & 0o777, 0o640);
}

#[test]
fn the_files_alone_can_be_had() {
    let project = Project::new();
    project.run("demo --files-only").exits(0).complains("are in saltmarsh-harbour");
    assert!(!project.path().join("saltmarsh-harbour/probe-before.jsonl").exists());
    project.run("demo --files-only --serve before").exits(2);
}

#[test]
fn a_file_that_was_changed_is_left_as_it_is() {
    let project = demo();
    project.write("error-contract.toml", "contract = 1\n");
    project
        .run("demo --files-only --output .")
        .exits(0)
        .complains("error-contract.toml was changed");
    let kept = std::fs::read_to_string(project.path().join("error-contract.toml")).unwrap();
    assert_eq!(kept, "contract = 1\n");
}

#[test]
fn a_folder_that_cannot_be_made_is_said() {
    let project = Project::new();
    project.write("file", "");
    project.run("demo --output file/x").exits(2).complains("can't write");
}
