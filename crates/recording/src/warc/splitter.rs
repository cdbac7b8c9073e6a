//! Cuts an archive into exchanges: records of requests and of responses, put together.

use std::collections::VecDeque;
use std::io::Read;

use memchr::memmem;

use super::record::{RecordFields, RecordKind, RecordScan, record};
use crate::batch::{Batch, RawEntry, RawParts, Splitter};
use crate::feed::{READ, ReadOutcome};
use crate::http::{BodyExtent, Head, MessageRanges, Start};
use crate::window::Window;
use crate::{Unreadable, too_large};

/// So many records may wait for the one that they belong to.
const MOST_WAITING: usize = 256;

/// A record that waits for the other one of its exchange.
#[derive(Debug)]
struct PendingRecord {
    fields: RecordFields,
    offset: u64,
    block: Vec<u8>,
}

/// Cuts an archive.
#[derive(Debug)]
pub(crate) struct WarcSplitter<R> {
    window: Window<R>,
    recording: u32,
    largest: usize,
    /// So many bytes of a record that is too large are still to be passed over.
    skip: u64,
    /// The start of the next record is looked for.
    is_lost: bool,
    /// Reading failed at this byte of the file, and more came then.
    gap: Option<u64>,
    /// What stands just before the gap is damaged.
    is_damage: bool,
    waiting: VecDeque<PendingRecord>,
    number: u64,
    ended: bool,
}

impl<R: Read> WarcSplitter<R> {
    pub(crate) fn new(source: R, recording: u32, largest: usize) -> Self {
        Self {
            window: Window::new(source),
            recording,
            largest,
            skip: 0,
            is_lost: false,
            gap: None,
            is_damage: false,
            waiting: VecDeque::new(),
            number: 0,
            ended: false,
        }
    }

    fn lose(&self, batch: &mut Batch, offset: u64, reason: impl Into<String>) {
        let (recording, reason) = (self.recording, reason.into());
        batch.unreadable.push(Unreadable { recording, offset, number: None, reason });
    }

    fn read_on(&mut self, batch: &mut Batch) {
        if let Some(gap) = self.gap.take() {
            // The record in work lacks a part, which has been told.
            let lacking = gap.saturating_sub(self.window.offset());
            self.is_lost |= lacking > 0;
            self.window.pass(usize::try_from(lacking).unwrap_or(usize::MAX));
            self.skip = 0;
        }
        if let ReadOutcome::Failed { reason, is_damage } = self.window.read_on() {
            let end = self.window.end();
            self.lose(batch, end, reason);
            self.gap = Some(end);
            self.is_damage = is_damage;
        }
    }

    /// Goes over one record, or finds that more bytes are needed.
    fn step(&mut self, batch: &mut Batch) {
        if self.skip > 0 {
            let now = self.skip.min(self.window.rest().len() as u64);
            self.skip -= now;
            self.window.pass(usize::try_from(now).unwrap_or_default());
            if self.skip > 0 && !self.window.is_end() {
                return self.read_on(batch);
            }
            self.skip = 0;
        }
        if self.is_lost {
            return self.find_the_way(batch);
        }
        self.window.pass_blank();
        if self.window.rest().is_empty() {
            let is_over = self.window.is_end() && self.gap.is_none();
            return if is_over { self.finish(batch) } else { self.read_on(batch) };
        }
        match record(self.window.rest()) {
            RecordScan::Record(fields, start, end) if end - start > self.largest => {
                self.too_large(batch, &fields, end as u64);
            }
            RecordScan::Record(fields, start, end) => {
                let offset = self.window.offset();
                let block = self.window.rest().get(start..end).unwrap_or_default().to_vec();
                self.window.pass(end);
                // What ends where reading failed is what was found to be damaged.
                let is_last = self.gap.is_some() && self.window.rest().trim_ascii().is_empty();
                let is_sound = !is_last || !self.is_damage;
                if is_sound {
                    self.enter(batch, PendingRecord { fields: *fields, offset, block });
                }
            }
            RecordScan::More(_) if self.window.is_end() && self.gap.is_none() => {
                let end = self.window.end();
                let reason = format!("the recording ends at byte {end}, inside this record");
                self.lose(batch, self.window.offset(), reason);
                self.window.pass(usize::MAX);
                self.finish(batch);
            }
            RecordScan::More(needed) if needed > self.largest as u64 + READ as u64 => {
                self.too_large(batch, &RecordFields::default(), needed);
            }
            RecordScan::More(_) => self.read_on(batch),
            RecordScan::Stray(reason) => {
                self.lose(batch, self.window.offset(), reason);
                self.window.pass(1);
                self.is_lost = true;
            }
        }
    }

    fn too_large(&mut self, batch: &mut Batch, fields: &RecordFields, length: u64) {
        if fields.kind != Some(RecordKind::Other) {
            self.lose(batch, self.window.offset(), too_large(self.largest));
        }
        self.skip = length;
    }

    fn find_the_way(&mut self, batch: &mut Batch) {
        let found = memmem::find_iter(self.window.rest(), b"WARC/1.").find(|found| {
            *found == 0
                || self.window.rest().get(found - 1) == Some(&b'\n')
                || self.window.offset() == 0
        });
        match found {
            Some(next) => {
                self.window.pass(next);
                self.is_lost = false;
            }
            None if self.window.is_end() && self.gap.is_none() => self.finish(batch),
            None => {
                self.window.pass(self.window.rest().len().saturating_sub(8));
                self.read_on(batch);
            }
        }
    }

    /// Puts a record to the one that it belongs to, or lets it wait.
    fn enter(&mut self, batch: &mut Batch, new: PendingRecord) {
        let is_request = match new.fields.kind {
            Some(RecordKind::Request) => true,
            Some(RecordKind::Response | RecordKind::Revisit) => false,
            Some(RecordKind::Other) | None => return,
        };
        let is_other =
            |old: &&PendingRecord| (old.fields.kind == Some(RecordKind::Request)) != is_request;
        let place = |fits: &dyn Fn(&PendingRecord) -> bool| {
            self.waiting.iter().position(|old| is_other(&old) && fits(old))
        };
        let found = place(&|old| new.fields.names(&old.fields))
            .or_else(|| place(&|old| new.fields.may_belong_to(&old.fields)));
        let Some(old) = found.and_then(|at| self.waiting.remove(at)) else {
            self.waiting.push_back(new);
            return self.let_go(batch);
        };
        let (request, response) = if is_request { (new, old) } else { (old, new) };
        self.exchange(batch, &request, &response);
    }

    fn exchange(&mut self, batch: &mut Batch, request: &PendingRecord, response: &PendingRecord) {
        self.number += 1;
        let request_body = self.extent(batch, request, "");
        let response_body = self.extent(batch, response, method(&request.block));
        let messages = MessageRanges {
            request: batch.keep(&request.block),
            request_body,
            response: Some(batch.keep(&response.block)),
            response_body,
            is_enclosed: true,
            url: Some(request.fields.target.clone()).filter(|url| !url.is_empty()),
            started: request.fields.date.clone(),
            server: response.fields.server.clone().or_else(|| request.fields.server.clone()),
        };
        let offset = request.offset.min(response.offset);
        let parts = RawParts::Messages(messages);
        batch.entries.push(RawEntry { number: self.number, offset, parts });
    }

    /// How much there is of a record's message. What is cut is told.
    fn extent(&self, batch: &mut Batch, record: &PendingRecord, method: &str) -> BodyExtent {
        let (body, told) = match (record.fields.kind, &record.fields.truncated) {
            // Its content stands in another archive.
            (Some(RecordKind::Revisit), _) => (BodyExtent::NotKept, None),
            (_, None) => BodyExtent::of_block(&record.block, method),
            // Who made the archive says that not the archive is cut, but what came (ISO 28500 section 5.13).
            (_, Some(reason)) if reason.eq_ignore_ascii_case("disconnect") => {
                (BodyExtent::BrokenOff, None)
            }
            (_, Some(reason)) => match BodyExtent::of_block(&record.block, method) {
                (_, None) if has_no_body(&record.block) => (BodyExtent::NotKept, None),
                _ => {
                    let told = format!("the message is cut, as its record says: {reason}");
                    (BodyExtent::NotKept, Some(told))
                }
            },
        };
        if let Some(reason) = told {
            let (recording, offset, number) = (self.recording, record.offset, Some(self.number));
            batch.unreadable.push(Unreadable { recording, offset, number, reason });
        }
        body
    }

    /// Gives up records that have waited for long.
    fn let_go(&mut self, batch: &mut Batch) {
        let held = |waiting: &VecDeque<PendingRecord>| -> usize {
            waiting.iter().map(|record| record.block.len()).sum()
        };
        while self.waiting.len() > MOST_WAITING
            || (self.waiting.len() > 1 && held(&self.waiting) > self.largest)
        {
            if let Some(first) = self.waiting.pop_front() {
                self.alone(batch, &first);
            }
        }
    }

    fn alone(&self, batch: &mut Batch, record: &PendingRecord) {
        let reason = match record.fields.kind {
            Some(RecordKind::Request) => "a request record without a response record",
            _ => "a response record without a request record",
        };
        self.lose(batch, record.offset, reason);
    }

    fn finish(&mut self, batch: &mut Batch) {
        for record in std::mem::take(&mut self.waiting) {
            self.alone(batch, &record);
        }
        if self.window.offset() == 0 && batch.unreadable.is_empty() {
            self.lose(batch, 0, "the file is empty");
        }
        self.ended = true;
    }
}

fn method(request: &[u8]) -> &str {
    match Head::read(request).map(|head| head.start) {
        Some(Start::Request(method, ..)) => method,
        _ => "",
    }
}

/// Is there nothing behind the head?
fn has_no_body(message: &[u8]) -> bool {
    Head::read(message).is_none_or(|head| head.length == message.len())
}

impl<R: Read + Send> Splitter for WarcSplitter<R> {
    fn next(&mut self, batch: &mut Batch) -> bool {
        batch.clear();
        if self.ended {
            return false;
        }
        while !self.ended && batch.bytes.len() < READ && batch.unreadable.len() < 1000 {
            self.step(batch);
        }
        true
    }
}
