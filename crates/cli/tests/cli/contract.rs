//! Contracts that are used wrongly: each mistake is told with its place and what would be right.

use crate::harness::Project;

const WHOLE: &str = include_str!("../data/dunlin/error-contract.toml");

fn project(contract: &str) -> Project {
    let project = Project::with(contract, &[]);
    project.write("ports.yaml", include_str!("../data/dunlin/ports.yaml"));
    project.write("schemas/ticket.json", include_str!("../data/dunlin/schemas/ticket.json"));
    project.write("schemas/parts.json", include_str!("../data/dunlin/schemas/parts.json"));
    project
}

/// What is changed in a contract without mistakes, into what, and what is then said.
const CHANGES: [(&str, &str, &[&str]); 63] = [
    // The service.
    (
        "disclosure-scope = \"errors\"",
        "disclosure-scope = \"everywhere\"",
        &["use \"errors\" or \"all\""],
    ),
    (
        "openapi          = \"ports.yaml\"",
        "openapi = \"piers.yaml\"",
        &["this description can't be used", "piers.yaml: "],
    ),
    (
        "openapi          = \"ports.yaml\"",
        "openapi = \"schemas/parts.json\"",
        &["not an OpenAPI description"],
    ),
    (
        "[\"en\", \"cy\"]",
        "[\"english language\", \"cy\"]",
        &["this is not a language tag", "RFC 5646"],
    ),
    (
        "schema-formats   = \"assertion\"",
        "schema-formats = \"strict\"",
        &["`schema-formats` can't be \"strict\"", "use \"assertion\" or \"annotation\""],
    ),
    (
        "trailing-slash  = \"ignored\"",
        "trailing-slash = \"same\"",
        &["use \"distinct\" or \"ignored\""],
    ),
    (
        "case-sensitive  = true",
        "case-sensitive = \"no\"",
        &["`case-sensitive` has to be true or false"],
    ),
    (
        "exclude-methods = ",
        "exclude-method  =",
        &["unknown key `exclude-method` in `paths`", "did you mean `exclude-methods`?"],
    ),
    // Headers.
    (
        "X-Trace = \"string matching ^[0-9a-f]{16}$\"",
        "\"X Trace\" = \"string\"",
        &["`X Trace` is not a header name"],
    ),
    (
        "X-Trace = \"string matching ^[0-9a-f]{16}$\"",
        "X-Trace = \"txt\"",
        &["`txt` is neither a type name", "did you mean `string`?"],
    ),
    ("headers = { Accept = \"string\" }", "headers = \"Accept\"", &["`headers` has to be a table"]),
    // Envelope and codes.
    ("code = \"/code\"", "code = \"code\"", &["`code` has to be a JSON Pointer", "RFC 6901"]),
    (
        "code = \"/code\"",
        "fields = { location = \"/x\" }",
        &["`fields` does not say where the violations are", "each = \"/errors/*\""],
    ),
    (
        "code = \"/code\"",
        "kode = \"/code\"",
        &["unknown key `kode` in `envelope`", "did you mean `code`?"],
    ),
    ("range = \"7000 to 7999\"", "range = \"7999 to 7000\"", &["`range` has to be two numbers"]),
    ("range = \"7000 to 7999\"", "range = 7000", &["`range` has to be a quoted string"]),
    (
        "{ fault = \"malformed\" }",
        "{ fault = \"malfromed\" }",
        &["unknown fault `malfromed`", "did you mean `malformed`?"],
    ),
    ("7099  = {}", "7099  = \"spare\"", &["the code `7099` has to be a table"]),
    ("code   = 7003", "code = 7.5", &["`code` has to be a number or a string"]),
    // Invalid locations.
    ("pointer = \"fragment\"", "pointer = \"hash\"", &["use \"plain\" or \"fragment\""]),
    ("missing = \"parent\"", "missing = \"nowhere\"", &["use \"itself\" or \"parent\""]),
    ("one-of  = \"whole\"", "one-of = \"any\"", &["use \"whole\" or \"by MEMBER\""]),
    ("codes   = [", "codes   = 3 #", &["`codes` has to be a list"]),
    // Shapes.
    (
        "closed = true\nticket",
        "closed = \"yes\"\nticket",
        &["`closed` can't be \"yes\"", "use true, false or \"note\""],
    ),
    (
        "optional string or array of string",
        "optional string or list",
        &["`list` is neither a type name", "did you mean `array of`?"],
    ),
    (
        "[shape.data]",
        "[shape.jsonapi-errors]",
        &["the shape `jsonapi-errors` is built in", "like = \"jsonapi-errors\""],
    ),
    // Titles by language.
    (
        "{ en = \"The body is not JSON\", cy = \"Nid JSON yw'r corff\" }",
        "{ en = \"The body is not JSON\" }",
        &["the title has no `cy` text"],
    ),
    (
        "{ en = \"The body is not JSON\", cy = \"Nid JSON yw'r corff\" }",
        "{ en = \"a\", cy = \"b\", de = \"c\" }",
        &["`de` is none of the contract's languages"],
    ),
    (
        "{ en = \"The body is not JSON\", cy = \"Nid JSON yw'r corff\" }",
        "7",
        &["`title` has to be a quoted string"],
    ),
    (
        "when   = [\"unknown-method\"]",
        "when = [\"odd-method\"]",
        &["unknown situation `odd-method`"],
    ),
    // Rules of everywhere, groups and endpoints.
    (
        "respond-within   = \"3s\"",
        "respond-within = \"3 minutes\"",
        &["`respond-within` has to be a duration", "\"2s\" or \"500ms\""],
    ),
    (
        "respond-within   = \"3s\"",
        "respond-within = 3",
        &["`respond-within` has to be a quoted string"],
    ),
    (
        "success-shape    = \"data\"",
        "success-shape = \"dada\"",
        &["unknown shape `dada`", "did you mean `data`?"],
    ),
    (
        "max-request-body = \"2 KiB\"",
        "max-request-body = \"2 bags\"",
        &["`max-request-body` has to be a size", "\"64 KiB\""],
    ),
    ("  \"unknown-route\",\n", "  \"route\",\n", &["unknown situation `route`"]),
    ("  \"forbidden\",\n", "  \"unknown-route\",\n", &["`unknown-route` is on two levels"]),
    ("  \"forbidden\",\n", "  7,\n", &["a level of `precedence` has to be a quoted string"]),
    (
        "endpoints = [\"* /tickets/**\"]",
        "endpoints = [\"/tickets\"]",
        &["this names no endpoints", "\"* /reservations/**\""],
    ),
    (
        "endpoints = [\"* /tickets/**\"]\n",
        "",
        &["the group `tickets` does not say which endpoints are in it"],
    ),
    (
        "auth      = \"required\"\naccepts   = [\"application/json\"]\nproduces",
        "auth = \"luck\"\naccepts = [\"application/json\"]\nproduces",
        &["`auth` can't be \"luck\""],
    ),
    (
        "produces  = [\"application/json\"]",
        "produces = [\"json\"]",
        &["an entry of `produces` has to be a media type"],
    ),
    (
        "is = \"string matching ^[A-Z]{3}$\", ",
        "",
        &["the parameter `ferry` does not say what it is"],
    ),
    ("if-invalid = \"resource-not-found\"", "if-invalid = \"gone\"", &["unknown situation `gone`"]),
    (
        "query = { on = \"date\"",
        "qwery = { on = \"date\"",
        &["unknown key `qwery` in `parameters`", "did you mean `query`?"],
    ),
    ("optional integer from 1 to 50", "optional integer from 50 to 1", &["the range is empty"]),
    (
        "{ Idempotency-Key = \"invalid-parameters\" }",
        "{ Idempotency-Key = true }",
        &["the situation of a missing header has to be a quoted string"],
    ),
    (
        "schemas/ticket.json#/$defs/ticket",
        "schemas/ticket.json#/$defs/tickets",
        &["this JSON Schema can't be used", "resolves to nothing"],
    ),
    (
        "body-required = true",
        "body-required = \"yes\"",
        &["`body-required` has to be true or false"],
    ),
    ("failures = \"/data/left\", ", "", &["`partial` does not say where the failures are"]),
    (
        "failures = \"/data/left\"",
        "failures = \"data.left\"",
        &["`failures` has to be a JSON Pointer"],
    ),
    // Cases.
    (
        "[case.ghost-ferry]\nrequest = \"GET /ferries/ZZZ\"\nexpect  = \"no-such-ferry\"",
        "[case.ghost-ferry]\nrequest = \"GET /ferries/ZZZ\"",
        &["the case `ghost-ferry` says nothing"],
    ),
    (
        "request = \"GET /ferries/ZZZ\"",
        "request = \"GET ferries\"",
        &["this is not a request", "\"GET /berths/Z-99\""],
    ),
    (
        "[case.expired-token]\nheaders = { Authorization = \"string matching expired\" }",
        "[case.expired-token]",
        &["the case `expired-token` does not say which requests it is about"],
    ),
    (
        "{ \"/ferry\" = \"exactly OWL\" }",
        "{ ferry = \"exactly OWL\" }",
        &["`ferry` is not a JSON Pointer to a member"],
    ),
    ("situation = \"forbidden\"", "situation = \"forbiden\"", &["unknown situation `forbiden`"]),
    (
        "expect  = \"full\"",
        "expect = \"fulll\"",
        &["unknown fault `fulll`", "did you mean `full`?"],
    ),
    // Waivers.
    (
        "clause   = \"disclosure.database\"",
        "clause = \"disclosure.databases\"",
        &["unknown clause `disclosure.databases`", "did you mean `disclosure.database`?"],
    ),
    (
        "endpoint = \"GET /fares/{class}\"",
        "endpoint = \"GET /fares/{klass}\"",
        &["unknown endpoint `GET /fares/{klass}`"],
    ),
    (
        "reason   = \"the old fare tables; they go with the new till\"\n",
        "",
        &["a waiver without its `reason`"],
    ),
    (
        "until    = 2999-12-31",
        "until = \"next winter\"",
        &["`until` has to be a day", "2027-05-31"],
    ),
    (
        "[[waiver]]\nclause = \"media.matches-body\"",
        "[[waiver]]\nklause = \"media.matches-body\"",
        &["unknown key `klause` in `[[waiver]]`", "a waiver without its `clause`"],
    ),
    (
        "[[waiver]]\nclause = \"media",
        "[[waver]]\nclause = \"media",
        &["unknown key `waver` in a contract", "did you mean `waiver`?"],
    ),
    (
        "\"header.accept-hint\"     = \"off\"",
        "\"header.accept-hint\" = \"never\"",
        &["`never` is not a severity"],
    ),
];

#[test]
fn a_contract_that_uses_every_construct_has_no_mistake_and_no_notice() {
    let run = project(WHOLE).run("check a.har --allow-empty");
    assert_eq!(run.stderr, "", "{run}");
}

#[test]
fn every_construct_says_how_it_is_used_wrongly() {
    for (before, after, told) in CHANGES {
        let contract = WHOLE.replacen(before, after, 1);
        assert_ne!(contract, WHOLE, "{before}");
        let run = project(&contract).run("check a.har").exits(2);
        for words in told {
            assert!(
                run.stderr.contains(words),
                "{words:?} is not said of\n{after}\n{}",
                run.stderr
            );
        }
        assert!(run.stderr.contains("error-contract.toml:"), "{run}");
    }
}

#[test]
fn what_is_declared_and_never_used_is_a_notice() {
    let contract = WHOLE
        .replacen(
            "\"no-such-ferry\", \"invalid-input\", \"tides-away\"",
            "\"no-such-ferry\", \"invalid-input\"",
            1,
        )
        .replacen("success-shape = \"session\"\n", "", 1);
    let run = project(&contract).run("check a.har");
    let run = run.complains("the fault `tides-away` is declared and never used");
    run.complains("the shape `session` is declared and never used");
}
