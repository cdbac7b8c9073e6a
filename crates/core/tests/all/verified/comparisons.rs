//! What exchanges have in common, and where comparing stops.

use faithful_clerk_check::Check;
use faithful_clerk_check::ledger::Ledger;
use faithful_clerk_recording::Source;

use super::contract;

/// A title in another language is no second title (RFC 9457 section 3.1.3).
#[test]
fn a_localized_title_is_no_second_title() {
    let contract = contract(
        "contract = 1\nservers = [\"https://harbour.example/v1\"]\n[fault.none]\nstatus = 404\n[endpoint.\"GET /bookings\"]\nfaults = [\"none\"]\n",
    );
    let entry = |language: &str, title: &str| {
        let headers = serde_json::json!([
            {"name": "Content-Type", "value": "application/problem+json"},
            {"name": "Content-Language", "value": language},
        ]);
        let text = serde_json::json!({"type": "https://harbour.example/none", "title": title, "status": 404, "detail": "Z-99 is not in the register"});
        let text = text.to_string();
        serde_json::json!({
            "request": {"method": "GET", "url": "https://harbour.example/v1/bookings", "headers": []},
            "response": {"status": 404, "headers": headers, "content": {"text": text}},
        })
        .to_string()
    };
    for (second, broken) in
        [(("de", "Es gibt keine"), &[][..]), (("en", "Nothing"), &["problem.title-stable"])]
    {
        let lines = format!("{}\n{}\n", entry("en", "There is none"), entry(second.0, second.1));
        let mut ledger = Check::new(&contract).recording(Source::of(lines.as_bytes()), 0);
        ledger.conclude(&contract);
        let found: Vec<&str> = ledger
            .findings
            .keys()
            .map(|(_, clause)| *clause)
            .filter(|c| *c != "problem.type-status")
            .collect();
        assert_eq!(found, broken, "{second:?}");
    }
}

const OPEN: &str = "contract = 1\nservers = [\"https://harbour.example/v1\"]\n\
    [fault.invalid]\nstatus = 422\nwhen = [\"invalid-body\", \"invalid-parameters\"]\n\
    [fault.none]\nstatus = 404\nwhen = [\"resource-not-found\"]\n\
    [everywhere]\nfaults = [\"none\", \"invalid\"]\n\
    [endpoint.\"GET /bookings/{id}\"]\n\
    [endpoint.\"POST /bookings\"]\nbody-members = { nights = \"integer from 1 to 28\", crew = \"optional array of sailor\", berth = \"optional string at most 3\" }\n\
    parameters.query = { limit = \"optional integer\" }\n\
    [shape.sailor]\nname = \"string, at least 1\"\n";

/// What comparing finds in a recording of these requests and responses.
fn compared(exchanges: &[(&str, &str, u16, String)]) -> Ledger {
    let contract = contract(OPEN);
    let lines: String = exchanges
        .iter()
        .map(|(request, body, status, error)| {
            let (method, path) = request.split_once(' ').unwrap();
            let json = serde_json::json!([{"name": "Content-Type", "value": "application/json"}]);
            let problem = serde_json::json!([{"name": "Content-Type", "value": "application/problem+json"}]);
            let sent = (!body.is_empty()).then(|| serde_json::json!({"mimeType": "application/json", "text": body}));
            let entry = serde_json::json!({
                "request": {"method": method, "url": format!("https://harbour.example/v1{path}"), "headers": json, "postData": sent},
                "response": {"status": status, "headers": problem, "content": {"text": error}},
            });
            format!("{entry}\n")
        })
        .collect();
    let mut ledger = Check::new(&contract).recording(Source::of(lines.as_bytes()), 0);
    ledger.conclude(&contract);
    ledger
}

fn expected_words(ledger: &Ledger, clause: &str) -> Vec<String> {
    let of = ledger.findings.iter().filter(|((_, name), _)| *name == clause);
    of.flat_map(|(_, found)| found.kept.keys().map(|key| key.expected.to_string())).collect()
}

/// Most are more than half of at least three; else it is told that they differ, and not who is right.
#[test]
fn most_are_more_than_half_of_at_least_three() {
    let of = |titles: &[&str]| -> Vec<(&'static str, &'static str, u16, String)> {
        let body = |title: &&str| {
            let problem = serde_json::json!({"type": "https://harbour.example/none", "title": title, "detail": "Z-99 is not there"});
            ("GET /bookings/7", "", 404, problem.to_string())
        };
        titles.iter().map(body).collect()
    };
    let same =
        r#"the same in all 2 responses of the type https://harbour.example/none; 1 of them: "A""#;
    for (titles, words) in [
        (&["A", "A", "A"][..], &[][..]),
        (&["A", "B"], &[same]),
        (
            &["A", "A", "B"],
            &[r#""A", as in 2 of 3 responses of the type https://harbour.example/none"#],
        ),
        (
            &["A", "A", "B", "B"],
            &[
                r#"the same in all 4 responses of the type https://harbour.example/none; 2 of them: "A""#,
            ],
        ),
        (
            &["A", "A", "A", "B"],
            &[r#""A", as in 3 of 4 responses of the type https://harbour.example/none"#],
        ),
    ] {
        assert_eq!(
            expected_words(&compared(&of(titles)), "problem.title-stable"),
            words,
            "{titles:?}"
        );
    }
}

#[test]
fn a_comparison_says_when_it_stopped() {
    let typed = |n: usize| {
        let problem = serde_json::json!({"type": format!("https://harbour.example/{n}"), "title": "None", "detail": "Z-99 is not there"});
        ("GET /bookings/7", "", 404, problem.to_string())
    };
    let bounds = |count: usize| -> Vec<String> {
        let ledger = compared(&(0..count).map(typed).collect::<Vec<_>>());
        let told = ledger.bounds.iter().filter(|(clause, _)| *clause == "problem.title-stable");
        told.map(|(_, bound)| bound.words()).collect()
    };
    assert_eq!(bounds(2000), [] as [&str; 0]);
    assert_eq!(bounds(2001), ["only the first 2000 subjects were compared"]);
    let titled = |n: usize| {
        let problem = serde_json::json!({"type": "https://harbour.example/none", "title": format!("None {n}"), "detail": "Z-99 is not there"});
        ("GET /bookings/7", "", 404, problem.to_string())
    };
    let ledger = compared(&(0..21).map(titled).collect::<Vec<_>>());
    let told: Vec<String> = ledger
        .bounds
        .iter()
        .map(|(clause, bound)| format!("{clause}: {}", bound.words()))
        .collect();
    assert_eq!(told, ["problem.title-stable: only the first 20 values of a subject were compared"]);
}

/// What was taken for another shape, and is none; and what is one.
#[test]
fn violations_have_one_shape_where_one_reader_serves() {
    let crew = r#"{"nights":2,"crew":[{"name":""}]}"#;
    let nights = r#"{"nights":99}"#;
    let both = r#"{"nights":99,"crew":[{"name":""}]}"#;
    let post = "POST /bookings";
    let listed = r#"{"errors":[{"field":"nights","message":"at most 28"}]}"#;
    let query = "POST /bookings?limit=x";
    for (first, others, differs) in [
        // Optional members, parameters of a rule, the value that was sent.
        (
            listed,
            &[(
                post,
                crew,
                r#"{"errors":[{"field":"crew[0].name","message":"empty","code":"too_short"}]}"#,
            )][..],
            false,
        ),
        (
            listed,
            &[(
                post,
                crew,
                r#"{"errors":[{"field":"crew[0].name","message":"empty","params":{"min":1},"value":""}]}"#,
            )],
            false,
        ),
        (
            listed,
            &[(
                post,
                nights,
                r#"{"errors":[{"field":"nights","message":"at most 28","value":99}],"trace":"a7"}"#,
            )],
            false,
        ),
        (
            listed,
            &[(post, nights, r#"{"errors":[{"field":"nights","message":null,"code":"max"}]}"#)],
            false,
        ),
        // Trees and maps of messages, at different depths.
        (
            r#"{"nights":["at most 28"]}"#,
            &[(post, crew, r#"{"crew":{"0":{"name":["empty"]}}}"#)],
            false,
        ),
        (
            r#"{"nights":["at most 28"]}"#,
            &[(post, both, r#"{"nights":["at most 28"],"crew":{"0":{"name":["empty"]}}}"#)],
            false,
        ),
        (
            r#"{"nights":["at most 28"]}"#,
            &[(post, crew, r#"{"crew":[{"name":["empty"]}]}"#)],
            false,
        ),
        (
            r#"{"errors":{"nights":["at most 28"]}}"#,
            &[(post, crew, r#"{"errors":{"crew.0.name":["empty"]}}"#)],
            false,
        ),
        // The body as a whole has no field to name.
        (listed, &[(post, "[]", r#"{"errors":[{"message":"has to be an object"}]}"#)], false),
        // Parameters and fields are not compared with each other.
        (listed, &[(query, r#"{"nights":2}"#, r#"{"errors":{"limit":["no number"]}}"#)], false),
        // Another container, another member for the field, another place, another type.
        (listed, &[(post, nights, r#"{"errors":{"nights":["at most 28"]}}"#)], true),
        (listed, &[(post, nights, r#"{"errors":["nights: at most 28"]}"#)], true),
        (
            listed,
            &[(post, nights, r#"{"errors":[{"path":"nights","message":"at most 28"}]}"#)],
            true,
        ),
        (
            listed,
            &[(post, nights, r#"{"violations":[{"field":"nights","message":"at most 28"}]}"#)],
            true,
        ),
        (
            listed,
            &[(post, nights, r#"{"errors":[{"field":["nights"],"message":"at most 28"}]}"#)],
            true,
        ),
        (
            listed,
            &[(post, nights, r#"{"errors":[{"field":"nights","message":["at most 28"]}]}"#)],
            true,
        ),
        (listed, &[(post, nights, r#"{"message":"nights has to be at most 28"}"#)], true),
    ] {
        let mut exchanges: Vec<(&str, &str, u16, String)> =
            vec![(post, nights, 422, first.to_owned()); 2];
        exchanges.extend(
            others.iter().map(|(request, body, error)| (*request, *body, 422, (*error).to_owned())),
        );
        let words = expected_words(&compared(&exchanges), "validation.one-shape");
        assert_eq!(!words.is_empty(), differs, "{others:?}: {words:?}");
    }
}
