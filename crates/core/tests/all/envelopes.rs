//! Envelopes: where things are in a body of the service's own.

use crate::judging::found;

fn told(contract: &str, headers: &str, body: &str) -> Vec<String> {
    let request = format!("GET https://harbour.example/berths/Z\n{headers}");
    let answer = format!("HTTP/1.1 404 X\nContent-Type: application/json\n\n{body}");
    let found = found(contract, &request, &answer).into_iter();
    found.map(|one| format!("{} {}: {}", one.clause, one.location, one.got)).collect()
}

fn contract(envelope: &str) -> String {
    format!(
        "contract = 1\nservers = [\"https://harbour.example\"]\nlanguages = [\"en\", \"de\"]\n\
         [error]\nmedia = \"application/json\"\n[envelope]\n{envelope}\n\
         [fault.none]\nstatus = 404\ncode = \"none\"\ntitle = {{ en = \"No berth\", de = \"Kein Platz\" }}\nwhen = [\"resource-not-found\"]\n\
         [fault.moved]\nstatus = 404\ncode = \"moved\"\ntitle = {{ en = \"Moved\", de = \"Umgezogen\" }}\nwhen = [\"resource-not-found\"]\n\
         [codes]\n[endpoint.\"GET /berths/{{id}}\"]\nfaults = [\"none\", \"moved\"]\n"
    )
}

#[test]
fn one_title_is_in_the_language_that_is_due() {
    let contract = contract("code = \"/e/code\"\ntitle = \"/e/title\"");
    let body = |title: &str| format!(r#"{{"e":{{"code":"none","title":"{title}"}}}}"#);
    let german = "Accept-Language: de";
    assert_eq!(told(&contract, "", &body("No berth")), [""; 0]);
    assert_eq!(
        told(&contract, german, &body("Kein Platz")),
        ["header.vary header Vary: no such header"]
    );
    assert_eq!(
        told(&contract, "", &body("Kein Platz")),
        ["language.negotiated body /e/title: \"Kein Platz\", which is de"]
    );
    assert_eq!(
        told(&contract, "", &body("Moved")),
        ["body.title-declared body /e/title: \"Moved\""]
    );
    assert_eq!(told(&contract, "", &body("Nope")), ["body.title-declared body /e/title: \"Nope\""]);
}

#[test]
fn texts_can_stand_in_each_language() {
    let contract = contract(
        "code = \"/e/code\"\ntitle = \"/e/title/{language}\"\nmessage = \"/e/text/{language}\"",
    );
    let body = |title: &str, text: &str| {
        format!(r#"{{"e":{{"code":"none","title":{title},"text":{text}}}}}"#)
    };
    let titles = r#"{"en":"No berth","de":"Kein Platz"}"#;
    let texts = r#"{"en":"no berth Z","de":"kein Platz Z"}"#;
    assert_eq!(told(&contract, "", &body(titles, texts)), [""; 0]);
    for (title, text, finding) in [
        (r#"{"en":"No berth"}"#, texts, "body.title-declared body /e/title/de: nothing"),
        (
            r#"{"en":"Kein Platz","de":"Kein Platz"}"#,
            texts,
            "body.title-declared body /e/title/en: \"Kein Platz\"",
        ),
        (titles, r#"{"en":"no berth Z"}"#, "body.explains body /e/text/de: nothing"),
        (titles, r#"{"en":"no berth Z","de":" "}"#, "body.explains body /e/text/de: none"),
    ] {
        assert_eq!(told(&contract, "", &body(title, text)), [finding], "{title} {text}");
    }
}

/// Of several errors each has its own code and title; the response's fault is the one that one of them has.
#[test]
fn errors_can_stand_in_a_list() {
    let contract = contract(
        "code = \"/errors/*/code\"\nstatus = \"/errors/*/status\"\ntitle = \"/errors/*/title\"",
    );
    let one = r#"{"code":"none","status":404,"title":"No berth"}"#;
    let other = r#"{"code":"moved","status":404,"title":"Moved"}"#;
    let list = |items: &[&str]| format!("{{\"errors\":[{}]}}", items.join(","));
    assert_eq!(told(&contract, "", &list(&[one])), [""; 0]);
    assert_eq!(told(&contract, "", &list(&[one, other])), [""; 0]);
    assert_eq!(told(&contract, "", &list(&[other, one])), [""; 0]);
    let wrong_title = other.replace("Moved", "No berth");
    assert_eq!(
        told(&contract, "", &list(&[one, &wrong_title])),
        ["body.title-declared body /errors/1/title: \"No berth\""]
    );
    let wrong_code = other.replace("moved", "lost");
    assert_eq!(
        told(&contract, "", &list(&[one, &wrong_code])),
        [
            "body.title-declared body /errors/1/title: \"Moved\"",
            "code.declared body /errors/1/code: lost"
        ]
    );
    let wrong_status = one.replace("404", "410");
    assert_eq!(
        told(&contract, "", &list(&[&wrong_status])),
        ["status.body-agrees body /errors/0/status: 410"]
    );
    // Of several errors each may have a status of its own.
    assert_eq!(told(&contract, "", &list(&[one, &wrong_status])), [""; 0]);
}
