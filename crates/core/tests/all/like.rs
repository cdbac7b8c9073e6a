//! A contract that is like another: what it takes over, adds, narrows, and must not contradict.

use crate::description::folder;
use crate::judging::found_by;
use faithful_clerk_check::clauses::{RuleSource, clause};
use faithful_clerk_contract::{DiagnosticSeverity, ErrorContract};

/// What all services of the guild agree on.
const GUILD: &str = r#"contract  = 1
service   = "The guild"
servers   = ["https://guild.example"]
languages = ["en", "de"]

[error]
media          = "application/problem+json"
shape          = "guild-problem"
headers        = { X-Request-Id = "string" }
respond-within = "2s"

[shape.guild-problem]
like = "problem"
house = "string"

[validation-errors]
pointer = "plain"

[fault.not-found]
status = [404, 410]
type   = "https://guild.example/faults/not-found"
title  = { en = "Not here", de = "Nicht hier" }
when   = ["resource-not-found", "unknown-route"]

[fault.invalid]
status = 422
type   = "https://guild.example/faults/invalid"
title  = { en = "Not valid", de = "Nicht gültig" }
when   = ["invalid-body"]

[fault.busy]
status      = 503
any-request = true

[everywhere]
faults         = ["not-found", "busy"]
auth           = "required"
respond-within = "5s"

[group.writing]
with   = ["body"]
faults = ["invalid"]

[severity]
"problem.near-miss" = "breach"

[endpoint."GET /guild"]
"#;

/// A service of the guild.
const HARBOUR: &str = r#"contract = 1
like     = "../guild/error-contract.toml"
servers  = ["https://harbour.example"]

[error]
shape = "harbour-problem"

[shape.harbour-problem]
like = "guild-problem"
quay = "optional string"

[fault.not-found]
status  = 404
members = { berth_id = "string" }

[endpoint."GET /berths/{id}"]
success = [200]

[endpoint."POST /berths"]
success = [201]
body-members = { depth_m = "number" }
"#;

fn parsed(text: &str, guild: &str) -> (Option<ErrorContract>, Vec<String>) {
    let files = folder(&[("../guild/error-contract.toml", guild)]);
    let parsed = faithful_clerk_check::parse_contract_with_files(text, &files);
    let told = parsed.diagnostics.iter().map(|one| {
        let (line, column) = one.line_and_column(text);
        let kind = if one.severity == DiagnosticSeverity::Error { "" } else { "warning: " };
        format!("{line}:{column} {kind}{} | {}", one.message, one.label)
    });
    (parsed.contract, told.collect())
}

fn answer(status: u16, body: &str) -> String {
    format!(
        "HTTP/1.1 {status} X\nContent-Type: application/problem+json\nX-Request-Id: 7\n\n{body}"
    )
}

const NOT_FOUND: &str = r#"{"type":"https://guild.example/faults/not-found","title":"Not here","status":404,"house":"harbour","berth_id":"Z"}"#;

#[test]
fn faults_shapes_and_rules_are_taken_over_and_narrowed() {
    let (contract, told) = parsed(HARBOUR, GUILD);
    assert_eq!(told, [""; 0]);
    let contract = contract.unwrap();
    let broken = |request: &str, answer: &str| {
        found_by(&contract, request, answer)
            .into_iter()
            .map(|one| format!("{} {}", one.clause, one.location))
            .collect::<Vec<_>>()
    };
    let get = "GET /berths/Z\nAuthorization: Bearer x";
    assert_eq!(broken(get, &answer(404, NOT_FOUND)), [""; 0]);
    // The guild's members and the service's own; the guild's title; the status that was narrowed.
    for (change, with, finding) in [
        (r#""house":"harbour","#, "", "shape.declared body /house"),
        (r#","berth_id":"Z""#, "", "shape.declared body /berth_id"),
        ("Not here", "No berth", "problem.title-declared body /title"),
        ("\"title\"", "\"quay\":7,\"title\"", "shape.declared body /quay"),
        ("faults/not-found", "faults/none", "problem.type-declared body /type"),
    ] {
        let body = NOT_FOUND.replace(change, with);
        assert_eq!(broken(get, &answer(404, &body)), [finding], "{change}");
    }
    let gone = NOT_FOUND.replace("404", "410");
    assert_eq!(broken(get, &answer(410, &gone)), ["status.declared the status line"]);
    // Rules, groups, severities.
    let fine = "HTTP/1.1 200 OK\nContent-Type: application/json\n\n{}";
    assert_eq!(broken("GET /berths/A", fine), ["situation.requires-error the status line"]);
    let post = "POST /berths\nAuthorization: Bearer x\nContent-Type: application/json\n\n{\"depth_m\":\"deep\"}";
    let invalid = r#"{"type":"https://guild.example/faults/invalid","title":"Not valid","status":422,"house":"harbour","detail":"depth_m has to be a number"}"#;
    assert_eq!(broken(post, &answer(422, invalid)), [""; 0]);
    assert_eq!(contract.servers.len(), 1);
    assert_eq!(contract.endpoints.len(), 2);
    assert_eq!(contract.languages, ["en", "de"]);
    assert_eq!(contract.severities.len(), 1);
}

/// A finding says in which of the two contracts its rule stands.
#[test]
fn a_rule_is_found_in_the_contract_that_has_it() {
    let contract = parsed(HARBOUR, GUILD).0.unwrap();
    let source = |body: &str| {
        let found =
            found_by(&contract, "GET /berths/Z\nAuthorization: Bearer x", &answer(404, body));
        let first = found.first().unwrap();
        let row =
            faithful_clerk_contract::EndpointRow::Endpoint(faithful_clerk_contract::EndpointId(0));
        RuleSource::of(clause(first.clause).unwrap(), &row, &first.expected, &contract)
            .unwrap()
            .to_string()
    };
    assert_eq!(
        source(&NOT_FOUND.replace("Not here", "No berth")),
        "the contract's `title`, line 22 of ../guild/error-contract.toml"
    );
    assert_eq!(
        source(&NOT_FOUND.replace("\"house\":\"harbour\",", "")),
        "the contract's `shape`, line 6"
    );
}

/// Each change of the service's contract, and what is told of it.
#[test]
fn what_contradicts_is_told_and_what_narrows_is_not() {
    let more = |text: &str| HARBOUR.replace("[endpoint.\"GET", &format!("{text}\n[endpoint.\"GET"));
    let guild = "../guild/error-contract.toml";
    for (text, told) in [
        (
            HARBOUR.replace(
                "shape = \"harbour-problem\"",
                "media = \"application/json\"\nshape = \"harbour-problem\"",
            ),
            vec![format!(
                "6:9 `media` contradicts {guild} | it is \"application/problem+json\" there"
            )],
        ),
        (
            HARBOUR.replace("like = \"guild-problem\"", "like = \"problem\""),
            vec![format!("6:9 `shape` contradicts {guild} | it is \"guild-problem\" there")],
        ),
        (
            HARBOUR.replace(
                "shape = \"harbour-problem\"",
                "shape = \"harbour-problem\"\nrespond-within = \"3s\"",
            ),
            vec![format!("7:18 `respond-within` contradicts {guild} | it is \"2s\" there")],
        ),
        (
            HARBOUR.replace(
                "shape = \"harbour-problem\"",
                "shape = \"harbour-problem\"\nrespond-within = \"900ms\"",
            ),
            vec![],
        ),
        (
            HARBOUR.replace("status  = 404", "status  = 400"),
            vec![format!("13:11 `status` contradicts {guild} | it is [404,410] there")],
        ),
        (
            HARBOUR.replace("status  = 404", "title = { en = \"No\", de = \"Nein\" }"),
            vec![
                format!("13:16 `en` contradicts {guild} | it is \"Not here\" there"),
                format!("13:27 `de` contradicts {guild} | it is \"Nicht hier\" there"),
            ],
        ),
        (HARBOUR.replace("status  = 404", "when = [\"resource-not-found\"]"), vec![]),
        (
            HARBOUR.replace("status  = 404", "when = [\"conflict\"]"),
            vec![format!(
                "13:8 `when` contradicts {guild} | it is [\"resource-not-found\",\"unknown-route\"] there"
            )],
        ),
        (
            more("[shape.guild-problem]\nx = \"string\""),
            vec![format!("16:8 the shape `guild-problem` is declared in {guild} | ")],
        ),
        (
            more("[everywhere]\nauth = \"none\""),
            vec![format!("17:8 `auth` contradicts {guild} | it is \"required\" there")],
        ),
        (more("[everywhere]\nfaults = [\"busy\"]\nrespond-within = \"1s\""), vec![]),
        (
            more("[severity]\n\"problem.near-miss\" = \"note\""),
            vec![format!("17:23 note contradicts {guild} | a lower severity")],
        ),
        (
            more("[validation-errors]\npointer = \"fragment\""),
            vec![format!("17:11 `pointer` contradicts {guild} | it is \"plain\" there")],
        ),
        (more("[validation-errors]\nmissing = \"parent\""), vec![]),
        (
            HARBOUR.replace("like     =", "languages = [\"en\"]\nlike     ="),
            vec![format!("2:13 `languages` contradicts {guild} | it is [\"en\",\"de\"] there")],
        ),
        // An exception for one endpoint may be meant.
        (
            HARBOUR.replace("success = [200]", "success = [200]\nauth = \"none\""),
            vec![format!(
                "18:8 warning: `auth` is \"required\" everywhere in {guild}, and not here | "
            )],
        ),
    ] {
        assert_ne!(text, HARBOUR);
        let (_, found) = parsed(&text, GUILD);
        assert_eq!(found, told, "{text}");
    }
}

#[test]
fn a_contract_that_cannot_be_taken_over_says_why() {
    for (guild, told) in [
        (
            "contract = 1\n[fault.x]\nstatus = 99\n",
            "../guild/error-contract.toml:3:10: the `status` of a fault is out of range",
        ),
        (
            "contract = 1\nlike = \"error-contract.toml\"\n",
            "../guild/error-contract.toml:2:8: this contract can't be taken over",
        ),
        ("\u{0}", "../guild/error-contract.toml:1:1: not TOML: "),
    ] {
        let (contract, found) = parsed(HARBOUR, guild);
        assert!(contract.is_none());
        let prefix = format!("2:12 this contract can't be taken over | {told}");
        assert!(found.iter().any(|one| one.starts_with(&prefix)), "{found:#?}");
    }
    let (_, found) = parsed(&HARBOUR.replace("../guild/", "../other/"), GUILD);
    assert!(found[0].starts_with("2:12 this contract can't be taken over"), "{found:?}");
}
