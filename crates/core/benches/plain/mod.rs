//! What a plain parse of a recording costs: serde_json into borrowed structs, with what a check reads of an
//! exchange: method, URL, status, header fields, bodies with their media types and sizes, times.

use std::borrow::Cow;
use std::fmt;
use std::hint::black_box;

use serde::de::{SeqAccess, Visitor};
use serde::{Deserialize, Deserializer};

#[derive(Deserialize)]
struct Har {
    log: Log,
}

#[derive(Deserialize)]
struct Log {
    #[serde(deserialize_with = "sums")]
    entries: u64,
}

/// Entries are let go one by one: holding them all would measure the memory, too.
fn sums<'de, D: Deserializer<'de>>(from: D) -> Result<u64, D::Error> {
    struct Sums;
    impl<'de> Visitor<'de> for Sums {
        type Value = u64;

        fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
            f.write_str("a list of entries")
        }

        fn visit_seq<A: SeqAccess<'de>>(self, mut entries: A) -> Result<u64, A::Error> {
            let mut all = 0;
            while let Some(entry) = entries.next_element::<Entry<'de>>()? {
                all += sum(&entry);
            }
            Ok(all)
        }
    }
    from.deserialize_seq(Sums)
}

#[derive(Deserialize)]
struct Entry<'a> {
    time: f64,
    #[serde(borrow)]
    request: Request<'a>,
    #[serde(borrow)]
    response: Response<'a>,
    timings: Timings,
}

#[derive(Deserialize)]
#[serde(rename_all = "camelCase")]
struct Request<'a> {
    #[serde(borrow)]
    method: Cow<'a, str>,
    #[serde(borrow)]
    url: Cow<'a, str>,
    #[serde(borrow)]
    headers: Vec<Field<'a>>,
    #[serde(borrow, default)]
    post_data: Option<Content<'a>>,
    body_size: i64,
}

#[derive(Deserialize)]
#[serde(rename_all = "camelCase")]
struct Response<'a> {
    status: u16,
    #[serde(borrow)]
    headers: Vec<Field<'a>>,
    #[serde(borrow)]
    content: Content<'a>,
    body_size: i64,
}

#[derive(Deserialize)]
struct Field<'a> {
    #[serde(borrow)]
    name: Cow<'a, str>,
    #[serde(borrow)]
    value: Cow<'a, str>,
}

#[derive(Deserialize)]
#[serde(rename_all = "camelCase")]
struct Content<'a> {
    #[serde(default)]
    size: i64,
    #[serde(borrow, default)]
    mime_type: Cow<'a, str>,
    #[serde(borrow, default)]
    text: Cow<'a, str>,
    #[serde(borrow, default)]
    encoding: Cow<'a, str>,
}

#[derive(Deserialize)]
struct Timings {
    wait: f64,
    receive: f64,
}

/// The whole text into structs, and a sum over all of it so that nothing is left out.
pub(super) fn parse(recording: &str, is_lines: bool) -> u64 {
    if is_lines {
        let entry = |line| serde_json::from_str::<Entry<'_>>(line).expect("a HAR entry");
        return recording.lines().map(|line| sum(&entry(line))).sum();
    }
    serde_json::from_str::<Har>(recording).expect("the recording is HAR").log.entries
}

fn sum(entry: &Entry<'_>) -> u64 {
    let Entry { time, request, response, timings } = entry;
    black_box((time, timings.wait, timings.receive, request.body_size, response.body_size));
    let sent = request.post_data.as_ref().map_or(0, content);
    (request.method.len() + request.url.len()) as u64
        + fields(&request.headers)
        + fields(&response.headers)
        + u64::from(response.status)
        + sent
        + content(&response.content)
}

fn fields(fields: &[Field<'_>]) -> u64 {
    fields.iter().map(|field| (field.name.len() + field.value.len()) as u64).sum()
}

fn content(content: &Content<'_>) -> u64 {
    black_box(content.size);
    (content.mime_type.len() + content.text.len() + content.encoding.len()) as u64
}
