//! Calls that go wrong in usual ways: each says what it is and what to do, at once, and does nothing else.

use crate::harness::Project;
use faithful_clerk_check::clauses::HARBOUR;

const DESCRIPTION: &str = "openapi: 3.1.0\ninfo: {title: Harbour, version: \"1\"}\npaths: {}\n";

fn project() -> Project {
    let project = Project::with(HARBOUR, &[]);
    project.write("api.yaml", DESCRIPTION);
    project.write("api.json", r#"{"info":{},"openapi":"3.1.0","paths":{}}"#);
    project.write("api.json.gz", b"\x1f\x8b\x08\x00rest");
    project.write("all.zip", b"PK\x03\x04rest");
    let utf16: Vec<u8> = "\u{feff}{}".encode_utf16().flat_map(u16::to_le_bytes).collect();
    project.write("utf16.har", &utf16);
    project.write("utf16.toml", &utf16);
    project.write("no-file.toml", "contract = 1\nopenapi = \"gone.yaml\"\n");
    project.write("packed.toml", "contract = 1\nopenapi = \"api.json.gz\"\n");
    let twice = "[endpoint.\"GET /berths\"]\n";
    project.write("twice.toml", format!("contract = 1\n{twice}\n{twice}"));
    let key = "[error]\nmedia = \"application/json\"\nshape = \"problem\"\nmedia = \"text/html\"\n";
    project.write("key-twice.toml", format!("contract = 1\n{key}"));
    project
}

#[test]
fn each_says_what_it_is_and_what_to_do() {
    let project = project();
    for (call, words) in [
        // One file in the place of another.
        ("check a.har --contract api.yaml", "api.yaml is an OpenAPI description, not a contract"),
        (
            "check a.har --contract api.json",
            "draft one with `fclerk draft RECORDING --openapi api.json`",
        ),
        (
            "check a.har --contract a.har",
            "a.har is a recording, not a contract; draft a contract from it",
        ),
        ("check error-contract.toml", "error-contract.toml is a contract, not a recording"),
        ("check api.yaml", "api.yaml is an OpenAPI description, not a recording"),
        ("survey all.zip", "all.zip is a ZIP archive; unpack it"),
        ("check utf16.har", "utf16.har is UTF-16, and recordings are UTF-8"),
        ("check a.har --contract utf16.toml", "utf16.toml is UTF-16, and a contract is UTF-8"),
        ("check a.har --contract all.zip", "all.zip is compressed; a contract is plain text"),
        // Descriptions.
        ("check a.har --contract no-file.toml", "gone.yaml: No such file"),
        ("check a.har --contract packed.toml", "api.json.gz: it is compressed; unpack it first"),
        (
            "survey a.har --openapi gone.yaml",
            "can't read the OpenAPI description gone.yaml: No such file",
        ),
        ("draft a.har --openapi api.json.gz", "it is compressed; unpack it first"),
        // Values.
        (
            "check a.har --write-waivers w.toml --reason x --until 31.05.2027",
            "did you mean 2027-05-31?",
        ),
        (
            "record --upstream http://127.0.0.1:1 --output r.har --listen 8080",
            "did you mean 127.0.0.1:8080?",
        ),
        ("record --upstream 127.0.0.1:5101 --output r.har", "did you mean http://127.0.0.1:5101?"),
        ("probe --base-url 127.0.0.1:5101", "did you mean http://127.0.0.1:5101?"),
        (
            "probe --base-url http://127.0.0.1:1",
            "Connection refused (os error 111); is the service running?",
        ),
        // Options and commands of other tools.
        ("check a.har --json", "here it is written `--format json`"),
        ("check a.har --since old.json", "here it is written `--baseline LEDGER`"),
        ("check a.har --base-line old.json", "'--baseline'"),
        ("check a.har --severity note", "here it is written `--fail-on SEVERITY`"),
        ("lint a.har", "'check'"),
        ("validate a.har", "'check'"),
        ("diff a.har b.har", "'compare'"),
        ("proxy", "'record'"),
        // Names.
        (
            "probe --dry-run --only berhts",
            "no planned request has --only `berhts` in its name; did you mean",
        ),
        ("probe --dry-run --skip nothing-like-it", "`--dry-run` lists the names"),
        ("probe --dry-run --set idd=A-3", "no path has the parameter `idd`; did you mean `id`?"),
        ("explain problem.status-agree", "did you mean `problem.status-agrees`?"),
        ("explain unknown-rout", "did you mean `unknown-route`?"),
        // What is declared twice.
        ("check --contract-only --contract twice.toml", "first declared here"),
        ("check --contract-only --contract key-twice.toml", "first declared here"),
    ] {
        let run = project.run(call).exits(2).complains(words);
        assert!(run.stdout.is_empty(), "{run}");
    }
    let run = project.run("probe --base-url http://127.0.0.1:1").exits(2);
    assert_eq!(run.stderr.lines().count(), 1, "{run}");
    assert!(!project.path().join("probe.jsonl").exists());
    // No line of a contract is made up for a file that an option names.
    let run = project.run("survey a.har --openapi gone.yaml");
    assert!(!run.stderr.contains("openapi ="), "{run}");
    let run = project.run("check --contract-only --contract twice.toml");
    assert!(run.stderr.contains("2 │") && run.stderr.contains("4 │"), "{run}");
}

#[test]
fn a_contract_can_be_read_by_itself() {
    let project = project();
    project
        .run("check --contract-only")
        .exits(0)
        .says("error-contract.toml: no errors; 3 endpoints, ");
    project
        .write("odd.toml", "contract = 1\n[shape.unused]\nx = \"string\"\n[endpoint.\"GET /a\"]\n");
    project.run("check --contract-only --contract odd.toml").exits(0).complains("warning");
    project.write("bad.toml", "contract = 1\n[endpoint.\"GET a\"]\nsucess = [200]\n");
    let run = project.run("check --contract-only --contract bad.toml").exits(2);
    run.complains("this is not a path template").complains("unknown key `sucess`");
    project.run("check --contract-only a.har").exits(2);
    // What helps to write it, and how it is understood.
    project.write(
        "begun.toml",
        "contract = 1\n[fault.none]\nstatus = 404\nwhen = [\"unknown-route\"]\n[everywhere]\nfaults = [\"none\"]\n\
         [fault.invalid]\nstatus = 422\nwhen = [\"invalid-body\"]\n\
         [endpoint.\"GET /berths/{id}\"]\nfaults = [\"invalid\"]\n",
    );
    let run = project.run("check --contract-only --contract begun.toml").exits(0);
    let run = run.says("GET /berths/{id}  resource-not-found").says("invalid  GET /berths/{id}");
    assert!(!run.stdout.contains("named by"), "{run}");
    let run = project.run("check --contract-only --resolved --contract begun.toml").exits(0);
    run.says("unknown-route  none      404  [everywhere], line 6");
    project.run("check --contract-only --quiet --contract begun.toml").exits(0).says("");
    project.run("check --resolved a.har").exits(2);
}

#[test]
fn families_situations_and_keys_are_explained() {
    let project = project();
    for (name, words) in [
        ("validation", "validation.pointer-resolves"),
        ("problem", "problem.status-agrees"),
        ("unknown-route", "no endpoint has it"),
        ("conflict", "a case of the contract declares it"),
        ("when", "fault.NAME.when   a key of contracts"),
        ("any-request", "Is it allowed for every request"),
        ("fault.NAME.internal", "the service's own failure"),
        ("trailing-slash", "Values: \"distinct\", \"ignored\""),
        // A family and a key.
        ("status", "status.fits-situation"),
        ("status", "fault.NAME.status"),
        // A fault of the contract here.
        ("no-such-berth", "a fault of error-contract.toml, line "),
        ("no-such-berth", "  status    404\n"),
        ("no-such-berth", "  when      resource-not-found\n"),
    ] {
        project.run(&format!("explain {name}")).exits(0).says(words);
    }
    let schema = project.run("explain --contract-schema").exits(0).stdout;
    let page = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/contract.schema.json");
    assert_eq!(schema, std::fs::read_to_string(page).unwrap());
}
