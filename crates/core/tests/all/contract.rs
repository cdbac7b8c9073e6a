//! The contract's mistakes: a table of text, place and message.

use faithful_clerk_contract::DiagnosticSeverity;

/// Each mistake as `LINE:COLUMN underlined: message`.
fn mistakes(text: &str) -> Vec<String> {
    let parsed = faithful_clerk_check::parse_contract(text);
    let grave = parsed
        .diagnostics
        .iter()
        .any(|diagnostic| diagnostic.severity == DiagnosticSeverity::Error);
    assert_eq!(parsed.contract.is_none(), grave, "{:#?}", parsed.diagnostics);
    parsed
        .diagnostics
        .iter()
        .map(|diagnostic| {
            let (line, column) = diagnostic.line_and_column(text);
            let underlined = text.get(diagnostic.span.clone()).unwrap_or_default();
            format!("{line}:{column} {underlined}: {}", diagnostic.message)
        })
        .collect()
}

/// A contract that uses all there is, so that a line more is one mistake more.
const WHOLE: &str = r#"contract = 1
service = "Harbour"
servers = ["https://harbour.example/v1"]
credentials = ["Authorization"]
[paths]
trailing-slash = "ignored"
exclude = ["/health"]
[error]
media = "application/problem+json"
shape = "base"
[shape.base]
like = "problem"
code = "integer or null"
closed = true
[shape.base.where]
quay = "optional string"
[fault.none]
status = 404
type = "/faults/none"
title = "None"
media = "application/json"
shape = "problem"
members = { quay_id = "string" }
when = ["resource-not-found"]
[fault.busy]
status = 503
any-request = true
[fault.failed]
status = 500
internal = true
[everywhere]
faults = ["busy", "failed"]
[endpoint."GET /berths/{id}"]
success = [200]
faults = ["none"]
auth = "none"
accepts = ["application/*"]
body-members = { nights = "integer" }
[severity]
"shape.declared" = "warning"
"#;

#[test]
fn a_contract_that_uses_all_there_is_has_no_mistakes() {
    assert_eq!(mistakes(WHOLE), Vec::<String>::new());
}

/// Each mistake: a text of [`WHOLE`], what stands there instead, and what is told.
const MISTAKES: &[(&str, &str, &str)] = &[
    ("contract = 1", "", "1:1 : the contract does not say its version"),
    ("contract = 1", "contract = \"1\"", "1:12 \"1\": `contract` has to be a whole number"),
    ("contract = 1", "contract = 3", "1:12 3: `contract` is out of range"),
    ("\"Harbour\"", "7", "2:11 7: `service` has to be a quoted string"),
    ("https://harbour", "harbour", "3:12 \"harbour.example/v1\": this is not a base URL"),
    ("\"ignored\"", "\"same\"", "6:18 \"same\": `trailing-slash` can't be \"same\""),
    ("\"/health\"", "\"health\"", "7:12 \"health\": this is not a path template"),
    ("shape = \"base\"", "shape = \"bass\"", "10:9 \"bass\": unknown shape `bass`"),
    (
        "[shape.base]",
        "[shape.string]",
        "11:8 string: `string` is a built-in type name, so a shape can't have it",
    ),
    ("like = \"problem\"", "like = \"base\"", "12:8 \"base\": a shape can't be like itself"),
    (
        "integer or null",
        "integer or nil",
        "13:20 nil: `nil` is neither a type name nor a shape of this contract",
    ),
    ("closed = true", "closed = 1", "14:10 1: `closed` has to be true or false"),
    ("closed = true", "closed = \"yes\"", "14:10 \"yes\": `closed` can't be \"yes\""),
    ("integer or null", "integer or absent", "13:9 integer or absent: `absent` stands alone"),
    (
        "integer or null",
        "array of (integer or null",
        "13:18 (integer or null: this parenthesis is not closed",
    ),
    (
        "integer or null",
        "(string matching ^a$)",
        "13:26 ^a$): `matching` can't stand in parentheses",
    ),
    (
        "[shape.base]",
        "[shape]\nloop = \"loop\"\n[shape.base]",
        "12:8 \"loop\": a shape can't be itself",
    ),
    (
        "[shape.base]",
        "[shape]\nlist = \"optional array of base\"\n[shape.base]",
        "12:8 \"optional array of base\": a shape can't be optional",
    ),
    (
        "[shape.base]\nlike = \"problem\"",
        "[shape]\nlist = \"array of base\"\n[shape.base]\nlike = \"list\"",
        "14:8 \"list\": the shape `list` is not an object, so it takes no members",
    ),
    ("media = \"application/json\"", "media = []", "21:9 []: the list of media types is empty"),
    (
        "[error]",
        "[validation-errors]\nlocations = \"dots\"\n[error]",
        "9:13 \"dots\": `locations` can't be \"dots\"",
    ),
    (
        "[error]",
        "[validation-errors]\nparameters = \"{in}\"\n[error]",
        "9:14 \"{in}\": `parameters` names no parameter",
    ),
    (
        "[severity]",
        "[group.a]\nwith = [\"bodies\"]\n[severity]",
        "40:9 \"bodies\": an endpoint has no part called `bodies`",
    ),
    (
        "[severity]",
        "[group.a]\nwith = [\"query-parameters\"]\n[severity]",
        "40:8 [\"query-parameters\"]: no endpoint of this pattern has what `with` asks for",
    ),
    (
        "[severity]",
        "[group.a]\nauth = \"none\"\n[severity]",
        "39:8 a: the group `a` does not say which endpoints are in it",
    ),
    (
        "{ nights = \"integer\" }",
        "{ nights = \"integer\" }\nbody-rules = 1",
        "39:14 1: `body-rules` has to be a list of tables",
    ),
    (
        "{ nights = \"integer\" }",
        "{ nights = \"integer\" }\nbody-rules = [{ later-than = \"/nights\" }]",
        "39:15 { later-than = \"/nights\" }: this rule does not say which member is reported",
    ),
    (
        "{ nights = \"integer\" }",
        "{ nights = \"integer\" }\nbody-rules = [{ member = \"/nights\" }]",
        "39:15 { member = \"/nights\" }: a rule of `body-rules` has one of `later-than`, `differs-from`, `required-with` and `one-of`",
    ),
    (
        "{ nights = \"integer\" }",
        "{ nights = \"integer\" }\nbody-rules = [{ member = \"/nights\", later-than = \"nights\" }]",
        "39:50 \"nights\": `nights` is not a JSON Pointer to a member",
    ),
    (
        "{ nights = \"integer\" }",
        "{ nights = \"integer\" }\nbody-rules = [{ member = \"/nights\", one-of = [\"/nights\"] }]",
        "39:46 [\"/nights\"]: `one-of` has to be a list of two members or more",
    ),
    (
        "{ nights = \"integer\" }",
        "{ nights = \"integer\" }\nbody-rules = [{ member = \"/nights\", later-than = \"/crew/*\" }]",
        "39:15 { member = \"/nights\", later-than = \"/crew/*\" }: this rule has a `*` that stands for no item of the reported member",
    ),
    (
        "{ nights = \"integer\" }",
        "{ nights = \"integer\" }\nbody-rules = [{ member = \"/nights\", later-than = \"/days\" }]",
        "39:50 \"/days\": the body has no member at `/days`",
    ),
    (
        "media = \"application/json\"",
        "media = [\"application/json\", \"json\"]",
        "21:30 \"json\": `media` has to be a media type",
    ),
    (
        "any-request = true",
        "any-request = true\nheaders = { WWW-Authenticate = \"challenge Bearer with error\" }",
        "28:32 \"challenge Bearer with error\": this is not a challenge",
    ),
    ("optional string\"", "optional string most 3\"", "16:25 most 3: `most` starts no limit"),
    ("status = 404", "status = 604", "18:10 604: the `status` of a fault is out of range"),
    ("status = 404\n", "\n", "17:8 none: the fault `none` has no status"),
    (
        "\"/faults/none\"",
        "\"a b\"",
        "19:8 \"a b\": a problem type has to be a URI (RFC 9457 section 3.1.1)",
    ),
    ("\"application/json\"", "\"json\"", "21:9 \"json\": `media` has to be a media type"),
    ("\"resource-not-found\"", "\"missing\"", "24:9 \"missing\": unknown situation `missing`"),
    (
        "any-request = true",
        "any-request = true\ninternal = true",
        "27:15 true: a fault is `any-request` or `internal`, not both",
    ),
    (
        "[\"busy\", \"failed\"]",
        "[\"busy\", \"faild\", \"failed\"]",
        "32:19 \"faild\": unknown fault `faild`",
    ),
    ("GET /berths/{id}", "GET berths", "33:16 berths: this is not a path template"),
    (
        "GET /berths/{id}",
        "/berths/{id}",
        "33:11 \"/berths/{id}\": an endpoint is a method and a path",
    ),
    ("GET /berths/{id}", "Get /berths/{id}", "33:12 Get: the method is `GET`, in capitals"),
    ("success = [200]", "success = [404]", "34:12 404: the status of a success is out of range"),
    ("auth = \"none\"", "auth = \"luck\"", "36:8 \"luck\": `auth` can't be \"luck\""),
    (
        "\"integer\" }",
        "5 }",
        "38:27 5: the member `nights` of `GET /berths/{id}` has to be a quoted string",
    ),
    ("\"shape.declared\"", "\"shape.keep\"", "40:1 \"shape.keep\": unknown clause `shape.keep`"),
    ("\"warning\"", "\"error\"", "40:20 \"error\": `error` is not a severity"),
    ("[paths]", "[path]", "5:2 path: unknown key `path` in a contract"),
    ("auth = \"none\"", "auth = []", "36:8 []: the list of credentials is empty"),
    (
        "auth = \"none\"",
        "auth = [\"Bearer\", \"token in body\"]",
        "36:19 \"token in body\": `token in body` is no scheme of credentials",
    ),
    (
        "[severity]",
        "[case.x]\ngroup = \"quays\"\nexpect = \"none\"\n[severity]",
        "40:9 \"quays\": unknown group `quays`",
    ),
    (
        "auth = \"none\"",
        "partial = { failures = \"/f\", index = \"/i\", pointer = \"/p\" }",
        "36:54 \"/p\": entries are told apart by one of `match-by`, `index` and `pointer`",
    ),
    (
        "auth = \"none\"",
        "partial = { failures = \"/f\", succeeded = \"/f\" }",
        "36:11 { failures = \"/f\", succeeded = \"/f\" }: nothing tells failures from what succeeded, as both are in one array",
    ),
    (
        "integer or null",
        "date not before arrives",
        "13:8 \"date not before arrives\": there is no member `arrives` beside it",
    ),
    (
        "integer or null",
        "string not before a",
        "13:16 not before a: this limit means nothing for this type",
    ),
    ("integer or null", "date not before", "13:24 \": the name of a member is missing here"),
    ("integer or null", "same as header", "13:23 \": the name of a header is missing here"),
    (
        "[severity]",
        "[validation-errors]\nmissing-member = \"/member\"\n[severity]",
        "40:18 \"/member\": `missing-member` is for violations that name the parent",
    ),
    (
        "[severity]",
        "[validation-errors]\nduplicates = \"never\"\n[severity]",
        "40:14 \"never\": `duplicates` can't be \"never\"",
    ),
    (
        "[severity]",
        "[region.\"berths/**\"]\nauth = \"none\"\n[severity]",
        "39:9 \"berths/**\": this names no paths",
    ),
    (
        "[severity]",
        "[region.\"/berths/**\"]\nmedia = \"text/html\"\n[severity]",
        "40:1 media: unknown key `media` in [region.\"/berths/**\"]",
    ),
    (
        "[severity]",
        "[region.\"/berth/**\"]\nauth = \"none\"\n[severity]",
        "39:9 \"/berth/**\": no endpoint lies in this region",
    ),
    (
        "[severity]",
        "[envelope]\ntitle = \"/titles/{language}\"\n[severity]",
        "40:9 \"/titles/{language}\": the contract has no languages",
    ),
    (
        "success =",
        "sucess =",
        "34:1 sucess: unknown key `sucess` in [endpoint.\"GET /berths/{id}\"]",
    ),
];

#[test]
fn each_mistake_is_told_with_its_place() {
    for (change, with, told) in MISTAKES {
        let text = WHOLE.replacen(change, with, 1);
        assert_ne!(text, WHOLE, "{change}");
        let found = mistakes(&text);
        assert!(found.contains(&(*told).to_owned()), "{told}\nfound {found:#?}");
    }
}

#[test]
fn broken_toml_is_told_with_the_other_mistakes_and_nothing_is_missed_because_of_it() {
    let text = "contract = 1\nservice = \nservers = [\"x\"]\n[fault.a]\nstatus 404\n[severity]\n\"x.y\" = \"off\"\n";
    let found = mistakes(text);
    let locations: Vec<&str> = found.iter().filter_map(|line| line.split(' ').next()).collect();
    assert!(locations.contains(&"3:12") && locations.contains(&"7:1"), "{found:#?}");
    assert_eq!(found.iter().filter(|line| line.contains("not TOML")).count(), 2, "{found:#?}");
    assert!(!found.iter().any(|line| line.contains("has no status")), "{found:#?}");
}

/// What belongs to a table whose head is broken is not read as part of the table before.
#[test]
fn a_broken_head_takes_its_table_with_it() {
    let text = "contract = 1\n[endpoint.GET /berths]\nsuccess = [200]\n\n[fault.a]\nstatus = 404\n\
                [fault.a]\nstatus = 405\nttle = \"ä\"\n[severity]\n\"x.y\" = \"off\"\n";
    assert_eq!(
        mistakes(text),
        [
            "2:1 [endpoint.GET /berths]: the name of an endpoint has to be quoted",
            "7:8 a: this is declared twice",
            "11:1 \"x.y\": unknown clause `x.y`",
        ]
    );
}

#[test]
fn words_of_other_languages_find_their_kind() {
    for (word, kind) in
        [("text", "string"), ("bool", "boolean"), ("list of x", "array of"), ("strng", "string")]
    {
        let text = format!("contract = 1\n[shape.a]\nx = \"{word}\"\n");
        let label = &faithful_clerk_check::parse_contract(&text).diagnostics[0].label;
        assert_eq!(*label, format!("did you mean `{kind}`?"), "{word}");
    }
}

#[test]
fn declared_and_never_used_is_a_notice() {
    let text = format!("{WHOLE}[fault.idle]\nstatus = 410\n[shape.idle]\nx = \"string\"\n");
    assert_eq!(
        mistakes(&text),
        [
            "41:8 idle: the fault `idle` is declared and never used",
            "43:8 idle: the shape `idle` is declared and never used",
        ]
    );
    assert_eq!(
        mistakes("contract = 1"),
        ["1:1 : the contract declares no endpoint, so nothing can be checked against it"]
    );
}

#[test]
fn shapes_can_be_like_one_another_in_any_order() {
    let text = "contract = 1\n[error]\nshape = \"c\"\n[shape.c]\nlike = \"b\"\nz = \"string\"\n\
                [shape.a]\nlike = \"problem\"\nx = \"string\"\n[shape.b]\nlike = \"a\"\nx = \"integer\"\n\
                [endpoint.\"GET /\"]\n";
    let contract = faithful_clerk_check::parse_contract(text).contract.unwrap();
    let shape = contract.shapes.get(contract.style.error.shape.unwrap()).unwrap();
    let names: Vec<&str> = shape.members.iter().map(|member| member.name.as_str()).collect();
    assert_eq!(names, ["type", "title", "status", "detail", "instance", "x", "z"]);
    assert!(shape.is_problem);
    assert_eq!(shape.member("x").unwrap().text, "integer");
    let ring = text.replace("like = \"problem\"", "like = \"c\"");
    assert_eq!(mistakes(&ring).len(), 1);
}

#[test]
fn a_hostile_contract_is_parsed_to_its_end() {
    let mut many =
        "contract = 1\n[fault.a]\nstatus = 404\n[everywhere]\nfaults = [\"a\"]\n".to_owned();
    for number in 0..5000 {
        many.push_str(&format!("[endpoint.\"GET /x{number}/{{id}}\"]\n"));
    }
    assert_eq!(mistakes(&many), Vec::<String>::new());
    let mut chain = "contract = 1\n[endpoint.\"GET /\"]\n[error]\nshape = \"s0\"\n".to_owned();
    for number in 0..2000 {
        chain.push_str(&format!("[shape.s{number}]\nlike = \"s{}\"\n", number + 1));
    }
    chain.push_str("[shape.s2000]\nx = \"string\"\n");
    let contract = faithful_clerk_check::parse_contract(&chain).contract.unwrap();
    let shape = contract.shapes.get(contract.style.error.shape.unwrap()).unwrap();
    assert!(shape.member("x").is_some());
    let deep = format!("contract = 1\nx = {}{}\n", "[".repeat(10_000), "]".repeat(10_000));
    assert!(!mistakes(&deep).is_empty());
    let broken = "= =\n".repeat(20_000);
    assert!(mistakes(&broken).len() >= 50);
}

/// A contract as JSON, as an editor sees it; dates are strings.
fn as_json(text: &str) -> serde_json::Value {
    fn json(value: toml::Value) -> serde_json::Value {
        match value {
            toml::Value::Datetime(date) => date.to_string().into(),
            toml::Value::Array(items) => items.into_iter().map(json).collect(),
            toml::Value::Table(members) => {
                members.into_iter().map(|(name, value)| (name, json(value))).collect()
            }
            other => serde_json::to_value(other).unwrap(),
        }
    }
    json(toml::Value::Table(text.parse().unwrap()))
}

/// Editors check a contract by its JSON Schema: it takes every example of the reference, and refuses every mistake that
/// can be told without the rest of the contract.
#[test]
fn the_schema_of_contracts_says_what_a_schema_can_say() {
    let schema = serde_json::from_str(faithful_clerk_contract::CONTRACT_SCHEMA).unwrap();
    let schema = jsonschema::validator_for(&schema).unwrap();
    assert!(schema.is_valid(&as_json(WHOLE)));
    let page = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/contract.md");
    let page = std::fs::read_to_string(page).unwrap();
    let examples: Vec<&str> =
        page.split("```toml\n").skip(1).filter_map(|rest| rest.split("```").next()).collect();
    assert!(examples.len() > 20);
    for example in examples {
        let contract = as_json(&format!("contract = 1\n{example}"));
        let errors: Vec<String> =
            schema.iter_errors(&contract).map(|error| error.to_string()).collect();
        assert!(errors.is_empty(), "{example}\n{errors:#?}");
    }
    // References to names, the grammar of type expressions, and the names of clauses are beyond a schema.
    let beyond = [
        "unknown shape",
        "is a built-in type name",
        "can't be like itself",
        "is neither a type name nor a shape",
        "starts no limit",
        "unknown fault",
        "unknown clause",
        "stands alone",
        "is not closed",
        "can't stand in parentheses",
        "can't be itself",
        "can't be optional",
        "takes no members",
        "is not a challenge",
        "stands for no item",
        "no endpoint of this pattern",
        "the body has no member",
        "no endpoint lies in",
        "beside it",
        "unknown group",
        "are told apart by",
        "nothing tells failures",
        "this limit means nothing",
        "is missing here",
        "for violations that name the parent",
        "the contract has no languages",
    ];
    for (change, with, told) in MISTAKES {
        let is_beyond = beyond.iter().any(|words| told.contains(words));
        let is_valid = schema.is_valid(&as_json(&WHOLE.replacen(change, with, 1)));
        assert_eq!(is_valid, is_beyond, "{told}");
    }
}
