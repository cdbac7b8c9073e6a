//! From one form to the next and back: nothing is lost that both can hold.

use faithful_clerk_recording::{Format, ReadOptions, RecordingWriter, Source, WriteSummary};
use serde_json::Value;

use super::corpus::{entries, expected};
use super::look::{lines, seen};

fn converted(bytes: &[u8], to: Format) -> (Vec<u8>, WriteSummary) {
    let mut writer = RecordingWriter::new(to, Vec::new());
    let unreadable = writer.copy(Source::of(bytes), 0, ReadOptions::default()).unwrap();
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
