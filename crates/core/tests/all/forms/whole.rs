//! The corpus in every form, in reads of every size, on one thread and on several.

use std::io::Write as _;

use faithful_clerk_recording::{Format, ReadOptions, Source};
use flate2::Compression;
use flate2::write::GzEncoder;

use super::corpus::{Tied, answers, entries, expected, records, requests, turns};
use super::look::{Drops, lines, read, seen};

pub(crate) fn gzip(text: &[u8]) -> Vec<u8> {
    let mut encoder = GzEncoder::new(Vec::new(), Compression::default());
    encoder.write_all(text).unwrap();
    encoder.finish().unwrap()
}

fn har(entries: &[String]) -> String {
    format!(
        "{{\"log\": {{\"version\": \"1.2\", \"entries\": [{}], \"pages\": []}}}}",
        entries.join(", ")
    )
}

/// The same JSON, with a line for each value.
fn pretty(json: &str) -> String {
    let value: serde_json::Value = serde_json::from_str(json).unwrap();
    serde_json::to_string_pretty(&value).unwrap()
}

/// The corpus in each form, with its name.
pub(crate) fn forms() -> Vec<(&'static str, Vec<u8>)> {
    let compact = har(&entries(false));
    let backwards = format!(
        "{{\"_made\": [\"{{\"], \"log\": {{\"entries\": [{}], \"version\": \"1.2\"}}}}",
        entries(true).join(",")
    );
    let text: Vec<(&str, String)> = vec![
        ("HAR", compact.clone()),
        ("HAR, pretty", pretty(&compact)),
        (
            "HAR, pretty, CRLF, with a byte order mark",
            format!("\u{feff}{}", pretty(&compact).replace('\n', "\r\n")),
        ),
        ("HAR, members the other way round", backwards),
        ("lines", entries(false).join("\n") + "\n"),
        ("lines, CRLF, blank lines, no end", format!("\r\n{}", entries(true).join("\r\n\r\n"))),
        ("lines, with a byte order mark", format!("\u{feff}{}", entries(false).join("\n"))),
        ("HTTP in turns", turns("\r\n")),
        ("HTTP in turns, bare LF", turns("\n")),
        ("HTTP, pipelined", requests("\r\n") + &answers("\r\n")),
        ("WARC by name", records(Tied::ByName).concat()),
        ("WARC by order", records(Tied::ByOrder).concat()),
    ];
    let mut forms: Vec<(&str, Vec<u8>)> =
        text.into_iter().map(|(name, text)| (name, text.into_bytes())).collect();
    let members = records(Tied::ByName);
    forms.push((
        "WARC, each record packed",
        members.iter().flat_map(|r| gzip(r.as_bytes())).collect(),
    ));
    forms.push(("HAR, gzip", gzip(compact.as_bytes())));
    forms.push(("lines, zstd", zstd::encode_all(entries(false).join("\n").as_bytes(), 3).unwrap()));
    forms
}

#[test]
fn every_form_gives_the_same_exchanges_in_any_reads_on_any_threads() {
    for (name, bytes) in forms() {
        for step in [1, 7, 4096, usize::MAX] {
            for threads in [1, 8] {
                let seen = seen(&bytes, step, threads);
                assert_eq!(lines(&seen), expected(), "{name}, {step} bytes, {threads} threads");
                assert_eq!(seen.unreadable, [], "{name}");
            }
        }
    }
}

#[test]
fn two_files_that_belong_together_are_one_recording() {
    for end in ["\r\n", "\n"] {
        let (asked, told) = (requests(end), answers(end));
        for step in [1, 7, usize::MAX] {
            let source = Source::pair(Drops(asked.as_bytes(), step), Drops(told.as_bytes(), step));
            let seen = read(source, ReadOptions::default(), 2);
            assert_eq!((lines(&seen), seen.unreadable), (expected(), vec![]));
        }
    }
    // A file of nothing where the response is due: none came.
    let source = Source::pair(&b"GET /v1/x HTTP/1.1\r\nHost: h.example\r\n\r\n"[..], &b""[..]);
    assert_eq!(
        lines(&read(source, ReadOptions::default(), 1)),
        ["1 GET https://h.example/v1/x [] (no response)"]
    );
}

#[test]
fn brotli_is_undone_where_it_is_said() {
    use base64::Engine as _;
    let packed = base64::engine::general_purpose::STANDARD
        .decode("CxKAeyJ0aXRsZSI6ICJOb3QgRm91bmQiLCAic3RhdHVzIjogNDA0fQM=")
        .unwrap();
    let body = "{\"title\": \"Not Found\", \"status\": 404}";
    let head = "GET /v1/x HTTP/1.1\r\nHost: h.example\r\n\r\nHTTP/1.1 404 Not Found\r\nContent-Encoding: br\r\n";
    let head = format!("{head}Content-Length: {}\r\n\r\n", packed.len());
    let bytes = [head.as_bytes(), &packed].concat();
    assert_eq!(
        lines(&seen(&bytes, 7, 1)),
        [format!("1 GET https://h.example/v1/x [] 404 [{body}]")]
    );
    // As a whole file, only its name can tell.
    let source = Source::of(packed.as_slice()).brotli(true);
    let opening = ReadOptions { format: Some(Format::JsonLines), ..ReadOptions::default() };
    let seen = read(source, opening, 1);
    assert!(seen.unreadable[0].reason.contains("missing field `request`"), "{seen:?}");
}

#[test]
fn an_entry_that_is_too_large_is_named_in_every_form_and_the_others_are_read() {
    let largest = entries(false).iter().map(String::len).max().unwrap();
    for (name, bytes) in forms() {
        let opening = ReadOptions { max_exchange: 300, ..ReadOptions::default() };
        for step in [64, usize::MAX] {
            let seen = read(Source::of(Drops(&bytes, step)), opening.clone(), 1);
            let all = expected();
            assert!(lines(&seen).iter().all(|line| all.contains(line)), "{name}: {seen:?}");
            let is_large = name.contains("HAR") || name.contains("lines");
            // So many requests can't wait for their responses.
            let is_large = is_large || name.contains("pipelined");
            assert_eq!(!seen.unreadable.is_empty(), is_large && largest > 300, "{name}: {seen:?}");
        }
    }
}
