//! `fclerk check`: what it checks, what it says, how it ends.

use std::io::Read as _;
use std::process::Stdio;

use faithful_clerk_check::clauses::HARBOUR;
use serde_json::{Value, json};

use crate::harness::{Project, findings, got, har, sent};

const PROBLEM: &str = "application/problem+json";
const TOKEN: &[(&str, &str)] = &[("Authorization", "Bearer made-up")];

fn berth() -> Value {
    got("GET", "/berths/A-3", 200, "application/json", r#"{"id":"A-3"}"#)
}

fn no_berth() -> Value {
    let body = json!({"type": "https://harbour.example/faults/no-such-berth",
                      "title": "There is no such berth", "status": 404});
    got("GET", "/berths/Z-99", 404, PROBLEM, &body.to_string())
}

fn page() -> Value {
    got("GET", "/nowhere", 404, "text/html", "<h1>Not Found</h1>")
}

/// The clauses broken, in order, of one exchange.
#[track_caller]
fn broken(contract: &str, exchange: Value) -> Vec<String> {
    let check = Project::with(contract, &[exchange]).checked();
    findings(&check).into_iter().map(|row| row.1).collect()
}

#[test]
fn the_exit_code_says_how_it_went() {
    let project = Project::with(HARBOUR, &[berth(), no_berth()]);
    project.write("broken.har", har(&[page()]));
    project.write("lossy.har", har(&[berth(), json!({"request": 1}), page()]));
    project.run("check a.har").exits(0).says("the contract is met");
    project.run("check broken.har").exits(1).says("the contract is broken");
    project.run("check lossy.har").exits(3).complains("lossy.har#2, byte ").says("1 unreadable");
    project.run("check a.har nowhere.har").exits(2).complains("nowhere.har").says("2 exchanges");
    project.run("check lossy.har nowhere.har").exits(2);
    project.run("check --contract none.toml a.har").exits(2).complains("fclerk demo");
    project.run("check").exits(2).complains("RECORDING");
}

/// No pass is claimed that was not seen.
#[test]
fn what_was_not_read_or_not_judged_is_not_called_kept() {
    let project = Project::with(HARBOUR, &[berth(), json!(17)]);
    let elsewhere = json!({"request": {"method": "GET", "url": "https://fonts.example/x"}});
    project.write("empty.har", "");
    project.write("elsewhere.har", har(&[elsewhere]));
    project.write("lost.har", har(&[json!(1), json!(2)]));
    for (name, code, words) in [
        ("a.har", 3, "1 unreadable; 0 breaches; "),
        ("a.har", 3, "the contract is met in what could be read"),
        ("empty.har", 3, "0 of 0 clauses met: nothing was checked"),
        ("elsewhere.har", 2, "0 of 0 clauses met: nothing was checked"),
        ("lost.har", 3, "2 unreadable; "),
    ] {
        let run = project.run(&format!("check {name}")).exits(code);
        // The line may be wrapped.
        assert!(run.stdout.replace('\n', " ").contains(words), "{words}\n{run}");
        // Nor is the page green, with a gate or without one.
        for gate in ["", "--fail-on warning"] {
            project.run(&format!("check {name} {gate} -q --report html=a.html")).exits(code);
            let page = std::fs::read_to_string(project.path().join("a.html")).unwrap();
            let verdict = page.lines().find(|line| line.contains("class=\"verdict")).unwrap();
            assert!(
                !verdict.contains("good") && !verdict.contains('✓'),
                "{name} {gate}: {verdict}"
            );
        }
    }
    assert_eq!(project.checked()["passed"], false);
    project.write("a.har", har(&[berth()]));
    project.run("check a.har -q --report html=a.html").exits(0);
    let page = std::fs::read_to_string(project.path().join("a.html")).unwrap();
    assert!(page.contains("✓</span> The contract is met</p>"), "{page:.2000}");
}

#[test]
fn warnings_and_notes_are_allowed() {
    let contract = format!("{HARBOUR}\n[severity]\n\"media.declared\" = \"warning\"\n");
    Project::with(&contract, &[page()]).run("check a.har").exits(0).says("0 breaches, 1 warning");
    let contract = format!("{HARBOUR}\n[severity]\n\"media.declared\" = \"off\"\n");
    Project::with(&contract, &[page()]).run("check a.har").exits(0).says("0 breaches;");
}

#[test]
fn files_folders_and_standard_input_are_read_in_order() {
    let project = Project::with(HARBOUR, &[berth()]);
    project.write("folder/b.har", har(&[page()]));
    project.write("folder/deep/c.HAR", har(&[berth(), page()]));
    project.write("folder/notes.txt", "not a recording");
    let input = std::fs::File::open(project.write("stdin", har(&[page()]))).unwrap();
    let run = project.run_with("check --format json a.har folder -", input).exits(1);
    let check = run.json();
    assert_eq!(check["recordings"], json!(["a.har", "folder/b.har", "folder/deep/c.HAR", "-"]));
    assert_eq!(check["totals"]["checked"], 5);
    let addresses = &check["findings"][0]["addresses"];
    assert_eq!(*addresses, json!(["folder/b.har#1", "folder/deep/c.HAR#2", "-#1"]));
}

#[test]
fn equal_findings_are_one_entry_with_the_first_addresses() {
    let project = Project::with(HARBOUR, &vec![page(); 9]);
    project
        .run("check a.har")
        .exits(1)
        .says("media.declared                     a.har#1 #2 #3 #4 #5 and 4 more")
        .says("9 breaches;");
}

#[test]
fn the_same_bytes_come_from_any_number_of_threads() {
    let mut exchanges = Vec::new();
    for number in 0..3000 {
        exchanges.push(match number % 4 {
            0 => berth(),
            1 => page(),
            2 => got("GET", "/berths/A-3", 404, PROBLEM, &format!("{{\"title\":\"no {number}\"}}")),
            _ => json!({"request": {"method": "GET"}}),
        });
    }
    let project = Project::with(HARBOUR, &exchanges);
    for format in ["json", "text"] {
        let one = project.run(&format!("check --threads 1 --format {format} a.har")).exits(3);
        for threads in [2, 8] {
            let many = project.run(&format!("check --threads {threads} --format {format} a.har"));
            assert_eq!((&many.stdout, &many.stderr), (&one.stdout, &one.stderr));
        }
    }
}

#[test]
fn the_text_is_the_grid_then_the_findings_then_the_totals() {
    let project = Project::with(HARBOUR, &[berth(), no_berth(), page()]);
    let run = project.run("check a.har").exits(1);
    insta::assert_snapshot!(run.stdout);
}

#[test]
fn lines_fit_the_width_that_is_asked_for() {
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    for width in [80, 120, 160] {
        let mut command = project.command("check before.har");
        let output = command.env("COLUMNS", width.to_string()).output().unwrap();
        for line in String::from_utf8(output.stdout).unwrap().lines() {
            let is_one_word = !line.trim().contains(' ');
            assert!(line.chars().count() <= width || is_one_word, "{width}: {line}");
        }
    }
}

#[test]
fn colour_is_for_terminals_or_on_demand() {
    let project = Project::with(HARBOUR, &[page()]);
    assert!(!project.run("check a.har").stdout.contains('\u{1b}'));
    project.run("check --color always a.har").says("\u{1b}[");
    let output = project.command("check --color auto a.har").env("NO_COLOR", "1").output().unwrap();
    assert!(!output.stdout.contains(&0x1b));
}

#[test]
fn the_json_has_what_its_documentation_names() {
    let project = Project::with(HARBOUR, &[page(), berth()]);
    let check = project.checked();
    let names: Vec<&str> = check.as_object().unwrap().keys().map(String::as_str).collect();
    assert_eq!(
        names,
        [
            "format",
            "version",
            "service",
            "passed",
            "recordings",
            "totals",
            "gate",
            "grid",
            "findings",
            "more",
            "waivers",
            "clauses",
            "excluded",
            "not_checked",
            "unreadable",
            "without_credentials",
            "bounds"
        ]
    );
    assert_eq!((&check["format"], &check["version"]), (&json!("fclerk check"), &json!(1)));
    let row = &check["grid"][0];
    assert_eq!(row["endpoint"], "GET /berths/{id}");
    assert_eq!(
        row["cells"][0],
        json!({"situation": null, "mark": "met", "met": 1, "broken": 0, "not_checked": 0, "from_comparison": 0})
    );
    let fingerprint = check["findings"][0]["fingerprint"].clone();
    assert_eq!(fingerprint.as_str().map(str::len), Some(16));
    assert_eq!(
        check["findings"][0],
        json!({
            "fingerprint": fingerprint, "known": false, "clause": "media.declared", "severity": "breach", "endpoint": "(unknown route)",
            "location": "header Content-Type", "pointer": null, "expected": PROBLEM, "got": "text/html",
            "because": null, "source": "the contract's `media`, line 6",
            "not_checked": "the members of the body", "conforming": null, "count": 1, "addresses": ["a.har#1"],
        })
    );
}

#[test]
fn one_root_is_one_finding() {
    for (exchange, clauses) in [
        (page(), &["media.declared"][..]),
        (got("GET", "/nowhere", 404, PROBLEM, "<h1>Not Found</h1>"), &["media.matches-body"]),
        (got("GET", "/nowhere", 404, "application/json", "Not Found"), &["media.matches-body"]),
        (got("GET", "/nowhere", 404, "application/json", "<p>no"), &["media.matches-body"]),
        (got("GET", "/nowhere", 404, "text/plain", "Not Found"), &["media.declared"]),
        (got("GET", "/nowhere", 404, PROBLEM, ""), &["body.present"]),
        (got("GET", "/nowhere", 404, PROBLEM, "[]"), &["problem.is-object"]),
        (got("GET", "/nowhere", 404, PROBLEM, "{\"title\":"), &["media.matches-body"]),
        (got("GET", "/berths/A-3", 520, PROBLEM, "{\"status\":520}"), &["status.registered"]),
        (
            got(
                "GET",
                "/nowhere",
                404,
                "application/json",
                r#"{"title":"Not Found","status":404}"#,
            ),
            &["media.declared"],
        ),
    ] {
        assert_eq!(broken(HARBOUR, exchange.clone()), clauses, "{exchange}");
    }
}

#[test]
fn the_situation_is_known_from_the_request() {
    let good = r#"{"vessel_id":"OB1234","nights":2}"#;
    let wrong = r#"{"vessel_id":"OB1234","nights":29}"#;
    let contract = HARBOUR.replace(
        "auth = \"required\"\n",
        "auth = \"required\"\naccepts = [\"application/json\"]\n",
    );
    // The last exchange shows that the recording holds credentials at all.
    let seen = |method: &str, path: &str, headers: &[(&str, &str)], body: Option<&str>| {
        let exchange = sent(method, path, headers, body, 418, PROBLEM, "{}");
        let known = sent("POST", "/reservations", TOKEN, Some(good), 201, "application/json", "{}");
        let check = Project::with(&contract, &[exchange, known]).checked();
        let mut columns = Vec::new();
        for row in check["grid"].as_array().unwrap() {
            for cell in row["cells"].as_array().unwrap() {
                if cell["broken"].as_u64() != Some(0) {
                    columns.push(cell["situation"].as_str().unwrap_or("valid").to_owned());
                }
            }
        }
        columns.join(", ")
    };
    let typed = |media| [("Authorization", "Bearer made-up"), ("Content-Type", media)];
    assert_eq!(seen("GET", "/boats", &[], None), "unknown-route");
    assert_eq!(seen("GET", "/berths/A-3/", &[], None), "unknown-route");
    assert_eq!(seen("GET", "/Berths/A-3", &[], None), "unknown-route");
    assert_eq!(seen("PUT", "/berths/A-3", &[], None), "method-not-allowed");
    assert_eq!(seen("GET", "/%62erths/A%2F3?x=/y", &[], None), "valid");
    assert_eq!(seen("POST", "/reservations", &[], Some(good)), "missing-credentials");
    assert_eq!(
        seen("POST", "/reservations", &typed("text/plain"), Some(good)),
        "unsupported-media-type"
    );
    assert_eq!(seen("POST", "/reservations", TOKEN, None), "missing-body");
    assert_eq!(seen("POST", "/reservations", TOKEN, Some("{\"nights\":")), "malformed-body");
    assert_eq!(seen("POST", "/reservations", TOKEN, Some(wrong)), "invalid-body");
    assert_eq!(seen("POST", "/reservations", TOKEN, Some("[]")), "invalid-body");
    assert_eq!(seen("POST", "/reservations", TOKEN, Some("null")), "invalid-body");
    assert_eq!(
        seen("POST", "/reservations", &typed("application/json;charset=utf-8"), Some(good)),
        "valid"
    );
}

#[test]
fn a_servers_own_fault_never_excuses_what_the_request_shows() {
    let failed = r#"{"title":"Internal Server Error","status":500}"#;
    let wrong = sent("POST", "/reservations", TOKEN, Some("{"), 500, PROBLEM, failed);
    assert_eq!(broken(HARBOUR, wrong), ["status.fits-situation"]);
    let in_order = got("GET", "/berths/A-3", 500, PROBLEM, failed);
    assert_eq!(broken(HARBOUR, in_order), ["situation.valid-served"]);
}

#[test]
fn a_fault_at_any_time_is_right_for_every_request() {
    let contract = HARBOUR
        .replace("[everywhere]\nfaults = [", "[everywhere]\nfaults = [\"busy\", ")
        + "[fault.busy]\nstatus = 429\ntitle = \"Too Many Requests\"\nany-request = true\n";
    let busy = r#"{"title":"Too Many Requests","status":429}"#;
    for exchange in [
        got("GET", "/berths/A-3", 429, PROBLEM, busy),
        got("GET", "/nowhere", 429, PROBLEM, busy),
        sent("POST", "/reservations", TOKEN, Some("{"), 429, PROBLEM, busy),
    ] {
        assert_eq!(broken(&contract, exchange), Vec::<String>::new());
    }
}

#[test]
fn head_is_offered_where_get_is() {
    let head = got("HEAD", "/berths/A-3", 200, "application/json", "");
    assert_eq!(broken(HARBOUR, head), Vec::<String>::new());
    let refused = got("HEAD", "/berths/A-3", 405, PROBLEM, "");
    let found = broken(HARBOUR, refused);
    assert_eq!(found, ["header.allow", "status.fits-situation"]);
}

#[test]
fn without_any_credentials_in_the_recording_their_absence_is_not_judged() {
    let good = r#"{"vessel_id":"OB1234","nights":2}"#;
    let made =
        |headers| sent("POST", "/reservations", headers, Some(good), 201, "application/json", "{}");
    let project = Project::with(HARBOUR, &[made(&[]), made(&[])]);
    project
        .run("check a.har")
        .exits(0)
        .says("missing-credentials was not checked: no request in a.har carries credentials");
    // One request that carries some is enough, even if it comes last, and for any number of threads.
    project.write("b.har", har(&[made(&[]), made(TOKEN)]));
    for threads in [1, 4] {
        let run = project.run(&format!("check --threads {threads} b.har")).exits(1);
        let run = run.says("situation.requires-error           b.har#1");
        assert!(!run.stdout.contains("was not checked"), "{run}");
    }
}

#[test]
fn a_header_of_ones_own_can_carry_the_credentials() {
    let contract = HARBOUR.replace("[error]", "credentials = [\"X-Api-Key\"]\n[error]");
    let contract = contract.replacen("servers", "# servers", 1).replacen(
        "# servers = [\"https://harbour.example/v1\"]\n",
        "servers = [\"https://harbour.example/v1\"]\n",
        1,
    );
    let good = r#"{"vessel_id":"OB1234","nights":2}"#;
    let made =
        |headers| sent("POST", "/reservations", headers, Some(good), 201, "application/json", "{}");
    let project = Project::with(&contract, &[made(&[("X-Api-Key", "made-up")]), made(TOKEN)]);
    project.run("check a.har").exits(1).says("situation.requires-error           a.har#2");
}

#[test]
fn what_is_not_the_services_is_set_aside_and_counted() {
    let elsewhere = json!({"request": {"method": "GET", "url": "https://fonts.example/x"},
                           "response": {"status": 404}});
    let contract = HARBOUR.replacen("[error]", "[paths]\nexclude = [\"/health\"]\n[error]", 1);
    let project = Project::with(
        &contract,
        &[
            elsewhere,
            got("GET", "/app.js", 200, "text/javascript", "let x = 1"),
            got("OPTIONS", "/berths/A-3", 204, "", ""),
            got("GET", "/health", 500, "text/plain", "down"),
            berth(),
        ],
    );
    project.run("check a.har").exits(0).says("1 exchange checked, 4 excluded");
}

#[test]
fn a_contract_that_says_nothing_of_unknown_routes_does_not_judge_them() {
    let contract = "contract = 1\n[endpoint.\"GET /berths/{id}\"]\nsuccess = [200]\n";
    let served = got("GET", "/boats", 200, "application/json", "{}");
    let unknown = got("GET", "/nowhere", 404, "application/json", "{\"message\":\"no\"}");
    Project::with(contract, &[served, unknown])
        .run("check a.har")
        .exits(0)
        .says("2 (the contract declares no fault for requests to unknown");
}

/// Without a shape and a media type, a declared title still means a problem.
#[test]
fn a_declared_title_is_judged_without_a_declared_shape() {
    let contract = "contract = 1\n[fault.none]\nstatus = 404\ntitle = \"None\"\n\
                    [endpoint.\"GET /v1/berths/{id}\"]\nfaults = [\"none\"]\n";
    let told = |title: &str| {
        got("GET", "/berths/9", 404, "application/json", &json!({"title": title}).to_string())
    };
    assert_eq!(broken(contract, told("Nobody")), ["problem.title-declared"]);
    assert_eq!(broken(contract, told("None")), Vec::<String>::new());
}

#[test]
fn more_threads_than_the_machine_can_have_do_no_harm() {
    let project = Project::with(HARBOUR, &[berth()]);
    project.run("check --threads 1000000 a.har").exits(0);
}

#[test]
fn a_trailing_slash_is_another_path_unless_the_contract_says_otherwise() {
    let slashed = || got("GET", "/berths/A-3/", 200, "application/json", "{}");
    assert_eq!(broken(HARBOUR, slashed()), ["situation.requires-error"]);
    let contract = HARBOUR.replacen("[error]", "[paths]\ntrailing-slash = \"ignored\"\n[error]", 1);
    assert_eq!(broken(&contract, slashed()), Vec::<String>::new());
}

#[test]
fn a_relative_type_is_the_same_after_it_was_resolved() {
    let body = r#"{"type":"../../faults/no-such-berth","title":"There is no such berth"}"#;
    let exchange = got("GET", "/berths/Z-99", 404, PROBLEM, body);
    assert_eq!(broken(HARBOUR, exchange), ["problem.type-absolute"]);
}

#[test]
fn a_difference_that_can_hardly_be_seen_is_named() {
    let body = r#"{"type":"https://harbour.example/faults/no-such-berth",
                   "title":"There is no  such Berth"}"#;
    let project = Project::with(HARBOUR, &[got("GET", "/berths/Z-99", 404, PROBLEM, body)]);
    project.run("check a.har").exits(1).says("they differ only in white space and letter case");
}

/// Where the service is at the root of any host, `/` is its base, and in every path of a trace.
#[test]
fn a_trace_is_disclosed_whatever_the_base_of_the_service_is() {
    for server in ["/", "/v1", "https://harbour.example/v1"] {
        let contract = HARBOUR.replace("https://harbour.example/v1", server);
        let trace = r#"{"status":404,"trace":"at parse (/v1/app/berths.js:93:21)"}"#;
        let exchange = got("GET", "/berths/Z", 404, "application/problem+json", trace);
        let broken = broken(&contract, exchange);
        assert!(broken.contains(&"disclosure.stack-trace".to_owned()), "{server}: {broken:?}");
    }
}

#[test]
fn a_trace_that_the_caller_sent_is_no_disclosure() {
    let sent_trace = r#"{"vessel_id":"at a.B.c(B.java:1)","nights":2}"#;
    let told = r#"{"type":"https://harbour.example/faults/invalid-request",
        "title":"The request is not valid",
        "errors":[{"pointer":"/vessel_id","detail":"at a.B.c(B.java:1) is none"}]}"#;
    let exchange = sent("POST", "/reservations", TOKEN, Some(sent_trace), 422, PROBLEM, told);
    assert_eq!(broken(HARBOUR, exchange), Vec::<String>::new());
}

#[test]
fn a_reader_that_goes_away_ends_it_quietly() {
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    let mut child = project
        .command("check --format json before.har")
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    // Reads one byte, as `head` would, and goes.
    let mut stdout = child.stdout.take().unwrap();
    stdout.read_exact(&mut [0]).unwrap();
    drop(stdout);
    let output = child.wait_with_output().unwrap();
    assert_eq!(output.status.code(), Some(1));
    assert_eq!(String::from_utf8_lossy(&output.stderr), "");
}

#[test]
fn secrets_do_not_reach_an_output() {
    let body = r#"{"title":"Bearer hb_live_0123456789abcdef failed","password":7,
                   "detail":["token=hb_live_0123456789abcdef"]}"#;
    let contract = HARBOUR.replace(
        "[fault.no-route]\nstatus = 404\n",
        "[fault.no-route]\nstatus = 404\nmembers = { password = \"string\" }\n",
    );
    let project = Project::with(&contract, &[got("GET", "/nowhere", 404, PROBLEM, body)]);
    for format in ["text", "json"] {
        let run = project.run(&format!("check --format {format} a.har")).exits(1);
        assert!(!run.stdout.contains("hb_live"), "{run}");
        assert!(
            run.stdout.contains("***") && run.stdout.contains("a value that is masked"),
            "{run}"
        );
    }
}

/// The same requests in two environments: what differs is found, and what is said of one alone is not.
#[test]
fn errors_in_two_environments_are_compared() {
    let none = |more: &str| {
        let body = format!(
            r#"{{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth"{more}}}"#
        );
        got("GET", "/berths/Z-99", 404, PROBLEM, &body)
    };
    let other = || got("GET", "/nowhere", 404, PROBLEM, r#"{"title":"Not Found"}"#);
    let project = Project::with(HARBOUR, &[none(""), other()]);
    project.write("live.har", har(&[none(""), other()]));
    project.write("dev.har", har(&[other(), none(",\"hint\":\"see the plan\"")]));
    project.run("check --recorded-in live=a.har --recorded-in live2=live.har").exits(0);
    let run =
        project.run("check --recorded-in live=live.har --recorded-in development=dev.har").exits(0);
    let run = run.says("exchange.same-across-environments  dev.har#2");
    run.says("as expected in live.har#1");
    // Without names for them, they are only recordings.
    project.run("check live.har dev.har").exits(0).says("0 breaches; ");
    project.run("check --recorded-in live").exits(2).complains("production=live.har");
    project.run("check --recorded-in live=gone.har").exits(2).complains("gone.har");
}
