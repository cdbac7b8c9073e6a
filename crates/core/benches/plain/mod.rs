//! What a plain parse of a recording costs: serde_json into borrowed structs, with URLs, header fields
//! and body texts.

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
    entries: usize,
}

/// Entries are let go one by one: holding them all would measure the memory, too.
fn sums<'de, D: Deserializer<'de>>(from: D) -> Result<usize, D::Error> {
    struct Sums;
    impl<'de> Visitor<'de> for Sums {
        type Value = usize;

        fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
            f.write_str("a list of entries")
        }

        fn visit_seq<A: SeqAccess<'de>>(self, mut entries: A) -> Result<usize, A::Error> {
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
pub(super) fn parse(recording: &str, is_lines: bool) -> usize {
    if is_lines {
        let entry = |line| serde_json::from_str::<Entry<'_>>(line).expect("a HAR entry");
        return recording.lines().map(|line| sum(&entry(line))).sum();
    }
    serde_json::from_str::<Har>(recording).expect("the recording is HAR").log.entries
}

fn sum(entry: &Entry<'_>) -> usize {
    side(&entry.request) + side(&entry.response)
}

fn side(side: &Side<'_>) -> usize {
    let fields: usize = side.headers.iter().map(|f| f.name.len() + f.value.len()).sum();
    let text = side.content.as_ref().map_or(0, |content| content.text.len());
    fields + side.url.len() + usize::from(side.status) + text
}

/// How many line ends there are.
pub(super) fn scan(recording: &str) -> usize {
    memchr::memchr_iter(b'\n', black_box(recording.as_bytes())).count()
}
