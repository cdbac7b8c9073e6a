//! Cuts JSON Lines of HAR entries: one HAR entry a line.

use std::io::Read;
use std::sync::Arc;

use memchr::{memchr, memrchr};

use super::batch::{Batch, RawEntry, RawParts, Splitter};
use super::feed::{ChunkReader, ReadOutcome};
use super::{BYTE_ORDER_MARK, LineMap, Unreadable, too_large};

/// Cuts a recording of lines into its entries.
#[derive(Debug)]
pub(super) struct JsonLinesSplitter<R> {
    feed: ChunkReader<R>,
    recording: u32,
    largest: usize,
    /// The beginning of a line that the last batch did not reach the end of.
    carry: Vec<u8>,
    /// Where the bytes start that are in work.
    before: u64,
    number: u64,
    /// How many lines there were, empty ones, too.
    line: u64,
    /// Was there nothing in any of them?
    is_blank: bool,
    /// What reads lines that are no entries of HAR.
    map: Option<Arc<LineMap>>,
    /// What is left of this line is passed over.
    passed: Option<SkipReason>,
    ended: bool,
}

/// Why the rest of a line is passed over.
#[derive(Debug)]
enum SkipReason {
    /// It is too large, and starts there.
    TooLarge(u64),
    /// Reading failed within it, which has been told.
    Failed,
}

impl<R: Read> JsonLinesSplitter<R> {
    pub(super) fn new(source: R, recording: u32, largest: usize) -> Self {
        Self {
            feed: ChunkReader::new(source),
            recording,
            largest,
            carry: Vec::new(),
            before: 0,
            number: 0,
            line: 0,
            is_blank: true,
            map: None,
            passed: None,
            ended: false,
        }
    }

    /// The same, of lines that a map reads.
    pub(super) fn mapped(self, map: Arc<LineMap>) -> Self {
        Self { map: Some(map), ..self }
    }

    /// Notes the lines that end in the batch behind `scanned`, and gives where the next one starts.
    fn lines(&mut self, batch: &mut Batch, scanned: usize) -> usize {
        let fresh = batch.bytes.get(scanned..).unwrap_or_default();
        let Some(last) = memrchr(b'\n', fresh).map(|last| scanned + last) else { return 0 };
        let (mut start, mut search) = (0, scanned);
        while search <= last {
            let rest = batch.bytes.get(search..=last).unwrap_or_default();
            let Some(length) = memchr(b'\n', rest) else { break };
            self.line(batch, start, search + length);
            start = search + length + 1;
            search = start;
        }
        start
    }

    /// Notes one line.
    fn line(&mut self, batch: &mut Batch, start: usize, end: usize) {
        self.line += 1;
        match self.passed.take() {
            Some(SkipReason::Failed) => return,
            Some(SkipReason::TooLarge(offset)) => {
                self.is_blank = false;
                self.number += 1;
                let reason = too_large(self.largest);
                return self.lose(batch, offset, Some(self.number), reason);
            }
            None => {}
        }
        let line = batch.bytes.get(start..end).unwrap_or_default();
        let is_first = self.before + start as u64 == 0;
        let mark = if is_first && line.starts_with(BYTE_ORDER_MARK) { 3 } else { 0 };
        let line = line.get(mark..).unwrap_or_default();
        let from = start + mark + (line.len() - line.trim_ascii_start().len());
        let length = line.trim_ascii().len();
        if length == 0 {
            return;
        }
        self.is_blank = false;
        let offset = self.before + from as u64;
        if length > self.largest {
            self.number += 1;
            return self.lose(batch, offset, Some(self.number), too_large(self.largest));
        }
        let Some(map) = &self.map else {
            self.number += 1;
            let parts = RawParts::Entry(from..from + length);
            return batch.entries.push(RawEntry { number: self.number, offset, parts });
        };
        match map.exchanges(batch.bytes.get(from..from + length).unwrap_or_default()) {
            Ok(ranges) => {
                for range in ranges {
                    self.number += 1;
                    let offset = offset + range.start as u64;
                    let parts = RawParts::Mapped(from + range.start..from + range.end, self.line);
                    batch.entries.push(RawEntry { number: self.number, offset, parts });
                }
            }
            Err(why) => {
                self.number += 1;
                let why = format!("line {}: {why}", self.line);
                self.lose(batch, offset, Some(self.number), why);
            }
        }
    }

    fn lose(&self, batch: &mut Batch, offset: u64, number: Option<u64>, reason: String) {
        batch.unreadable.push(Unreadable { recording: self.recording, offset, number, reason });
    }

    /// Passes over what is left of the line that starts at `start`.
    fn pass_over(&mut self, batch: &mut Batch, start: usize, why: SkipReason) {
        self.passed.get_or_insert(why);
        self.before += (batch.bytes.len() - start) as u64;
        batch.bytes.truncate(start);
    }
}

impl<R: Read + Send> Splitter for JsonLinesSplitter<R> {
    fn next(&mut self, batch: &mut Batch) -> bool {
        batch.clear();
        batch.map.clone_from(&self.map);
        if self.ended {
            return false;
        }
        batch.bytes.extend_from_slice(&self.carry);
        self.carry.clear();
        loop {
            let scanned = batch.bytes.len();
            let fed = self.feed.more(&mut batch.bytes);
            let mut rest = self.lines(batch, scanned);
            match fed {
                ReadOutcome::More if batch.bytes.len() - rest > self.largest => {
                    let offset = self.before + rest as u64;
                    self.pass_over(batch, rest, SkipReason::TooLarge(offset));
                }
                ReadOutcome::More => {}
                ReadOutcome::Failed { reason, .. } => {
                    let offset = self.before + batch.bytes.len() as u64;
                    self.lose(batch, offset, None, reason);
                    self.pass_over(batch, rest, SkipReason::Failed);
                }
                ReadOutcome::End => {
                    let end = batch.bytes.len();
                    self.line(batch, rest, end);
                    rest = end;
                    self.ended = true;
                    if self.is_blank && batch.unreadable.is_empty() {
                        let reason = "the file is empty".to_owned();
                        self.lose(batch, self.before, None, reason);
                    }
                }
            }
            if !batch.is_empty() || self.ended {
                self.carry.extend_from_slice(batch.bytes.get(rest..).unwrap_or_default());
                self.before += rest as u64;
                return true;
            }
            batch.bytes.drop_first(rest);
            self.before += rest as u64;
        }
    }
}
