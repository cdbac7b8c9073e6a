//! What a probe plans is in the situation that it is meant for.

use std::collections::BTreeMap;

use faithful_clerk_contract::ErrorContract;
use faithful_clerk_insight::probe::{PlanBounds, PlannedRequest, ProbePlan};
use faithful_clerk_model::situation::Situation;
use faithful_clerk_schema::FileLoader;
use proptest::prelude::*;

const PHRASES: [&str; 22] = [
    "string",
    "string from 3 to 5",
    "string, at most 200",
    "string matching ^[A-Z]{2}[0-9]{4}$",
    "number from 2 to 60",
    "number at most 0.5",
    "integer from 1 to 28",
    "integer",
    "boolean",
    "object",
    "uri",
    "date",
    "date-time",
    "language tag",
    "one of a, b",
    "exactly 4",
    "array of integer, at least 1",
    "date or null",
    "not exactly a",
    "http-date",
    "array of (string or integer), at least 1",
    "(one of a, b) or integer",
];

fn contract(fields: &[(usize, bool)], parameter: usize) -> ErrorContract {
    let mut text = String::from(
        "contract = 1\nservers = [\"https://harbour.example/v1\"]\n[error]\nmedia = \"application/problem+json\"\n\
         [fault.refused]\nstatus = 422\ntitle = \"No\"\n when = [\"invalid-body\", \"invalid-parameters\"]\n\
         [fault.missing]\nstatus = 404\ntitle = \"Not Found\"\n when = [\"resource-not-found\"]\n\
         [everywhere]\nfaults = [\"refused\", \"missing\"]\n\
         [endpoint.\"POST /things/{id}\"]\nsuccess = [200]\nauth = \"required\"\naccepts = [\"application/json\"]\n\
         max-request-body = 500\n[endpoint.\"POST /things/{id}\".body-members]\n",
    );
    for (number, (expression, optional)) in fields.iter().enumerate() {
        let optional = if *optional { "optional " } else { "" };
        text.push_str(&format!(
            "m{number} = '{optional}{}'\n",
            PHRASES[expression % PHRASES.len()]
        ));
    }
    let expression = PHRASES[parameter % PHRASES.len()];
    text.push_str(&format!(
        "[endpoint.\"GET /things\"]\nsuccess = [200]\nauth = \"none\"\n\
         [endpoint.\"GET /things\".parameters.query]\nq = '{expression}'\n"
    ));
    let parsed = faithful_clerk_check::parse_contract(&text);
    parsed.contract.unwrap_or_else(|| panic!("{:?}\n{text}", parsed.diagnostics))
}

proptest! {
    #[test]
    fn every_request_is_what_it_is_planned_as(
        fields in prop::collection::vec((any::<usize>(), any::<bool>()), 1..6),
        parameter in any::<usize>(),
    ) {
        let contract = contract(&fields, parameter);
        let plan = ProbePlan::of(&contract, &BTreeMap::new(), PlanBounds::default());
        for planned in &plan.requests {
            prop_assert!(planned.is_as_planned(&contract), "{planned:?}");
        }
        // Nothing had to be left out: what is planned is right in the first place. But no text is null, or an object.
        let is_never_sent = matches!(PHRASES[parameter % PHRASES.len()], "null" | "object");
        let left_out: Vec<&str> = plan.left_out.iter().map(|one| one.name.as_str()).collect();
        let expected = ["GET /things: a valid request"];
        prop_assert_eq!(left_out, &expected[..usize::from(is_never_sent)]);
        let has = |situation| plan.requests.iter().any(|planned| planned.situation == Some(situation));
        for situation in [
            Situation::MalformedBody,
            Situation::InvalidBody,
            Situation::UnsupportedMediaType,
            Situation::MissingCredentials,
            Situation::InvalidCredentials,
            Situation::MethodNotAllowed,
            Situation::UnknownRoute,
            Situation::ResourceNotFound,
            Situation::ContentTooLarge,
        ] {
            prop_assert!(has(situation), "{situation:?}");
        }
    }
}

/// Files that are there only in a test.
#[derive(Debug)]
struct Beside(&'static str);

impl FileLoader for Beside {
    fn read(&self, path: &str) -> Result<Vec<u8>, String> {
        if path == "api.yaml" {
            Ok(self.0.as_bytes().to_vec())
        } else {
            Err("not there".to_owned())
        }
    }
}

const DESCRIPTION: &str = r##"
openapi: 3.1.0
info: {title: Harbour, version: "1"}
servers: [{url: "https://harbour.example/v1"}]
paths:
  /reservations/{id}:
    parameters: [{name: id, in: path, required: true, schema: {type: string, format: uuid}}]
    put:
      parameters:
        - {name: notify, in: query, required: true, schema: {type: boolean}}
        - {name: X-Office, in: header, schema: {type: integer, minimum: 1}}
      requestBody:
        required: true
        content: {application/json: {schema: {$ref: "#/components/schemas/Reservation"}}}
      responses: {"200": {description: done}}
components:
  schemas:
    Reservation:
      type: object
      additionalProperties: false
      required: [vessel, nights, crew]
      properties:
        vessel: {allOf: [{$ref: "#/components/schemas/Vessel"}]}
        nights: {type: integer, minimum: 1, maximum: 28}
        crew: {type: array, minItems: 1, maxItems: 3, items: {type: string, minLength: 2}}
        berth: {type: string, pattern: "^[A-F]-[0-9]{1,2}$"}
        note: {type: [string, "null"], maxLength: 20}
        kind: {enum: [day, night]}
    Vessel:
      type: object
      required: [name]
      properties: {name: {type: string, minLength: 3}, home: {$ref: "#/components/schemas/Reservation"}}
"##;

/// Bodies and parameters are made up from a description, too: each request is in the situation that it is planned for, by
/// the schema's own result.
#[test]
fn a_description_is_enough_for_a_plan() {
    let text = "contract = 1\nopenapi = \"api.yaml\"\n[fault.refused]\nstatus = 422\n\
                when = [\"invalid-body\", \"invalid-parameters\"]\n[everywhere]\nfaults = [\"refused\"]\n";
    let parsed = faithful_clerk_check::parse_contract_with_files(text, &Beside(DESCRIPTION));
    let contract = parsed.contract.unwrap_or_else(|| panic!("{:?}", parsed.diagnostics));
    let plan = ProbePlan::of(&contract, &BTreeMap::new(), PlanBounds::default());
    assert_eq!(plan.left_out, Vec::new());
    let names: Vec<&str> = plan.requests.iter().map(|planned| planned.name.as_str()).collect();
    for what in [
        "malformed JSON",
        "an empty body",
        "`{}`",
        "without `vessel`",
        "without `nights`",
        "`nights` too small",
        "`nights` too large",
        "`nights` of another JSON type",
        "`nights` null",
        "`crew` with too few items",
        "`crew` with too many items",
        "`berth` of the wrong format",
        "`note` too long",
        "`kind` none of those that are allowed",
        "`vessel` of another JSON type",
        "an unknown member",
        "all fields wrong at once",
        "`id` of another type",
        "`notify` of another type",
        "without `notify`",
        "`X-Office` too small",
        "without `vessel.name`",
        "`vessel.name` too short",
        "`nights` at its most",
    ] {
        let name = format!("PUT /reservations/{{id}}: {what}");
        assert!(names.contains(&name.as_str()), "{name} is not in {names:#?}");
    }
    // Null is allowed there.
    assert!(!names.contains(&"PUT /reservations/{id}: `note` null"));
    for planned in &plan.requests {
        assert!(planned.is_as_planned(&contract), "{planned:?}");
    }
    let large = plan.requests.iter().find(|planned| planned.name.ends_with("`nights` too large"));
    let large = large.unwrap();
    let body: serde_json::Value = serde_json::from_str(large.body.as_ref().unwrap()).unwrap();
    assert_eq!(body["nights"], 29);
    assert_eq!(body["vessel"]["name"], "xxx");
    assert!(large.target.ends_with("?notify=true"), "{}", large.target);
}

/// A rule across members is kept by every other body, and broken alone by one.
#[test]
fn rules_across_members_have_requests_of_their_own() {
    let text = r#"
contract = 1
servers = ["https://harbour.example/v1"]
[fault.refused]
status = 422
when = ["invalid-body"]
[endpoint."POST /stays"]
success = [201]
faults = ["refused"]
body-rules = [
  { member = "/departs", later-than = "/arrives" },
  { member = "/next", differs-from = "/berth" },
  { member = "/skipper", required-with = "/crew" },
  { member = "/berth", one-of = ["/berth", "/quay"] },
]
[endpoint."POST /stays".body-members]
arrives = "date"
departs = "date"
berth   = "optional string"
quay    = "optional integer"
next    = "optional string"
crew    = "optional array of string"
skipper = "optional string"
agent   = "absent"
"#;
    let parsed = faithful_clerk_check::parse_contract(text);
    let contract = parsed.contract.unwrap_or_else(|| panic!("{:?}", parsed.diagnostics));
    let plan = ProbePlan::of(&contract, &BTreeMap::new(), PlanBounds::default());
    let body = |what: &str| -> serde_json::Value {
        let name = format!("POST /stays: {what}");
        let planned = plan.requests.iter().find(|planned| planned.name == name);
        let planned = planned.unwrap_or_else(|| panic!("{name} is not in {:#?}", plan.requests));
        assert!(planned.is_as_planned(&contract), "{planned:?}");
        serde_json::from_str(planned.body.as_ref().unwrap()).unwrap()
    };
    let later = body("`/departs` not later than `/arrives`");
    assert_eq!(later["departs"], later["arrives"]);
    assert!(later.get("agent").is_none());
    let same = body("`/next` not another value than `/berth`");
    assert_eq!(same["next"], same["berth"]);
    assert!(body("`/skipper` not there if `/crew` is").get("skipper").is_none());
    let none = body("`/berth` not exactly one of `/berth`, `/quay`");
    assert!(none.get("berth").is_none() && none.get("quay").is_none());
    // What is about one member breaks no rule across them.
    let null = body("`skipper` null");
    assert_ne!(null["departs"], null["arrives"]);
}

/// A case keeps what a response gave; a later one uses it, and fits no request before that.
#[test]
fn cases_build_on_one_another() {
    let text = r#"
contract = 1
servers = ["https://harbour.example/v1"]
[fault.gone]
status = 409
when = ["conflict"]
[endpoint."POST /reservations"]
success = [201]
accepts = ["application/json"]
[endpoint."POST /reservations".body-members]
nights = "integer from 1 to 28"
note   = "optional string"
[endpoint."DELETE /reservations/{id}"]
success = [204]
faults = ["gone"]
[case.book]
request = "POST /reservations"
body    = { "/note" = "exactly mine" }
expect  = "success"
save    = { booked = "/id", quay = "/berth/quay" }
[case.cancel-again]
request = "DELETE /reservations/{booked}?quay=%7Bquay%7D"
expect  = "gone"
"#;
    let mut contract = faithful_clerk_check::parse_contract(text).contract.unwrap();
    let plan = ProbePlan::of(&contract, &BTreeMap::new(), PlanBounds::default());
    let named = |name: &str| plan.requests.iter().find(|one| one.name == name).unwrap();
    let (book, cancel) = (named("case book"), named("case cancel-again"));
    assert_eq!(book.body.as_deref(), Some(r#"{"nights":1,"note":"mine"}"#));
    assert_eq!(book.situation, None);
    assert_eq!(cancel.uses, ["booked", "quay"]);
    let kept: BTreeMap<String, String> =
        [("booked", "r-1/2"), ("quay", "north")].map(|(a, b)| (a.to_owned(), b.to_owned())).into();
    assert_eq!(cancel.with(&BTreeMap::new()), None);
    let sent = cancel.with(&kept).unwrap();
    assert_eq!(sent.target, "/reservations/r-1%2F2?quay=north");
    // Only now the case says something about requests.
    let sent = PlannedRequest { uses: Vec::new(), situation: Some(Situation::Conflict), ..sent };
    let holds = |contract: &ErrorContract| {
        contract.cases.iter().filter(|case| case.uses.is_empty()).count()
    };
    assert_eq!(holds(&contract), 1);
    contract.bind(&kept);
    assert_eq!(holds(&contract), 2);
    assert!(sent.is_as_planned(&contract));
}
