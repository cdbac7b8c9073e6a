//! Rules of precedence and time that no example of a clause shows: waivers, more and less specific rules, pseudonyms of
//! numbers.

use faithful_clerk_check::Check;
use faithful_clerk_check::classify::{Classification, Credentials, RouteMatch, classify};
use faithful_clerk_check::clauses::{check_exchange, exchange};
use faithful_clerk_check::ledger::{Ledger, StaleWaiver};
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_model::finding::Severity;
use faithful_clerk_model::secret::SecretRules;
use faithful_clerk_recording::{ReadOptions, Source};
use faithful_clerk_scrub::{ScrubKey, Scrubber, collect, replace};
use std::io::Cursor;
use std::num::NonZero;

fn contract(text: &str) -> ErrorContract {
    let parsed = faithful_clerk_check::parse_contract(text);
    parsed.contract.unwrap_or_else(|| panic!("{:#?}", parsed.diagnostics))
}

fn leaked(text: &str) -> &'static str {
    Box::leak(text.to_owned().into_boxed_str())
}

fn clauses(contract: &ErrorContract, request: &str, response: &str) -> Vec<&'static str> {
    let exchange = exchange(1, leaked(request), leaked(response));
    match classify(&exchange, contract, Credentials::Recorded) {
        Classification::Excluded(reason) => panic!("excluded: {reason}"),
        Classification::Classified(classified) => {
            check_exchange(&classified).findings.into_iter().map(|one| one.clause).collect()
        }
    }
}

fn checked(contract: &ErrorContract, recording: &str) -> Ledger {
    let mut ledger = Check::new(contract).recording(Source::of(recording.as_bytes()), 0);
    ledger.conclude(contract);
    ledger
}

const NOT_FOUND_AS_HTML: &str = "GET /v1/berths/Z-9 HTTP/1.1\r\nHost: harbour.example\r\n\r\n\
    HTTP/1.1 404 Not Found\r\nContent-Type: text/html\r\nContent-Length: 6\r\n\r\n<html>";

const WAIVED: &str = r#"
contract = 1
servers = ["https://harbour.example/v1"]
[error]
media = "application/problem+json"
[endpoint."GET /berths/{id}"]
[[waiver]]
clause = "media.declared"
reason = "the gateway's own page"
until = 2027-03-31
"#;

#[test]
fn a_waiver_waives_on_its_last_day_and_not_on_the_next() {
    let mut contract = contract(WAIVED);
    let has_breach =
        |ledger: &Ledger| ledger.findings.keys().any(|(_, one)| *one == "media.declared");
    for (today, waives) in [("2027-03-30", true), ("2027-03-31", true), ("2027-04-01", false)] {
        contract.set_today(today.parse().unwrap());
        let ledger = checked(&contract, NOT_FOUND_AS_HTML);
        assert_eq!(has_breach(&ledger), !waives, "{today}");
        assert_eq!(ledger.waived.is_empty(), !waives, "{today}");
        let stale: Vec<StaleWaiver> = ledger.stale.values().copied().collect();
        assert_eq!(stale, if waives { vec![] } else { vec![StaleWaiver::Expired] }, "{today}");
    }
}

#[test]
fn a_waiver_that_covers_nothing_is_a_note_and_an_expired_one_a_breach() {
    let mut contract = contract(WAIVED);
    let good = "GET /v1/berths/A-3 HTTP/1.1\r\nHost: harbour.example\r\n\r\n\
        HTTP/1.1 200 OK\r\nContent-Length: 0\r\n\r\n";
    contract.set_today("2027-03-31".parse().unwrap());
    let before = checked(&contract, good);
    assert_eq!(before.stale.values().collect::<Vec<_>>(), [&StaleWaiver::Unused]);
    contract.set_today("2027-04-01".parse().unwrap());
    let after = checked(&contract, good);
    assert_eq!(after.count(Severity::Breach), before.count(Severity::Breach) + 1);
    assert_eq!(after.count(Severity::Note) + 1, before.count(Severity::Note));
}

const LAYERS: &str = r#"
contract = 1
servers = ["https://harbour.example/v1"]
[error]
media = "application/problem+json"
[fault.gone-anywhere]
status = 404
type = "https://harbour.example/faults/gone-anywhere"
when = ["resource-not-found"]
[fault.no-such-berth]
status = 404
type = "https://harbour.example/faults/no-such-berth"
when = ["resource-not-found"]
[fault.many]
status = 404
type = "https://harbour.example/faults/many"
when = ["resource-not-found", "conflict"]
[everywhere]
faults = ["gone-anywhere", "many"]
[endpoint."GET /berths/{id}"]
faults = ["no-such-berth"]
[endpoint."GET /vessels/{id}"]
"#;

fn not_found(fault: &str) -> String {
    format!(
        "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
         {{\"type\": \"https://harbour.example/faults/{fault}\", \"title\": \"X\", \"detail\": \"There is none.\"}}"
    )
}

#[test]
fn a_more_specific_fault_displaces_a_less_specific_one_for_the_same_situation() {
    let contract = contract(LAYERS);
    let breaks = |path: &str, fault: &str| {
        let found = clauses(&contract, &format!("GET /v1/{path}"), &not_found(fault));
        found.contains(&"problem.type-declared") || found.contains(&"status.fits-situation")
    };
    // At the berths, their own fault is the one for a berth that does not exist.
    assert!(!breaks("berths/Z-9", "no-such-berth"));
    assert!(breaks("berths/Z-9", "gone-anywhere"));
    // A fault that is for another situation, too, stays.
    assert!(!breaks("berths/Z-9", "many"));
    // Where nothing more specific is declared, the less specific one holds.
    assert!(!breaks("vessels/V-9", "gone-anywhere"));
}

fn scrubbed(entry: &str) -> String {
    let rules = SecretRules::default();
    let mut scrubber = Scrubber::new(&rules, ScrubKey::new(b"a key of sixteen characters"));
    let bytes = entry.as_bytes();
    let threads = NonZero::<usize>::MIN;
    let (mut first, mut copy) = (Vec::new(), Vec::new());
    let options = ReadOptions::default();
    collect(&mut scrubber, Source::of(bytes), &options, threads, &mut first).unwrap();
    scrubber.begin();
    let originals = (bytes, Cursor::new(bytes));
    replace(&mut scrubber, first.as_slice(), originals, threads, &mut copy).unwrap();
    String::from_utf8(copy).unwrap()
}

#[test]
fn the_pseudonym_of_a_number_is_a_number_of_the_same_form() {
    for number in ["1.5e10", "-12.25E-7", "1e3", "0.125", "4017", "1E+09", "-0.5e1"] {
        let body = format!("{{\\\"password\\\": {number}}}");
        let entry = format!(
            "{{\"request\": {{\"method\": \"POST\", \"url\": \"https://harbour.example/v1/login\", \
             \"headers\": [{{\"name\": \"Content-Type\", \"value\": \"application/json\"}}], \
             \"postData\": {{\"mimeType\": \"application/json\", \"text\": \"{body}\"}}}}, \
             \"response\": {{\"status\": 204, \"headers\": []}}}}"
        );
        let scrubbed = scrubbed(&entry);
        let value: serde_json::Value = serde_json::from_str(&scrubbed).unwrap();
        let text = value["request"]["postData"]["text"].as_str().unwrap();
        let parsed: serde_json::Value =
            serde_json::from_str(text).unwrap_or_else(|error| panic!("{number}: {text}: {error}"));
        assert!(parsed["password"].is_number(), "{text}");
        assert_ne!(scrubbed, entry, "{number} is hidden");
        let exponent = |text: &str| text.find(['e', 'E']).map(|at| text[at..].to_owned());
        let told = text.trim_start_matches("{\"password\": ").trim_end_matches('}');
        assert_eq!(exponent(told), exponent(number), "{text}");
        assert_eq!(told.len(), number.len());
    }
}

fn titled(title: &str) -> String {
    let body = format!(
        "{{\"type\": \"https://harbour.example/faults/odd\", \"title\": \"{title}\", \"status\": 404, \"detail\": \"There is none.\"}}"
    );
    format!(
        "GET /v1/berths/Z-9 HTTP/1.1\r\nHost: harbour.example\r\n\r\nHTTP/1.1 404 Not Found\r\n\
         Content-Type: application/problem+json\r\nContent-Length: {}\r\n\r\n{body}",
        body.len()
    )
}

#[test]
fn a_waiver_covers_what_comes_of_comparing_exchanges_too() {
    let recording = ["Odd", "Odd", "Odd", "Even"].map(titled).concat();
    let waived = WAIVED.replace("media.declared", "problem.title-stable");
    let has_finding = |text: &str| {
        let ledger = checked(&contract(text), &recording);
        let found = ledger.findings.keys().any(|(_, one)| *one == "problem.title-stable");
        (found, ledger.waived.len())
    };
    assert_eq!(has_finding(WAIVED), (true, 0));
    assert_eq!(has_finding(&waived), (false, 1));
}

#[test]
fn what_the_caller_sent_is_no_disclosure_when_it_comes_back() {
    let contract = contract(WAIVED);
    let response = "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
        {\"title\": \"Not Found\", \"status\": 404, \"detail\": \"There is no /var/lib/harbour/berths.db here.\"}";
    let discloses =
        |request: &str| clauses(&contract, request, response).contains(&"disclosure.file-path");
    assert!(discloses("GET /v1/berths/Z-9"));
    assert!(!discloses("GET /v1/berths/Z-9?from=%2Fvar%2Flib%2Fharbour%2Fberths.db"));
    assert!(!discloses("GET /v1/berths/Z-9\nX-From: /var/lib/harbour/berths.db"));
}

#[test]
fn the_pseudonym_of_a_number_never_begins_with_a_zero() {
    for number in 1000..1300 {
        let entry = format!(
            "{{\"request\": {{\"method\": \"POST\", \"url\": \"https://harbour.example/v1/login\", \
             \"headers\": [{{\"name\": \"Content-Type\", \"value\": \"application/json\"}}], \
             \"postData\": {{\"mimeType\": \"application/json\", \"text\": \"{{\\\"pin_code\\\": 7, \\\"password\\\": {number}}}\"}}}}, \
             \"response\": {{\"status\": 204, \"headers\": []}}}}"
        );
        let value: serde_json::Value = serde_json::from_str(&scrubbed(&entry)).unwrap();
        let text = value["request"]["postData"]["text"].as_str().unwrap();
        let body: Result<serde_json::Value, _> = serde_json::from_str(text);
        assert!(body.is_ok(), "{number}: {text}");
    }
}

#[test]
fn a_group_that_names_the_path_itself_is_more_specific_than_one_that_names_all_below() {
    let contract = contract(
        r#"
        contract = 1
        [group.all]
        endpoints = ["* /berths/**"]
        success = [200]
        [group.one]
        endpoints = ["* /berths"]
        success = [201]
        [endpoint."POST /berths"]
        [endpoint."POST /berths/{id}"]
        "#,
    );
    let success: Vec<&[u16]> =
        contract.endpoints.iter().map(|endpoint| endpoint.rules.success()).collect();
    assert_eq!(success, [&[201][..], &[200][..]]);
}

/// RFC 9110 section 9.3.2.
#[test]
fn head_is_offered_where_get_is() {
    let contract = contract(WAIVED);
    let route_is_endpoint = |request: &'static str| {
        let exchange = exchange(1, request, "HTTP/1.1 200 OK\nContent-Length: 0");
        match classify(&exchange, &contract, Credentials::Recorded) {
            Classification::Classified(one) => matches!(one.route, RouteMatch::Endpoint(..)),
            Classification::Excluded(reason) => panic!("excluded: {reason}"),
        }
    };
    assert!(route_is_endpoint("GET /v1/berths/A-3"));
    assert!(route_is_endpoint("HEAD /v1/berths/A-3"));
    assert!(!route_is_endpoint("PUT /v1/berths/A-3"));
}
