//! What a plain parse of a recording costs: serde_json into borrowed structs, with URLs, header fields
//! and body texts.

use std::borrow::Cow;
use std::hint::black_box;

use serde::Deserialize;

#[derive(Deserialize)]
struct Har<'a> {
    #[serde(borrow)]
    log: Log<'a>,
}

#[derive(Deserialize)]
struct Log<'a> {
    #[serde(borrow)]
    entries: Vec<Entry<'a>>,
}

#[derive(Deserialize)]
struct Entry<'a> {
    #[serde(borrow)]
    request: Side<'a>,
    #[serde(borrow)]
    response: Side<'a>,
}

#[derive(Deserialize)]
struct Side<'a> {
    #[serde(borrow, default)]
    url: Cow<'a, str>,
    #[serde(default)]
    status: u16,
    #[serde(borrow)]
    headers: Vec<Field<'a>>,
    #[serde(borrow)]
    content: Option<Content<'a>>,
}

#[derive(Deserialize)]
struct Field<'a> {
    #[serde(borrow)]
    name: Cow<'a, str>,
    #[serde(borrow)]
    value: Cow<'a, str>,
}

#[derive(Deserialize)]
struct Content<'a> {
    #[serde(borrow, default)]
    text: Cow<'a, str>,
}

/// The whole file into structs, and a sum over all of it so that nothing is left out.
pub fn parse(recording: &str, is_lines: bool) -> usize {
    let sum = |entry: &Entry<'_>| side(&entry.request) + side(&entry.response);
    if is_lines {
        let entry = |line| serde_json::from_str::<Entry<'_>>(line).expect("a HAR entry");
        return recording.lines().map(|line| sum(&entry(line))).sum();
    }
    let har: Har<'_> = serde_json::from_str(recording).expect("the recording is HAR");
    har.log.entries.iter().map(sum).sum()
}

fn side(side: &Side<'_>) -> usize {
    let fields: usize = side.headers.iter().map(|f| f.name.len() + f.value.len()).sum();
    let text = side.content.as_ref().map_or(0, |content| content.text.len());
    fields + side.url.len() + usize::from(side.status) + text
}

/// How many line ends there are.
pub fn scan(recording: &str) -> usize {
    memchr::memchr_iter(b'\n', black_box(recording.as_bytes())).count()
}
