//! From one form to the next and back: nothing is lost that both can hold.

use faithful_clerk_recording::{Format, ReadOptions, RecordingWriter, Source, WriteSummary};
use proptest::prelude::*;
use serde_json::{Value, json};

use super::corpus::{entries, expected};
use super::look::{lines, seen};

fn converted(bytes: &[u8], to: Format) -> (Vec<u8>, WriteSummary) {
    let mut writer = RecordingWriter::new(to, Vec::new());
    let unreadable = writer.copy(Source::of(bytes), 0, &ReadOptions::default()).unwrap();
    assert_eq!(unreadable.count, 0, "{unreadable:?}");
    writer.finish().unwrap()
}

fn har() -> String {
    format!("{{\"log\": {{\"version\": \"1.2\", \"entries\": [{}]}}}}", entries(false).join(",\n "))
}

fn values(har: &[u8]) -> Vec<Value> {
    let har: Value = serde_json::from_slice(har).unwrap();
    har["log"]["entries"].as_array().unwrap().clone()
}

#[test]
fn lines_hold_whatever_an_entry_holds() {
    let pretty =
        serde_json::to_string_pretty(&serde_json::from_str::<Value>(&har()).unwrap()).unwrap();
    let (text, written) = converted(pretty.as_bytes(), Format::JsonLines);
    assert_eq!(text.iter().filter(|byte| **byte == b'\n').count(), 5);
    assert_eq!(written, WriteSummary { exchanges: 5, ..WriteSummary::default() });
    let (back, _) = converted(&text, Format::Har);
    assert_eq!(values(&back), values(har().as_bytes()));
}

#[test]
fn through_an_archive_and_back_everything_stays_that_both_hold() {
    let (lines_form, _) = converted(har().as_bytes(), Format::JsonLines);
    let (har_form, _) = converted(&lines_form, Format::Har);
    let (archive, written) = converted(&har_form, Format::Warc);
    assert_eq!(written.exchanges, 5);
    let left_out: Vec<_> = written.left_out.into_iter().collect();
    assert_eq!(left_out, [("how long it took", 5), ("how long its parts took", 5)]);
    assert_eq!(lines(&seen(&archive, 7, 1)), expected());
    let (back, _) = converted(&archive, Format::Har);
    assert_eq!(lines(&seen(&back, 7, 1)), expected());
    for (one, other) in values(har().as_bytes()).iter().zip(values(&back)) {
        for pointer in [
            "/request/method",
            "/request/url",
            "/request/httpVersion",
            "/request/postData/mimeType",
            "/request/postData/text",
            "/response/status",
            "/response/statusText",
            "/response/headers",
            "/startedDateTime",
            "/serverIPAddress",
        ] {
            assert_eq!(one.pointer(pointer), other.pointer(pointer), "{pointer}");
        }
    }
}

#[test]
fn messages_hold_what_was_said_and_not_when() {
    let (messages, written) = converted(har().as_bytes(), Format::Http);
    assert_eq!(written.exchanges, 5);
    assert!(written.left_out.contains_key("the scheme"));
    assert_eq!(lines(&seen(&messages, 7, 1)), expected());
    let (back, written) = converted(&messages, Format::Har);
    assert!(written.left_out.keys().any(|what| what.contains("1970")));
    assert_eq!(lines(&seen(&back, usize::MAX, 1)), expected());
}

/// What never came, was cut, or is not there stays so.
#[test]
fn what_is_missing_is_still_missing_behind_an_archive() {
    let entry = |response: &str| {
        format!(
            "{{\"request\": {{\"method\": \"GET\", \"url\": \"https://h.example/x\", \"headers\": []}}, \"response\": {response}}}"
        )
    };
    let length = "\"headers\": [{\"name\": \"Content-Length\", \"value\": \"400\"}]";
    let all = [
        entry("{\"status\": 0, \"_error\": \"reset\"}"),
        entry(&format!(
            "{{\"status\": 422, {length}, \"content\": {{\"size\": 59}}, \"_error\": \"cut\"}}"
        )),
        entry("{\"status\": 204, \"content\": {\"size\": 0}}"),
    ];
    let before = lines(&seen(all.join("\n").as_bytes(), 7, 1));
    let (archive, _) = converted(all.join("\n").as_bytes(), Format::Warc);
    assert_eq!(lines(&seen(&archive, 7, 1)), before);
    let (back, _) = converted(&archive, Format::JsonLines);
    assert_eq!(lines(&seen(&back, 7, 1)), before);
    let (messages, written) = converted(all.join("\n").as_bytes(), Format::Http);
    assert_eq!((written.exchanges, written.left_out["exchanges without a response"]), (2, 1));
    assert_eq!(lines(&seen(&messages, 7, 1)).len(), 2);
}

/// An entry of anything that a recorder may write.
fn odd_entry() -> impl Strategy<Value = Value> {
    let method = prop_oneof![
        Just("GET"),
        Just("POST"),
        Just("HEAD"),
        Just("OPTIONS"),
        Just("M-SEARCH"),
        Just("g\u{e9}t"),
        Just("GET X"),
        Just("")
    ];
    let url = prop_oneof![
        Just("https://h.example/x"),
        Just("https://h.example"),
        Just("https://h.example?a=b"),
        Just("https://u:p@h.example:8443/a%20b?c=d#e"),
        Just("https://h.example/a b"),
        Just("https://h.example/\u{e9}"),
        Just("/only/a/path"),
        Just("*"),
        Just("https://[::1]:80/"),
        Just("https://h.example/a\nb")
    ];
    let header = prop_oneof![
        Just(json!([])),
        Just(json!([{"name": "Content-Length", "value": "400"}])),
        Just(json!([{"name": "Transfer-Encoding", "value": "chunked"}])),
        Just(json!([{"name": "Content-Encoding", "value": "gzip"}])),
        Just(json!([{"name": "b\u{e9}", "value": "x"}, {"name": ":status", "value": "200"}])),
        Just(
            json!([{"name": "X-A", "value": " padded \n HTTP/1.1 200 OK"}, {"name": "Host", "value": "other.example"}])
        ),
    ];
    let body = prop_oneof![
        Just(None),
        Just(Some("")),
        Just(Some(" ")),
        Just(Some("{\"a\": 1}")),
        Just(Some("GET /y HTTP/1.1\r\nHost: h.example\r\n\r\n")),
        Just(Some("HTTP/1.1 500 No\r\n\r\n")),
        Just(Some("0\r\n\r\n")),
        Just(Some("WARC/1.1\r\n\r\n")),
        Just(Some("\u{feff}\u{0}\u{e9}"))
    ];
    let status = prop_oneof![
        Just(0),
        Just(100),
        Just(101),
        Just(200),
        Just(204),
        Just(205),
        Just(304),
        Just(404),
        Just(599),
        Just(999)
    ];
    (method, url, (header.clone(), header), (body.clone(), body), status, (-1i64..3, any::<bool>())).prop_map(
        |(method, url, (asked, told), (sent, got), status, (size, broke))| {
            let mut entry = json!({
                "request": {"method": method, "url": url, "headers": asked, "bodySize": size},
                "response": {"status": status, "statusText": "A\r\nB", "headers": told, "content": {"size": size}},
            });
            if let Some(text) = sent {
                entry["request"]["postData"] = json!({"mimeType": "text/plain", "text": text});
            }
            if let Some(text) = got {
                entry["response"]["content"] = json!({"size": text.len(), "mimeType": "text/plain", "text": text});
            }
            if broke {
                entry["response"]["_error"] = json!("reset");
            }
            entry
        },
    )
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    /// What is read of a copy is what was read before, or something is said to be left out; and it takes nothing of what stands
    /// behind it.
    #[test]
    fn a_copy_is_read_the_same_or_says_what_it_left_out(entry in odd_entry()) {
        let behind = json!({
            "request": {"method": "PUT", "url": "https://h.example/behind", "headers": [], "postData": {"mimeType": "", "text": "sent"}},
            "response": {"status": 418, "headers": [], "content": {"mimeType": "text/plain", "size": 4, "text": "came"}},
        });
        // No path is the path of the root.
        let said = |line: &str| line.split_once(' ').unwrap().1.replace("h.example [", "h.example/ [").replace("h.example?", "h.example/?").replace("http://", "https://");
        let both = format!("{entry}\n{behind}\n");
        let before = seen(both.as_bytes(), usize::MAX, 1);
        prop_assume!(before.unreadable.is_empty());
        for format in [Format::Http, Format::Warc] {
            let usual = converted(format!("{behind}\n{behind}\n").as_bytes(), format).1.left_out;
            let (copy, written) = converted(both.as_bytes(), format);
            let after = seen(&copy, usize::MAX, 1);
            let read = lines(&after);
            prop_assert_eq!(read.last().map(|line| said(line)), lines(&before).last().map(|line| said(line)), "{:?} {}", after, String::from_utf8_lossy(&copy));
            prop_assert!(after.unreadable.is_empty(), "{:?} {}", after, String::from_utf8_lossy(&copy));
            let is_same = read.len() == 2 && said(&read[0]) == said(&lines(&before)[0]);
            let is_told = written.left_out.keys().any(|what| !usual.contains_key(what));
            prop_assert!(is_same || is_told, "{:?}\n{}\n{:?}\n{:?}", format, String::from_utf8_lossy(&copy), read, lines(&before));
        }
    }
}
