//! Successes in which some of what was requested has failed.

use crate::judging::found;

fn contract(partial: &str, more: &str) -> String {
    format!(
        "contract = 1\nservers = [\"https://harbour.example\"]\n\
         [shape.failure]\nlike = \"problem\"\nstatus = \"status\"\ntitle = \"string\"\n\
         [fault.unknown]\nstatus = 404\ntype = \"https://harbour.example/faults/unknown\"\ntitle = \"Unknown\"\ncode = \"U-1\"\n\
         [fault.taken]\nstatus = 409\ntype = \"https://harbour.example/faults/taken\"\ntitle = \"Taken\"\n\
         [fault.refused]\nstatus = 403\ntype = \"https://harbour.example/faults/refused\"\ntitle = \"Refused\"\n\
         [endpoint.\"POST /arrivals\"]\nsuccess = [200, 207]\nfaults = [\"refused\"]\n\
         partial = {{ shape = \"failure\", faults = [\"unknown\", \"taken\"], requested = \"/arrivals\", {partial} }}\n{more}\n"
    )
}

const REQUEST: &str = "POST /arrivals\nContent-Type: application/json\n\n\
    {\"arrivals\":[{\"id\":\"a\"},{\"id\":\"b\"},{\"id\":\"lost\"}]}";

fn told(contract: &str, body: &str) -> Vec<String> {
    let answer = format!("HTTP/1.1 207 Multi-Status\nContent-Type: application/json\n\n{body}");
    let found = found(contract, REQUEST, &answer).into_iter();
    found.map(|one| format!("{} {}: {}", one.clause, one.location, one.got)).collect()
}

fn problem(more: &str, name: &str, status: u16, title: &str) -> String {
    format!(
        "{{{more},\"type\":\"https://harbour.example/faults/{name}\",\"title\":\"{title}\",\"status\":{status}}}"
    )
}

/// Failures are told by the index of their entry, and are problems of their own.
#[test]
fn failures_can_be_told_by_an_index() {
    let contract =
        contract("failures = \"/failed\", succeeded = \"/done\", index = \"/index\"", "");
    let at = |index: &str| problem(&format!("\"index\":{index}"), "unknown", 404, "Unknown");
    let body = |failed: &[String], done: &str| {
        format!("{{\"done\":[{done}],\"failed\":[{}]}}", failed.join(","))
    };
    for (failed, done, expected) in [
        (vec![at("0")], r#"{"index":1},{"index":2}"#, vec![]),
        (vec![at("0")], r#"{"id":"b"},{"id":"lost"}"#, vec![]),
        (vec![at("0")], r#"{"index":1}"#, vec!["partial.each-once body: entry 2 in neither"]),
        (
            vec![at("0")],
            r#"{"index":0},{"index":1},{"index":2}"#,
            vec!["partial.each-once body: entry 0 in both"],
        ),
        (vec![at("3")], r#"{"index":1},{"index":2}"#, vec!["partial.each-once body /failed/0: 3"]),
        (
            vec![at("\"0\"")],
            r#"{"index":1},{"index":2}"#,
            vec!["partial.each-once body /failed/0: \"0\""],
        ),
        (vec![at("0")], r#"{"id":"b"}"#, vec!["partial.each-once body: 1 succeeded and 1 failed"]),
        (
            vec![problem("\"index\":0", "unknown", 400, "Unknown")],
            r#"{"index":1},{"index":2}"#,
            vec!["partial.entry-agrees body /failed/0/status: 400"],
        ),
        (
            vec![problem("\"index\":0", "taken", 409, "No berth")],
            r#"{"index":1},{"index":2}"#,
            vec!["partial.entry-agrees body /failed/0/title: \"No berth\""],
        ),
        (
            vec![problem("\"index\":0,\"code\":\"U-2\"", "unknown", 404, "Unknown")],
            r#"{"index":1},{"index":2}"#,
            vec!["partial.entry-agrees body /failed/0/code: U-2"],
        ),
        (
            vec![problem("\"index\":0", "refused", 403, "Refused")],
            r#"{"index":1},{"index":2}"#,
            vec![
                "partial.faults-declared body /failed/0: type https://harbour.example/faults/refused",
            ],
        ),
        (
            vec![
                r#"{"index":0,"type":"https://harbour.example/faults/taken","status":409}"#
                    .to_owned(),
            ],
            r#"{"index":1},{"index":2}"#,
            vec!["partial.shape-declared body /failed/0/title: nothing"],
        ),
    ] {
        let body = body(&failed, done);
        let mut found = told(&contract, &body);
        for one in &mut found {
            *one = one.replace("the whole body", "body");
        }
        assert_eq!(found, expected, "{body}");
    }
}

/// A failure can point into the request.
#[test]
fn failures_can_be_told_by_a_pointer_into_the_request() {
    let contract =
        contract("failures = \"/failed\", succeeded = \"/count\", pointer = \"/at\"", "");
    let body = |count: usize, pointers: &[&str]| {
        let one = |pointer: &&str| problem(&format!("\"at\":\"{pointer}\""), "taken", 409, "Taken");
        let failed: Vec<String> = pointers.iter().map(one).collect();
        format!("{{\"count\":{count},\"failed\":[{}]}}", failed.join(","))
    };
    assert_eq!(told(&contract, &body(1, &["/arrivals/0", "/arrivals/2/id"])), [""; 0]);
    assert_eq!(
        told(&contract, &body(2, &["/arrivals/0", "/arrivals/2"])),
        ["partial.each-once the whole body: 2 succeeded and 2 failed"]
    );
}

/// One array with a status for each entry.
#[test]
fn one_array_can_hold_what_failed_and_what_succeeded() {
    let contract =
        contract("failures = \"/results\", succeeded = \"/results\", match-by = \"id\"", "");
    let body = |entries: &[&str]| format!("{{\"results\":[{}]}}", entries.join(","));
    let a = r#"{"id":"a","status":201}"#;
    let b = problem("\"id\":\"b\"", "taken", 409, "Taken");
    let lost = problem("\"id\":\"lost\"", "unknown", 404, "Unknown");
    assert_eq!(told(&contract, &body(&[a, &b, &lost])), [""; 0]);
    assert_eq!(
        told(&contract, &body(&[a, &b])),
        ["partial.each-once the whole body: lost in neither"]
    );
    assert_eq!(
        told(&contract, &body(&[a, &b, &lost.replace("404", "410")])),
        ["partial.entry-agrees body /results/2/status: 410"]
    );
}

/// What failed is looked through for disclosures, what succeeded is data.
#[test]
fn failures_disclose_nothing() {
    let contract = contract("failures = \"/failed\", succeeded = \"/done\", match-by = \"id\"", "");
    let trace = "at com.example.Harbour.book(Harbour.java:17)";
    let body = |note: &str, detail: &str| {
        let more = format!("\"id\":\"b\",\"detail\":\"{detail}\"");
        let failed = problem(&more, "taken", 409, "Taken");
        format!(
            "{{\"done\":[{{\"id\":\"a\",\"note\":\"{note}\"}},{{\"id\":\"lost\"}}],\"failed\":[{failed}]}}"
        )
    };
    assert_eq!(told(&contract, &body("", "the berth is taken")), [""; 0]);
    assert_eq!(told(&contract, &body(trace, "the berth is taken")), [""; 0]);
    let found = told(&contract, &body("", trace));
    assert_eq!(found.len(), 1, "{found:?}");
    assert!(found[0].starts_with("disclosure.stack-trace body /failed/0/detail"), "{found:?}");
}

/// A case about entries says which fault an entry fails with; the request as a whole is in order.
#[test]
fn a_case_can_be_about_an_entry() {
    let case = "[case.lost]\nrequest = \"POST /arrivals\"\nbody = { \"/arrivals/*/id\" = \"exactly lost\" }\nexpect = \"unknown\"";
    let contract =
        contract("failures = \"/failed\", succeeded = \"/done\", match-by = \"id\"", case);
    let body = |done: &str, failed: &str| format!("{{\"done\":[{done}],\"failed\":[{failed}]}}");
    let (a, b) = (r#"{"id":"a"}"#, r#"{"id":"b"}"#);
    let lost = problem("\"id\":\"lost\"", "unknown", 404, "Unknown");
    assert_eq!(told(&contract, &body(&format!("{a},{b}"), &lost)), [""; 0]);
    let served = format!("{a},{b},{{\"id\":\"lost\"}}");
    assert_eq!(told(&contract, &body(&served, "")), ["partial.fits-case body /failed: nothing"]);
    let other = problem("\"id\":\"lost\"", "taken", 409, "Taken");
    assert_eq!(
        told(&contract, &body(&format!("{a},{b}"), &other)),
        ["partial.fits-case body /failed/0: 409 (fault taken)"]
    );
}
