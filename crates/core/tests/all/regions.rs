//! Regions: one service, several styles of errors, one contract.

use crate::judging::{clauses, found, is_excluded};

/// An envelope everywhere, problems under `/v2`, error objects under `/v2/events`.
const HARBOUR: &str = r#"contract = 1
servers = ["https://harbour.example"]

[error]
media = "application/json"
shape = "told"
headers = { X-Request-Id = "string" }

[shape.told]
[shape.told.error]
code = "string"
text = "string"

[envelope]
code = "/error/code"
members = "/error"

[region."/v2/**"]
auth  = "required"
error = { media = "application/problem+json", shape = "problem" }

[region."/v2/events/**"]
servers           = ["https://events.harbour.example"]
faults            = ["no-events"]
error             = { media = "application/vnd.api+json", shape = "jsonapi-errors" }
envelope          = { title = "/errors/*/title", code = "/errors/*/code", status = "/errors/*/status", members = "/errors/*/meta" }
validation-errors = { pointer = "plain" }

[fault.no-such-berth]
status  = 404
code    = "no-such-berth"
type    = "https://harbour.example/faults/no-such-berth"
title   = "There is no such berth"
members = { berth_id = "string" }
when    = ["resource-not-found"]

[fault.no-credentials]
status = 401
code   = "no-credentials"
when   = ["missing-credentials"]

[fault.no-such-page]
status = 404
code   = "no-such-page"
when   = ["unknown-route"]

[fault.no-events]
status = 404
code   = "no-events"
title  = "There are no such events"
when   = ["unknown-route"]

[everywhere]
success = [200]
faults  = ["no-such-berth", "no-credentials", "no-such-page"]

[endpoint."GET /berths/{id}"]
auth = "none"

[endpoint."GET /v2/berths/{id}"]

[endpoint."GET /v2/events/{id}"]
"#;

fn answer(status: u16, media: &str, body: &str) -> String {
    let challenge = if status == 401 { "WWW-Authenticate: Bearer\n" } else { "" };
    format!("HTTP/1.1 {status} X\nContent-Type: {media}\nX-Request-Id: 7\n{challenge}\n{body}")
}

const TOLD: &str = r#"{"error":{"code":"no-such-berth","text":"no","berth_id":"Z"}}"#;
const PROBLEM: &str = r#"{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"code":"no-such-berth","berth_id":"Z"}"#;
const OBJECTS: &str = r#"{"errors":[{"status":"404","code":"no-such-berth","title":"There is no such berth","meta":{"berth_id":"Z"}}]}"#;

/// Each style is right in its own region, and wrong in the others.
#[test]
fn a_fault_takes_the_style_of_its_region() {
    let json = answer(404, "application/json", TOLD);
    let problem = answer(404, "application/problem+json", PROBLEM);
    let objects = answer(404, "application/vnd.api+json", OBJECTS);
    for (url, right) in [
        ("https://harbour.example/berths/Z", &json),
        ("https://harbour.example/v2/berths/Z", &problem),
        ("https://events.harbour.example/v2/events/Z", &objects),
    ] {
        let request = format!("GET {url}\nAuthorization: Bearer x");
        for sent in [&json, &problem, &objects] {
            let broken = clauses(HARBOUR, &request, sent);
            assert_eq!(broken.is_empty(), sent == right, "{url}: {sent}\n{broken:?}");
            assert_eq!(broken.contains(&"media.declared"), sent != right, "{url}: {broken:?}");
        }
    }
}

/// What is declared once is asked for in each style, where that has it.
#[test]
fn what_a_fault_says_is_looked_for_where_the_region_has_it() {
    let broken = |url: &str, media: &str, body: &str| {
        let request = format!("GET {url}\nAuthorization: Bearer x");
        let found = found(HARBOUR, &request, &answer(404, media, body));
        let told = |finding: faithful_clerk_model::finding::Finding| {
            format!("{} {}", finding.clause, finding.location)
        };
        found.into_iter().map(told).collect::<Vec<_>>()
    };
    let plain = |body: &str| broken("https://harbour.example/berths/Z", "application/json", body);
    let problem = |body: &str| {
        broken("https://harbour.example/v2/berths/Z", "application/problem+json", body)
    };
    let objects = |body: &str| {
        broken("https://events.harbour.example/v2/events/Z", "application/vnd.api+json", body)
    };
    assert_eq!(
        plain(&TOLD.replace(r#","berth_id":"Z""#, "")),
        ["shape.declared body /error/berth_id"]
    );
    assert_eq!(
        problem(&PROBLEM.replace(r#","berth_id":"Z""#, "")),
        ["shape.declared body /berth_id"]
    );
    assert_eq!(
        objects(&OBJECTS.replace(r#"{"berth_id":"Z"}"#, "{}")),
        ["shape.declared body /errors/0/meta/berth_id"]
    );
    assert_eq!(
        problem(&PROBLEM.replace("There is no such berth", "No berth Z")),
        ["problem.title-declared body /title"]
    );
    assert_eq!(
        objects(&OBJECTS.replace("There is no such berth", "No berth Z")),
        ["body.title-declared body /errors/0/title"]
    );
    // Outside the region, nothing is declared about where a title is.
    assert_eq!(plain(&TOLD.replace("\"text\"", "\"title\":\"No\",\"text\"")), [""; 0]);
    assert_eq!(
        objects(&OBJECTS.replace("no-such-berth\"", "no-such-boat\"")),
        ["code.fits-fault body /errors/0/code"]
    );
    assert_eq!(
        objects(&OBJECTS.replace("\"404\"", "\"400\"")),
        ["status.body-agrees body /errors/0/status"]
    );
}

/// Requests that lead nowhere have the style, the faults and the rules of the region that their path lies in.
#[test]
fn requests_that_lead_nowhere_are_in_a_region_too() {
    let problem = answer(
        404,
        "application/problem+json",
        r#"{"title":"Not Found","status":404,"code":"no-such-page"}"#,
    );
    let json =
        answer(404, "application/json", r#"{"error":{"code":"no-such-page","text":"nothing"}}"#);
    let objects = answer(
        404,
        "application/vnd.api+json",
        r#"{"errors":[{"code":"no-events","status":"404","title":"There are no such events"}]}"#,
    );
    for (url, right) in [
        ("https://harbour.example/boats", &json),
        ("https://harbour.example/v2/boats", &problem),
        ("https://harbour.example/v2", &problem),
        ("https://harbour.example/v22", &json),
        ("https://events.harbour.example/v2/events/1/2/3", &objects),
    ] {
        for sent in [&json, &problem, &objects] {
            let broken = clauses(HARBOUR, &format!("GET {url}"), sent);
            assert_eq!(broken.is_empty(), sent == right, "{url}: {sent}\n{broken:?}");
        }
    }
}

#[test]
fn a_region_with_servers_of_its_own_is_on_those_alone() {
    let contract = faithful_clerk_check::parse_contract(HARBOUR).contract.unwrap();
    for (url, excluded) in [
        ("https://harbour.example/v2/berths/1", false),
        ("https://harbour.example/v2/events/1", true),
        ("https://events.harbour.example/v2/events/1", false),
        ("https://events.harbour.example/v2/berths/1", true),
        ("https://other.example/v2/events/1", true),
    ] {
        let is = is_excluded(&contract, &format!("GET {url}"), "HTTP/1.1 200 OK\n\n");
        assert_eq!(is, excluded, "{url}");
    }
}

/// `auth` of a region holds at its endpoints, and a nearer rule wins.
#[test]
fn the_rules_of_a_region_hold_at_its_endpoints() {
    let bare = "HTTP/1.1 200 OK\nContent-Type: application/json\n\n{}";
    let of = |url: &str| clauses(HARBOUR, &format!("GET {url}"), bare);
    assert_eq!(of("https://harbour.example/berths/A"), [""; 0]);
    assert_eq!(of("https://harbour.example/v2/berths/A"), ["situation.requires-error"]);
    assert_eq!(of("https://events.harbour.example/v2/events/A"), ["situation.requires-error"]);
}

/// A region with no shape of its own keeps the pointers of the wider one; with one it has none but its own.
#[test]
fn pointers_into_a_body_go_with_its_shape() {
    let contract = |region: &str| {
        format!(
            "contract = 1\nservers = [\"https://harbour.example\"]\n[error]\nshape = \"told\"\n\
             [shape.told]\nno = \"integer\"\n[envelope]\ncode = \"/no\"\n[region.\"/a/**\"]\n{region}\n\
             [shape.bare]\nmessage = \"string\"\n\
             [fault.none]\nstatus = 404\ncode = 7\nwhen = [\"resource-not-found\"]\n\
             [endpoint.\"GET /a/{{id}}\"]\nfaults = [\"none\"]\n"
        )
    };
    let answer = |body: &str| format!("HTTP/1.1 404 X\nContent-Type: application/json\n\n{body}");
    let request = "GET https://harbour.example/a/1";
    let kept = contract("error = { headers = { X-Runtime = \"absent\" } }");
    assert_eq!(clauses(&kept, request, &answer(r#"{"no":7}"#)), [""; 0]);
    assert_eq!(clauses(&kept, request, &answer(r#"{"no":8}"#)), ["code.fits-fault"]);
    let other = contract("error = { shape = \"bare\" }");
    assert_eq!(clauses(&other, request, &answer(r#"{"message":"no","code":7}"#)), [""; 0]);
    assert_eq!(
        clauses(&other, request, &answer(r#"{"message":"no","code":8}"#)),
        ["code.fits-fault"]
    );
}
