//! The two passes over a recording.

use std::io::{self, BufRead, Read, Seek, SeekFrom, Write};
use std::num::NonZero;
use std::ops::Range;

use super::blank::{self, BETWEEN, BlankReason};
use super::first_copy::{self, PartPlace};
use super::json::{DEEPEST, MessageSide};
use super::known::{KnownSecrets, KnownWords, NotedWords};
use super::lanes::in_lanes;
use super::{ScrubReport, Scrubber};
use faithful_clerk_recording::{ReadOptions, RecordingPart, Source, recording_parts};

/// What lies between the parts of a recording is read in pieces of this size.
const PIECE: usize = 1 << 20;

/// Parts are handed to a thread together until they are that large.
const BATCH: usize = 1 << 19;

/// What is larger is not kept waiting beside other such.
const HEAVY: usize = 8 << 20;

/// A part within a batch.
#[derive(Debug, Clone)]
struct BatchedPart {
    /// Where it lies in the batch.
    range: Range<usize>,
    is: PartPlace,
}

/// Parts that are gone over together.
#[derive(Debug, Default)]
struct PartBatch {
    bytes: Vec<u8>,
    parts: Vec<BatchedPart>,
}

/// What was done with a batch.
#[derive(Debug)]
pub(super) struct ScrubbedBatch {
    /// Its parts, each with its new bytes if there are some.
    pub(super) parts: Vec<(PartPlace, Option<Vec<u8>>)>,
    pub(super) report: ScrubReport,
    pub(super) known: KnownSecrets,
    pub(super) words: NotedWords,
}

/// A batch on the second pass.
enum SecondBatch {
    /// No known secret can be in it but those that are replaced.
    Kept(ScrubbedBatch),
    /// It has to be gone over again.
    Again(PartBatch),
}

/// The first pass: collects what is a secret in a recording, on so many threads, and writes into `first_copy` what its parts
/// become without knowing the secrets of others.
///
/// # Errors
/// What prevents writing.
pub fn collect(
    scrubber: &mut Scrubber<'_>,
    source: Source<'_>,
    opening: &ReadOptions,
    threads: NonZero<usize>,
    first_copy: &mut impl Write,
) -> io::Result<()> {
    let forks = scrubber.fork();
    let mut written = Ok(());
    let worker = || {
        let mut fork = forks.fork();
        move |batch: PartBatch| fork.batch(batch)
    };
    let is_heavy = |batch: &PartBatch| batch.bytes.len() > HEAVY;
    let produce = |give: &mut dyn FnMut(PartBatch)| batches(source, opening, give);
    in_lanes(threads, worker, is_heavy, produce, |mut done: ScrubbedBatch| {
        scrubber.join_known(std::mem::take(&mut done.known));
        if written.is_ok() {
            written = first_copy::write(done, first_copy);
        }
    });
    written?;
    first_copy.flush()
}

/// The second pass: writes a copy of a recording with its secrets replaced, on so many threads. `originals` give its bytes,
/// unpacked: one is read from its start to its end, the other where it is needed. Most of what is written comes out of `first_copy`.
///
/// # Errors
/// What prevents reading and writing.
pub fn replace(
    scrubber: &mut Scrubber<'_>,
    first_copy: impl BufRead,
    originals: (impl Read, impl Read + Seek),
    threads: NonZero<usize>,
    sink: &mut impl Write,
) -> io::Result<()> {
    let known = scrubber.known_words();
    second_pass(scrubber, first_copy, originals, &known, threads, sink)
}

/// The same, where what may have one of these words in it is gone over again.
fn second_pass(
    scrubber: &mut Scrubber<'_>,
    first_copy: impl BufRead,
    (original, again): (impl Read, impl Read + Seek),
    known: &KnownWords,
    threads: NonZero<usize>,
    sink: &mut impl Write,
) -> io::Result<()> {
    let mut copy = Splice { original, sink, at: 0 };
    let (mut copied, mut given) = (Ok(()), Ok(()));
    let mut gap = Gap::Unknown;
    let forks = scrubber.fork();
    scrubber.entry = 0;
    let worker = || {
        let mut fork = forks.fork();
        move |batch: SecondBatch| match batch {
            SecondBatch::Kept(done) => done,
            SecondBatch::Again(batch) => fork.batch(batch),
        }
    };
    let is_heavy = |batch: &SecondBatch| match batch {
        SecondBatch::Kept(done) => {
            done.parts.iter().filter_map(|(_, new)| new.as_ref()).map(Vec::len).sum::<usize>()
                > HEAVY
        }
        SecondBatch::Again(batch) => batch.bytes.len() > HEAVY,
    };
    let produce = |give: &mut dyn FnMut(SecondBatch)| {
        given = second_batches(first_copy, again, known, give);
    };
    in_lanes(threads, worker, is_heavy, produce, |scrubbed: ScrubbedBatch| {
        for (part, new) in scrubbed.parts {
            if copied.is_err() {
                return;
            }
            gap = match (part.part, &gap) {
                (RecordingPart::Entry, Gap::Unknown) => Gap::BeforeEntries,
                (RecordingPart::Entry, _) => Gap::BehindEntry,
                _ => Gap::Strict,
            };
            copied = between(scrubber, &mut copy, Some(part.offset), gap)
                .and_then(|()| copy.part(part.length, new.as_deref()));
            if gap == Gap::BeforeEntries {
                gap = Gap::BehindEntry;
            }
            scrubber.entry = part.entry;
        }
        scrubber.join(scrubbed.report);
    });
    given.and(copied)?;
    between(scrubber, &mut copy, None, gap)?;
    copy.sink.flush()
}

/// Cuts a recording into batches of parts.
fn batches(source: Source<'_>, opening: &ReadOptions, give: &mut dyn FnMut(PartBatch)) {
    let (mut batch, mut entry) = (PartBatch::default(), 0);
    recording_parts(source, opening, &mut |offset, bytes, part| {
        entry += match part {
            RecordingPart::Entry | RecordingPart::Line => 1,
            // A response belongs to the request before it.
            RecordingPart::Message => u64::from(!bytes.starts_with(b"HTTP/")),
            RecordingPart::RecordHeader => 0,
        };
        let start = batch.bytes.len();
        batch.bytes.extend_from_slice(bytes);
        let is = PartPlace { offset, length: bytes.len() as u64, part, entry };
        batch.parts.push(BatchedPart { range: start..batch.bytes.len(), is });
        if batch.bytes.len() >= BATCH {
            give(std::mem::take(&mut batch));
        }
    });
    give(batch);
}

/// Reads what the first pass left behind, and beside it what has to be gone over again.
fn second_batches(
    mut first_copy: impl BufRead,
    mut again: impl Read + Seek,
    known: &KnownWords,
    give: &mut dyn FnMut(SecondBatch),
) -> io::Result<()> {
    while let Some(first) = first_copy::read(&mut first_copy)? {
        if !known.may_be_among(&first.words) {
            give(SecondBatch::Kept(first));
            continue;
        }
        let mut batch = PartBatch::default();
        for (is, _) in first.parts {
            again.seek(SeekFrom::Start(is.offset))?;
            let start = batch.bytes.len();
            again.by_ref().take(is.length).read_to_end(&mut batch.bytes)?;
            batch.parts.push(BatchedPart { range: start..batch.bytes.len(), is });
        }
        give(SecondBatch::Again(batch));
    }
    Ok(())
}

/// A copy on its way: what is read of the original, and what is written.
struct Splice<R, W> {
    original: R,
    sink: W,
    /// So many bytes of the original were read.
    at: u64,
}

impl<R: Read, W: Write> Splice<R, W> {
    /// Copies a part of that length, or writes something else in its place.
    fn part(&mut self, length: u64, new: Option<&[u8]>) -> io::Result<()> {
        self.at += length;
        let part = &mut self.original.by_ref().take(length);
        match new {
            None => io::copy(part, &mut self.sink).map(drop),
            Some(new) => {
                io::copy(part, &mut io::sink())?;
                self.sink.write_all(new)
            }
        }
    }

    /// Reads on, up to a place or to the end, behind what was read before and is still there.
    fn read_to(&mut self, to: Option<u64>, bytes: &mut Vec<u8>) -> io::Result<()> {
        let room = (PIECE as u64).saturating_sub(bytes.len() as u64);
        let most = to.map_or(room, |to| room.min(to.saturating_sub(self.at)));
        self.at += self.original.by_ref().take(most).read_to_end(bytes)? as u64;
        Ok(())
    }
}

/// What lies before, between and behind the parts of a recording. A HAR has something of its own around its entries.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Gap {
    /// No part was read so far.
    Unknown,
    /// Before the first entry of a HAR.
    BeforeEntries,
    /// Behind an entry of a HAR.
    BehindEntry,
    /// Where nothing but parts belongs.
    Strict,
}

impl Gap {
    /// So many of a piece's first bytes are the recording's own. `is_around`: were those before?
    fn own(self, bytes: &[u8], is_first: bool, is_around: &mut bool) -> usize {
        match self {
            Self::Strict => 0,
            Self::Unknown if is_first => entries_begin(bytes).unwrap_or(0),
            Self::Unknown => 0,
            Self::BeforeEntries => {
                *is_around |= is_first;
                let begin = entries_begin(bytes).filter(|_| *is_around);
                *is_around &= begin.is_none();
                begin.unwrap_or(if *is_around { bytes.len() } else { 0 })
            }
            Self::BehindEntry => {
                let mut rest =
                    bytes.iter().filter(|byte| !byte.is_ascii_whitespace() && **byte != b',');
                *is_around |= is_first && rest.next() == Some(&b']');
                if *is_around { bytes.len() } else { 0 }
            }
        }
    }
}

/// What can't be read as a part of the recording is blanked; what a recording has around its entries is gone over as JSON.
fn between<R: Read, W: Write>(
    scrubber: &mut Scrubber<'_>,
    copy: &mut Splice<R, W>,
    to: Option<u64>,
    gap: Gap,
) -> io::Result<()> {
    let (mut bytes, mut is_first, mut is_around) = (Vec::new(), true, false);
    loop {
        copy.read_to(to, &mut bytes)?;
        if bytes.is_empty() {
            return Ok(());
        }
        // Not to cut through a secret, a piece ends where a line or a string does.
        let is_end = |byte: &u8| matches!(byte, b'\n' | b'"' | b',');
        let end = match bytes.len() < PIECE {
            true => bytes.len(),
            false => bytes.iter().rposition(is_end).map_or(bytes.len(), |end| end + 1),
        };
        let rest = bytes.split_off(end);
        let own = gap.own(&bytes, is_first, &mut is_around);
        let (around, unread) = bytes.split_at(own);
        let mut new = match std::str::from_utf8(around) {
            Ok(text) => scrubber.around(text).map_or_else(|| around.to_vec(), String::into_bytes),
            Err(_) => {
                scrubber.blanked(BETWEEN, BlankReason::NotText);
                blank::unread(around)
            }
        };
        if new.len() != around.len() {
            new = blank::unread(around);
        }
        let blanked = blank::unread(unread);
        if blanked != unread && is_first {
            scrubber.blanked(BETWEEN, BlankReason::Unreadable);
        }
        new.extend_from_slice(&blanked);
        copy.sink.write_all(&new)?;
        is_first = false;
        bytes = rest;
    }
}

/// Where the entries of a HAR begin, if that is in these bytes.
fn entries_begin(bytes: &[u8]) -> Option<usize> {
    let mut from = 0;
    while let Some(at) = memchr::memmem::find(bytes.get(from..).unwrap_or_default(), b"\"entries\"")
    {
        let end = from + at + b"\"entries\"".len();
        let mut rest =
            bytes.iter().enumerate().skip(end).filter(|(_, byte)| !byte.is_ascii_whitespace());
        if rest.next().is_some_and(|(_, byte)| *byte == b':')
            && let Some((at, b'[')) = rest.next()
        {
            return Some(at + 1);
        }
        from = end;
    }
    None
}

impl Scrubber<'_> {
    /// Goes over the parts of a batch.
    fn batch(&mut self, batch: PartBatch) -> ScrubbedBatch {
        let PartBatch { bytes, parts } = batch;
        let mut each = |part: BatchedPart| {
            self.entry = part.is.entry;
            let old = bytes.get(part.range).unwrap_or_default();
            let new = self.part(old, part.is.part).map(|new| match new.len() == old.len() {
                true => new,
                false => {
                    self.blanked("an entry", BlankReason::Unreadable);
                    blank::unread(old)
                }
            });
            (part.is, new)
        };
        let parts = parts.into_iter().map(&mut each).collect();
        let (report, known, words) = (self.take_report(), self.take_known(), self.take_words());
        ScrubbedBatch { parts, report, known, words }
    }

    /// Replaces in a part of a recording.
    pub(super) fn part(&mut self, bytes: &[u8], part: RecordingPart) -> Option<Vec<u8>> {
        match part {
            RecordingPart::Entry | RecordingPart::Line => {
                let Ok(text) = std::str::from_utf8(bytes) else {
                    self.blanked("an entry", BlankReason::NotText);
                    return Some(blank::unread(bytes));
                };
                self.har_entry(text).map(String::into_bytes)
            }
            RecordingPart::Message => self.message(bytes),
            RecordingPart::RecordHeader => self.fields(bytes),
        }
    }

    /// What a recording has around its entries.
    fn around(&mut self, text: &str) -> Option<String> {
        let new = self.json(text, MessageSide::Request, DEEPEST);
        self.write_out();
        new
    }
}

#[cfg(test)]
mod tests {
    use std::io::Cursor;

    use faithful_clerk_model::secret::SecretRules;
    use proptest::prelude::*;

    use super::*;
    use crate::ScrubKey;

    /// The copy of a recording and what is told of it. `all`: is everything gone over again?
    fn scrubbed(recording: &[u8], all: bool, threads: usize) -> (Vec<u8>, String) {
        let rules = SecretRules::default();
        let mut scrubber = Scrubber::new(&rules, ScrubKey::new(b"a key of sixteen characters"));
        let (mut first, mut copy) = (Vec::new(), Vec::new());
        let (options, threads) = (ReadOptions::default(), NonZero::new(threads).unwrap());
        collect(&mut scrubber, Source::of(recording), &options, threads, &mut first).unwrap();
        scrubber.begin();
        let known = match all {
            true => KnownWords::any(),
            false => scrubber.known_words(),
        };
        let originals = (recording, Cursor::new(recording));
        second_pass(&mut scrubber, first.as_slice(), originals, &known, threads, &mut copy)
            .unwrap();
        (copy, format!("{:?}", scrubber.report()))
    }

    fn word() -> impl Strategy<Value = String> {
        prop::sample::select(vec![
            "q7x9k2m4b5z1",
            "view-q7x9k2m4b5z1",
            "hunter2-x",
            "ab-12-cd-34",
            "correct-horse-battery-9",
            "ключ-ворот-77-ключ",
            "4167fbd510758cd4b8226747",
            "Tern",
            "2027-03-08T09:47:03Z",
            "-x9y8z7w6-",
            "password: q7x9k2m4b5z1",
        ])
        .prop_map(str::to_owned)
    }

    fn entry() -> impl Strategy<Value = String> {
        let header = prop::sample::select(vec![
            "Authorization",
            "X-Request-Id",
            "Cookie",
            "ETag",
            "X-Api-Key",
        ]);
        let member = prop::sample::select(vec!["token", "id", "note", "sid"]);
        (header, word(), member, word(), word()).prop_map(
            |(header, value, member, text, segment)| {
                let headers = serde_json::json!([{"name": header, "value": value}]);
                let body = serde_json::json!({ member: text, "boat": segment }).to_string();
                let url = format!("https://harbour.example/{segment}?a=1");
                let request = serde_json::json!({"method": "GET", "url": url, "headers": headers});
                let content = serde_json::json!({"mimeType": "application/json", "text": body});
                let response =
                    serde_json::json!({"status": 200, "headers": [], "content": content});
                format!("{}\n", serde_json::json!({"request": request, "response": response}))
            },
        )
    }

    proptest! {
        #[test]
        fn what_is_not_gone_over_again_would_come_out_the_same(entries in prop::collection::vec(entry(), 1..6)) {
            let recording = entries.concat();
            let whole = scrubbed(recording.as_bytes(), true, 1);
            prop_assert_eq!(&scrubbed(recording.as_bytes(), false, 1), &whole, "{}", recording);
            prop_assert_eq!(&scrubbed(recording.as_bytes(), false, 2), &whole);
        }
    }

    #[test]
    fn a_secret_that_comes_later_is_replaced_in_what_came_before() {
        let line = |name: &str, value: &str| {
            let headers = serde_json::json!([{"name": name, "value": value}]);
            let request = serde_json::json!({"method": "GET", "url": "https://harbour.example/", "headers": headers});
            format!(
                "{}\n",
                serde_json::json!({"request": request, "response": {"status": 204, "headers": []}})
            )
        };
        let long = "quay ".repeat(BATCH / 5);
        let lines = [
            line("X-Note", "see q7x9k2m4b5z1"),
            line("X-Note", &long),
            line("X-Api-Key", "q7x9k2m4b5z1"),
        ];
        let (copy, _) = scrubbed(lines.concat().as_bytes(), false, 2);
        assert!(!String::from_utf8(copy).unwrap().contains("q7x9k2m4b5z1"));
    }

    #[test]
    fn of_two_requests_in_one_entry_each_is_gone_over() {
        let first = r#"{"headers": [{"name": "Authorization", "value": "Bearer ztgacm06E"}]}"#;
        let last = r#"{"method": "GET", "url": "https://harbour.example/", "headers": [{"name": "Host", "value": "a"}]}"#;
        let line = format!(
            r#"{{"request": {first}, "request": {last}, "response": {{"status": 204, "headers": []}}}}"#
        );
        let (copy, _) = scrubbed(format!("{line}\n").as_bytes(), false, 1);
        let copy = String::from_utf8(copy).unwrap();
        assert!(!copy.contains("ztgacm06E") && copy.contains(last), "{copy}");
    }
}
