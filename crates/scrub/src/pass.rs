//! The two ways over a recording.

use std::io::{self, Read, Write};
use std::num::NonZero;
use std::ops::Range;

use super::blank::{self, BETWEEN, BlankReason};
use super::json::{DEEPEST, MessageSide};
use super::known::KnownSecrets;
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
    /// Where it starts in the recording.
    offset: u64,
    /// Where it lies in the batch.
    range: Range<usize>,
    part: RecordingPart,
    /// The number of its entry.
    entry: u64,
}

/// Parts that are gone over together.
#[derive(Debug, Default)]
struct PartBatch {
    bytes: Vec<u8>,
    parts: Vec<BatchedPart>,
}

/// What was done with a batch.
struct ScrubbedBatch {
    /// Its parts, each with its new bytes if there are some.
    parts: Vec<(BatchedPart, Option<Vec<u8>>)>,
    report: ScrubReport,
    known: KnownSecrets,
}

/// The first way: collects what is a secret in a recording, on so many threads.
pub fn collect(
    scrubber: &mut Scrubber<'_>,
    source: Source<'_>,
    opening: &ReadOptions,
    threads: NonZero<usize>,
) {
    let forks = scrubber.fork();
    in_batches(&forks, source, opening, threads, |done| scrubber.join(done.report, done.known));
}

/// The second way: writes a copy of a recording with its secrets replaced, on so many threads. `source` and `original`
/// each give its bytes, unpacked.
///
/// # Errors
/// What prevents reading `original` and writing.
pub fn replace(
    scrubber: &mut Scrubber<'_>,
    source: Source<'_>,
    original: impl Read,
    opening: &ReadOptions,
    threads: NonZero<usize>,
    sink: &mut impl Write,
) -> io::Result<()> {
    let mut copy = Splice { original, sink, at: 0 };
    let mut failed = None;
    let mut gap = Gap::Unknown;
    let forks = scrubber.fork();
    scrubber.entry = 0;
    in_batches(&forks, source, opening, threads, |scrubbed| {
        for (part, new) in scrubbed.parts {
            if failed.is_some() {
                return;
            }
            gap = match (part.part, &gap) {
                (RecordingPart::Entry, Gap::Unknown) => Gap::BeforeEntries,
                (RecordingPart::Entry, _) => Gap::BehindEntry,
                _ => Gap::Strict,
            };
            let length = part.range.len() as u64;
            let copied = between(scrubber, &mut copy, Some(part.offset), gap)
                .and_then(|()| copy.part(length, new.as_deref()));
            if gap == Gap::BeforeEntries {
                gap = Gap::BehindEntry;
            }
            scrubber.entry = part.entry;
            failed = copied.err();
        }
        scrubber.join(scrubbed.report, scrubbed.known);
    });
    if let Some(error) = failed {
        return Err(error);
    }
    between(scrubber, &mut copy, None, gap)?;
    copy.sink.flush()
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

/// Goes over the parts of a recording in forks of a scrubber, a batch after the other; what was done comes in their order.
fn in_batches(
    scrubber: &Scrubber<'_>,
    source: Source<'_>,
    opening: &ReadOptions,
    threads: NonZero<usize>,
    done: impl FnMut(ScrubbedBatch),
) {
    let worker = || {
        let mut fork = scrubber.fork();
        move |batch: PartBatch| fork.batch(batch)
    };
    let produce = |give: &mut dyn FnMut(PartBatch)| {
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
            let range = start..batch.bytes.len();
            batch.parts.push(BatchedPart { offset, range, part, entry });
            if batch.bytes.len() >= BATCH {
                give(std::mem::take(&mut batch));
            }
        });
        give(batch);
    };
    in_lanes(threads, worker, |batch| batch.bytes.len() > HEAVY, produce, done);
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
            self.entry = part.entry;
            let old = bytes.get(part.range.clone()).unwrap_or_default();
            let new = self.part(old, part.part).map(|new| match new.len() == old.len() {
                true => new,
                false => {
                    self.blanked("an entry", BlankReason::Unreadable);
                    blank::unread(old)
                }
            });
            (part, new)
        };
        let parts = parts.into_iter().map(&mut each).collect();
        ScrubbedBatch { parts, report: self.take_report(), known: self.take_known() }
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
