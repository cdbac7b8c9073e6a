//! Hands out the entries of a recording in batches.

use std::io::Read;

use super::document::{DocumentScanner, Event, OpenEntry};
use super::resync::{KEPT, find_start, first_member};
use crate::batch::{Batch, LARGEST_ENTRY, RawEntry, RawParts, Splitter};
use crate::feed::{ChunkReader, ReadOutcome};
use crate::{BYTE_ORDER_MARK, Unreadable, too_large};

/// So many bytes are gone over again at most to find where entries go on behind broken ones.
const MOST_REGAINED: usize = 1 << 30;

/// A batch holds no more entries and unreadable parts than this. A read of entries of two bytes stays below it,
/// so only what was gone over again, in a file made to be bad, can reach it.
const MOST_IN_BATCH: usize = 1 << 19;

const TOO_MUCH: &str = "too much before this is unreadable; nothing more is read";

/// Splits a HAR file into its entries.
#[derive(Debug)]
pub struct HarSplitter<R> {
    feed: ChunkReader<R>,
    recording: u32,
    largest: usize,
    /// The beginning of an entry, where the last batch ended within one.
    carry: Vec<u8>,
    /// How many bytes were read before `carry`.
    before: u64,
    number: u64,
    document: DocumentScanner,
    /// The way was lost in a broken entry; the start of the next one is looked for.
    is_lost: bool,
    /// How many bytes were gone over again.
    regained: usize,
    /// How an entry of this recording starts: the name of its first member, in quotes.
    start: Vec<u8>,
    ended: bool,
}

impl<R: Read> HarSplitter<R> {
    /// A splitter over a file's bytes; `recording` is the file's place in the run.
    pub fn new(source: R, recording: u32) -> Self {
        Self {
            feed: ChunkReader::new(source),
            recording,
            largest: LARGEST_ENTRY,
            carry: Vec::new(),
            before: 0,
            number: 0,
            document: DocumentScanner::default(),
            is_lost: false,
            regained: 0,
            start: Vec::new(),
            ended: false,
        }
    }

    /// Sets the largest entry that is read, in bytes; the default is [`LARGEST_ENTRY`].
    #[must_use]
    pub fn largest(mut self, bytes: usize) -> Self {
        self.largest = bytes;
        self
    }

    fn fill(&mut self, batch: &mut Batch) {
        batch.bytes.extend_from_slice(&self.carry);
        self.carry.clear();
        let mut scanned = batch.bytes.len();
        while batch.is_empty() && !self.ended {
            let fed = self.feed.more(&mut batch.bytes);
            let from = if self.is_lost { 0 } else { scanned };
            self.scan(batch, from);
            scanned = batch.bytes.len();
            match fed {
                ReadOutcome::More => {}
                ReadOutcome::End if self.ended => {}
                ReadOutcome::End => {
                    self.finish(batch);
                    self.ended = true;
                }
                ReadOutcome::Failed { reason, .. } => {
                    let at = self.before + batch.bytes.len() as u64;
                    self.lose(batch, at, None, reason);
                    self.ended = true;
                }
            }
            self.drop_what_is_no_entry(batch, &mut scanned);
        }
        let rest = match &self.document.entry {
            Some(entry) => entry.start,
            None if self.is_lost => batch.bytes.len().saturating_sub(KEPT),
            None => scanned,
        };
        self.carry.extend_from_slice(batch.bytes.get(rest..).unwrap_or_default());
        if let Some(entry) = &mut self.document.entry {
            entry.start = 0;
        }
        self.before += rest as u64;
    }

    /// Scans strings and brackets from `from` on, and notes the entries that end.
    fn scan(&mut self, batch: &mut Batch, from: usize) {
        let mut at = from;
        if self.before == 0 && from == 0 && batch.bytes.starts_with(BYTE_ORDER_MARK) {
            at = 3;
        }
        while self.resync(batch, &mut at) {
            let Some(event) = self.document.next(&batch.bytes, &mut at) else { break };
            if batch.entries.len() + batch.unreadable.len() > MOST_IN_BATCH {
                self.give_up(batch, at);
                break;
            }
            match event {
                Event::Entry(range) => {
                    self.number += 1;
                    self.learn(batch, range.start);
                    let offset = self.before + range.start as u64;
                    if range.len() > self.largest {
                        self.too_large(batch, offset);
                    } else {
                        let parts = RawParts::Entry(range);
                        batch.entries.push(RawEntry { number: self.number, offset, parts });
                    }
                }
                Event::TooLarge { offset } => {
                    self.number += 1;
                    self.too_large(batch, offset);
                }
                Event::Mismatch => {
                    let reason =
                        format!("its brackets do not match at byte {}", self.before + at as u64);
                    at = self.torn(batch, at, reason);
                }
                Event::Stray => {
                    let offset = self.before + at as u64;
                    let reason = "expected an entry or `]` in log.entries".to_owned();
                    self.lose(batch, offset, None, reason);
                    self.is_lost = true;
                }
                Event::Invalid(at, reason) => {
                    let offset = self.before + at as u64;
                    self.lose(batch, offset, None, reason.to_owned());
                    self.ended = true;
                    break;
                }
            }
        }
    }

    /// Behind a broken entry, goes to the start of the next. `false` if there is none so far.
    fn resync(&mut self, batch: &Batch, at: &mut usize) -> bool {
        if self.is_lost {
            let Some(start) = find_start(&batch.bytes, *at, &self.start) else { return false };
            *at = start;
            self.is_lost = false;
        }
        !self.ended
    }

    /// Learns from the first entry how entries start in this recording.
    fn learn(&mut self, batch: &Batch, start: usize) {
        if self.start.is_empty() {
            let bytes = batch.bytes.get(start..).unwrap_or_default();
            self.start = first_member(bytes).unwrap_or_default();
        }
    }

    /// Names the entry that is open as broken, and gives the place from which to look for the next.
    fn torn(&mut self, batch: &mut Batch, at: usize, reason: String) -> usize {
        self.number += 1;
        self.document.string = None;
        let (offset, from) = match self.document.entry.take() {
            Some(OpenEntry { start, skipped: None, .. }) => {
                self.learn(batch, start);
                (self.before + start as u64, start + 1)
            }
            Some(OpenEntry { skipped: Some(offset), .. }) => (offset, at),
            None => (self.before + at as u64, at),
        };
        self.lose(batch, offset, Some(self.number), reason);
        self.is_lost = true;
        self.regained += at.saturating_sub(from);
        if self.regained > MOST_REGAINED {
            self.give_up(batch, at);
        }
        from
    }

    fn give_up(&mut self, batch: &mut Batch, at: usize) {
        self.lose(batch, self.before + at as u64, None, TOO_MUCH.to_owned());
        self.ended = true;
    }

    /// Gives back the memory of what was scanned and is no entry, or too large to be one.
    fn drop_what_is_no_entry(&mut self, batch: &mut Batch, scanned: &mut usize) {
        if !batch.is_empty() || self.ended {
            return;
        }
        let drop = match &mut self.document.entry {
            None if self.is_lost => batch.bytes.len().saturating_sub(KEPT),
            None => batch.bytes.len(),
            Some(entry) if batch.bytes.len() - entry.start > self.largest => {
                entry.skipped.get_or_insert(self.before + entry.start as u64);
                entry.start = 0;
                batch.bytes.len()
            }
            Some(_) => return,
        };
        batch.bytes.drop_first(drop);
        self.before += drop as u64;
        *scanned = batch.bytes.len();
    }

    /// At the end of the file: says what is missing.
    fn finish(&mut self, batch: &mut Batch) {
        let end = self.before + batch.bytes.len() as u64;
        // An entry that runs to the end and has the start of another in it was not cut but broken.
        while let Some(OpenEntry { start, skipped: None, .. }) = self.document.entry {
            self.learn(batch, start);
            if find_start(&batch.bytes, start + 1, &self.start).is_none() || self.ended {
                break;
            }
            let reason = "its brackets or quotes do not close".to_owned();
            let from = self.torn(batch, batch.bytes.len(), reason);
            self.scan(batch, from);
        }
        if let Some(entry) = self.document.entry.take() {
            let offset = entry.skipped.unwrap_or(self.before + entry.start as u64);
            let reason = format!("the recording ends at byte {end}, inside this entry");
            self.lose(batch, offset, Some(self.number + 1), reason);
        } else if self.is_lost || self.ended {
            // That has been told.
        } else if self.document.is_untouched() {
            self.lose(batch, end, None, "the file is empty".to_owned());
        } else if self.document.depth > 0 {
            let reason = "the recording ends before its JSON does".to_owned();
            self.lose(batch, end, None, reason);
        } else if !self.document.found_entries {
            let reason = "this is JSON but not HAR: it has no log.entries".to_owned();
            self.lose(batch, 0, None, reason);
        }
    }

    fn too_large(&self, batch: &mut Batch, offset: u64) {
        self.lose(batch, offset, Some(self.number), too_large(self.largest));
    }

    fn lose(&self, batch: &mut Batch, offset: u64, number: Option<u64>, reason: String) {
        batch.unreadable.push(Unreadable { recording: self.recording, offset, number, reason });
    }
}

impl<R: Read + Send> Splitter for HarSplitter<R> {
    fn next(&mut self, batch: &mut Batch) -> bool {
        batch.clear();
        let goes_on = !self.ended;
        if goes_on {
            self.fill(batch);
        }
        goes_on
    }
}
