//! What is said of a contract alone: situations without a fault, faults that can never come, cases that overlap.

use faithful_clerk_contract::ErrorContract;
use faithful_clerk_insight::review::{contract_notices, resolved_contract};

fn contract(text: &str) -> ErrorContract {
    let parsed = faithful_clerk_check::parse_contract(&format!("contract = 1\n{text}"));
    parsed.contract.unwrap_or_else(|| panic!("{:#?}", parsed.diagnostics))
}

fn told(text: &str) -> Vec<String> {
    let contract = contract(text);
    let notices = contract_notices(&contract);
    let unanswered = notices.unanswered.iter().map(|one| {
        let at = one.endpoint.as_deref().unwrap_or("nowhere");
        let names: Vec<&str> = one.situations.iter().map(|one| one.name()).collect();
        format!("open {at}: {}", names.join(", "))
    });
    let never = notices.never.iter().map(|one| {
        format!("never {} {}", one.fault, one.endpoint.as_deref().unwrap_or("everywhere"))
    });
    let overlapping =
        notices.overlapping.iter().map(|one| format!("both {} {}", one.one, one.other));
    unanswered.chain(never).chain(overlapping).collect()
}

/// Faults for requests that lead nowhere, so that nothing is said of those.
const NOWHERE: &str = "[fault.nowhere]\nstatus = 404\nwhen = [\"unknown-route\"]\n\
    [fault.not-offered]\nstatus = 405\nwhen = [\"method-not-allowed\"]\n\
    [everywhere]\nfaults = [\"nowhere\", \"not-offered\"]\n";

#[test]
fn situations_without_a_fault_are_named() {
    let none = "[fault.none]\nstatus = 404\nwhen = [\"resource-not-found\"]\n";
    for (text, expected) in [
        (
            format!("{NOWHERE}{none}[endpoint.\"GET /berths/{{id}}\"]\nfaults = [\"none\"]\n"),
            vec![],
        ),
        (
            format!("{NOWHERE}[endpoint.\"GET /berths/{{id}}\"]\nauth = \"required\"\n"),
            vec!["open GET /berths/{id}: missing-credentials, resource-not-found"],
        ),
        (
            format!(
                "{NOWHERE}[endpoint.\"POST /berths\"]\naccepts = [\"application/json\"]\nbody-members = {{ a = \"string\" }}\nmax-request-body = 100\n"
            ),
            vec![
                "open POST /berths: content-too-large, unsupported-media-type, missing-body, malformed-body, invalid-body",
            ],
        ),
        (format!("{NOWHERE}[endpoint.\"GET /berths\"]\n"), vec![]),
        (
            format!("{none}[endpoint.\"GET /berths/{{id}}\"]\nfaults = [\"none\"]\n"),
            vec!["open nowhere: unknown-route, method-not-allowed"],
        ),
        // A fault that does not say when it comes is for what its status implies.
        (
            format!(
                "{NOWHERE}[fault.none]\nstatus = 404\n[endpoint.\"GET /berths/{{id}}\"]\nfaults = [\"none\"]\n"
            ),
            vec![],
        ),
        // Nothing is said of a contract without faults: nobody has begun.
        ("[endpoint.\"GET /berths/{id}\"]\n".to_owned(), vec![]),
    ] {
        let mut found = told(&text);
        for one in &mut found {
            if let Some((at, names)) = one.clone().split_once(": ") {
                let mut names: Vec<&str> = names.split(", ").collect();
                names.sort_unstable();
                *one = format!("{at}: {}", names.join(", "));
            }
        }
        let sorted = expected.into_iter().map(|one| match one.split_once(": ") {
            Some((at, names)) => {
                let mut names: Vec<&str> = names.split(", ").collect();
                names.sort_unstable();
                format!("{at}: {}", names.join(", "))
            }
            None => one.to_owned(),
        });
        assert_eq!(found, sorted.collect::<Vec<_>>(), "{text}");
    }
}

#[test]
fn faults_that_can_never_come_are_named() {
    let fault = |when: &str| format!("{NOWHERE}[fault.x]\nstatus = 400\nwhen = [\"{when}\"]\n");
    for (when, rules, expected) in [
        ("invalid-body", "[endpoint.\"GET /a\"]\nfaults = [\"x\"]", vec!["never x GET /a"]),
        ("invalid-body", "[endpoint.\"POST /a\"]\nfaults = [\"x\"]", vec![]),
        (
            "missing-credentials",
            "[endpoint.\"GET /a\"]\nfaults = [\"x\"]\nauth = \"none\"",
            vec!["never x GET /a"],
        ),
        ("missing-credentials", "[endpoint.\"GET /a\"]\nfaults = [\"x\"]", vec![]),
        ("unknown-route", "[endpoint.\"GET /a\"]\nfaults = [\"x\"]", vec!["never x GET /a"]),
        (
            "missing-body",
            "[endpoint.\"PUT /a\"]\nfaults = [\"x\"]\nbody-members = { a = \"optional string\" }",
            vec!["never x PUT /a"],
        ),
        (
            "precondition-required",
            "[endpoint.\"PUT /a\"]\nfaults = [\"x\"]\nrequires = { If-Match = \"invalid-parameters\" }",
            vec!["never x PUT /a"],
        ),
        // What a request does not show can always come; and what is named for all has to come at one.
        ("conflict", "[endpoint.\"GET /a\"]\nfaults = [\"x\"]", vec![]),
        (
            "invalid-body",
            "[region.\"/**\"]\nfaults = [\"x\"]\n[endpoint.\"GET /a\"]",
            vec!["never x everywhere"],
        ),
        (
            "invalid-body",
            "[region.\"/**\"]\nfaults = [\"x\"]\n[endpoint.\"GET /a\"]\n[endpoint.\"POST /a\"]",
            vec![],
        ),
        // A case can tell of it.
        (
            "invalid-body",
            "[endpoint.\"GET /a\"]\nfaults = [\"x\"]\n[case.c]\nrequest = \"GET /a\"\nexpect = \"x\"",
            vec![],
        ),
    ] {
        let found = told(&format!("{}{rules}\n", fault(when)));
        let found: Vec<_> = found.into_iter().filter(|one| one.starts_with("never")).collect();
        assert_eq!(found, expected, "{when}: {rules}");
    }
}

#[test]
fn cases_that_one_request_can_be_for_are_named() {
    let faults = "[fault.x]\nstatus = 409\nwhen = [\"conflict\"]\n[fault.y]\nstatus = 403\nwhen = [\"forbidden\"]\n\
        [endpoint.\"POST /a/{id}\"]\nfaults = [\"x\", \"y\"]\n";
    let pair = |one: &str, other: &str| {
        let found = told(&format!(
            "{faults}[case.one]\n{one}\nexpect = \"x\"\n[case.two]\n{other}\nexpect = \"y\"\n"
        ));
        found.iter().any(|found| found == "both one two")
    };
    let all = "request = \"POST /a/{id}\"";
    for (one, other, overlap) in [
        (all, all, true),
        (all, "request = \"POST /a/7\"", true),
        (all, "request = \"* /a/7\"", true),
        (all, "request = \"DELETE /a/{id}\"", false),
        ("request = \"POST /a/7\"", "request = \"POST /a/8\"", false),
        (
            "request = \"POST /a/{id}\"\npath = { id = \"exactly 7\" }",
            "request = \"POST /a/8\"",
            false,
        ),
        (
            "request = \"POST /a/{id}\"\npath = { id = \"string matching ^[0-9]$\" }",
            "request = \"POST /a/x\"",
            false,
        ),
        (
            "request = \"POST /a/{id}\"\npath = { id = \"string matching ^[0-9]$\" }",
            "request = \"POST /a/8\"",
            true,
        ),
        (
            "request = \"POST /a/{id}\"\nbody = { \"/k\" = \"exactly 1\" }",
            "request = \"POST /a/{id}\"\nbody = { \"/k\" = \"one of 2, 3\" }",
            false,
        ),
        (
            "request = \"POST /a/{id}\"\nbody = { \"/k\" = \"exactly 1\" }",
            "request = \"POST /a/{id}\"\nbody = { \"/l\" = \"exactly 2\" }",
            true,
        ),
        (
            "request = \"POST /a/{id}\"\nquery = { q = \"absent\" }",
            "request = \"POST /a/{id}\"\nquery = { q = \"string\" }",
            false,
        ),
        (
            "request = \"POST /a/{id}\"\nheaders = { If-Match = \"exactly a\" }",
            "request = \"POST /a/{id}\"\nheaders = { if-match = \"exactly b\" }",
            false,
        ),
    ] {
        assert_eq!(pair(one, other), overlap, "{one} | {other}");
    }
}

/// Every endpoint with its faults by situation, and the table that names each.
#[test]
fn a_contract_is_told_as_it_is_understood() {
    let text = format!(
        "[region.\"/v2/**\"]\nfaults = [\"gone\"]\n[fault.gone]\nstatus = 410\nwhen = [\"resource-not-found\"]\n\
         [fault.invalid]\nstatus = 422\nwhen = [\"invalid-body\", \"invalid-parameters\"]\n\
         [fault.failed]\nstatus = 500\n{NOWHERE}\n\
         [group.writing]\nendpoints = [\"POST /**\"]\nfaults = [\"invalid\"]\n\
         [endpoint.\"POST /v2/a\"]\nfaults = [\"failed\"]\n[endpoint.\"GET /b\"]\n"
    );
    let contract = contract(&text);
    let resolved = resolved_contract(&contract);
    let lines = resolved.endpoints.iter().flat_map(|endpoint| {
        let name = endpoint.endpoint.map_or("nowhere".to_owned(), |one| one.name());
        let region = endpoint.region.unwrap_or_default();
        endpoint.faults.iter().map(move |one| {
            let situation = one.situation.map_or("-", |one| one.name());
            let line = one.line.map(|line| line.line).unwrap_or_default();
            format!("{name} {region} {situation} {} {} {line}", one.fault.name, one.origin.table())
        })
    });
    assert_eq!(
        lines.collect::<Vec<_>>(),
        [
            "POST /v2/a /v2/** invalid-parameters invalid [group.writing] 23",
            "POST /v2/a /v2/** invalid-body invalid [group.writing] 23",
            "POST /v2/a /v2/** resource-not-found gone [region.\"/v2/**\"] 3",
            "POST /v2/a /v2/** - failed the endpoint 25",
            "nowhere  unknown-route nowhere [everywhere] 19",
            "nowhere  method-not-allowed not-offered [everywhere] 19",
            "nowhere /v2/** unknown-route nowhere [everywhere] 19",
            "nowhere /v2/** method-not-allowed not-offered [everywhere] 19",
        ]
    );
}
