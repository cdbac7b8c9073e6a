//! Cuts a file in which requests and responses stand in turns, or several requests and then their responses.

use std::collections::VecDeque;
use std::io::Read;

use super::frame::{MessageFrame, frame, next_start};
use super::head::{Head, LONGEST_HEAD, Start, start_line};
use super::{BodyExtent, MessageRanges};
use crate::batch::{Batch, RawEntry, RawParts, Splitter};
use crate::feed::{READ, ReadOutcome};
use crate::window::Window;
use crate::{Unreadable, too_large};

/// So many requests may wait for their responses.
const MOST_WAITING: usize = 10_000;

/// What is told of a message that ends within its head.
const NO_END: &str = "the head of this message does not come to its end";

/// A request that waits for its response.
#[derive(Debug)]
pub(super) struct PendingRequest {
    pub(super) number: u64,
    pub(super) offset: u64,
    /// Its bytes; `None` if it could not be read, so that its response has no use.
    pub(super) bytes: Option<Vec<u8>>,
    pub(super) method: String,
    pub(super) body: BodyExtent,
}

/// Cuts a file of requests and responses.
#[derive(Debug)]
pub(crate) struct HttpSplitter<R> {
    window: Window<R>,
    recording: u32,
    largest: usize,
    waiting: VecDeque<PendingRequest>,
    waiting_bytes: usize,
    number: u64,
    /// The start of the next message is looked for.
    is_lost: bool,
    ended: bool,
}

impl<R: Read> HttpSplitter<R> {
    pub(crate) fn new(source: R, recording: u32, largest: usize) -> Self {
        Self {
            window: Window::new(source),
            recording,
            largest,
            waiting: VecDeque::new(),
            waiting_bytes: 0,
            number: 0,
            is_lost: false,
            ended: false,
        }
    }

    fn lose(&self, batch: &mut Batch, offset: u64, number: Option<u64>, reason: String) {
        batch.unreadable.push(Unreadable { recording: self.recording, offset, number, reason });
    }

    fn read_on(&mut self, batch: &mut Batch) {
        if let ReadOutcome::Failed { reason, .. } = self.window.read_on() {
            self.lose(batch, self.window.end(), None, reason);
        }
    }

    /// Goes over one message, or finds that more bytes are needed.
    fn message(&mut self, batch: &mut Batch) {
        if self.is_lost {
            return self.find_the_way(batch);
        }
        self.window.pass_blank();
        let rest = self.window.rest();
        if rest.is_empty() {
            return if self.window.is_end() { self.finish(batch) } else { self.read_on(batch) };
        }
        let method = self.waiting.front().map_or("", |waiting| waiting.method.as_str());
        match frame(rest, method, self.window.is_end()) {
            MessageFrame::More if rest.len() > self.largest => self.skip(batch, rest.len()),
            MessageFrame::More => self.read_on(batch),
            MessageFrame::Whole(length) | MessageFrame::Truncated(length)
                if length > self.largest =>
            {
                self.skip(batch, length);
            }
            MessageFrame::Whole(length) => self.take(batch, length, false),
            MessageFrame::Truncated(length) => self.take(batch, length, true),
            MessageFrame::Stray(length) => {
                let reason = "this is not an HTTP message".to_owned();
                self.lose(batch, self.window.offset(), None, reason);
                self.window.pass(length);
            }
        }
    }

    fn take(&mut self, batch: &mut Batch, length: usize, is_cut: bool) {
        let offset = self.window.offset();
        let message = self.window.rest().get(..length).unwrap_or_default();
        let extent = |method: &str| match is_cut {
            true => BodyExtent::of_cut(message, method),
            false => (BodyExtent::Whole, None),
        };
        let start = Head::read(message).map(|head| head.start);
        let is_whole = start.is_some();
        match start.or_else(|| first_line(message)) {
            Some(Start::Request(method, ..)) => {
                self.number += 1;
                let (method, number) = (method.to_owned(), self.number);
                let (body, told) = extent(&method);
                let told = if is_whole { told } else { Some(NO_END.to_owned()) };
                // Whatever is told of it, its response belongs to it.
                let bytes = is_whole.then(|| message.to_vec());
                if let Some(told) = told {
                    self.lose(batch, offset, Some(number), told);
                }
                self.wait(batch, PendingRequest { number, offset, bytes, method, body });
            }
            // Interim responses say nothing of their own (RFC 9110 section 15.2).
            Some(Start::Response(_, 100 | 102..=199, _)) if is_whole => {}
            Some(Start::Response(..)) => match self.waiting.pop_front() {
                Some(waiting) => {
                    self.waiting_bytes -= waiting.bytes.as_ref().map_or(0, Vec::len);
                    let (body, told) = extent(&waiting.method);
                    let told = if is_whole { told } else { Some(NO_END.to_owned()) };
                    if let Some(told) = told {
                        self.lose(batch, offset, Some(waiting.number), told);
                    }
                    if is_whole {
                        piece(batch, waiting, Some((message, body)));
                    }
                }
                None => {
                    let reason = "a response without a request before it".to_owned();
                    self.lose(batch, offset, None, reason);
                }
            },
            None => self.lose(batch, offset, None, NO_END.to_owned()),
        }
        self.window.pass(length);
    }

    fn wait(&mut self, batch: &mut Batch, waiting: PendingRequest) {
        self.waiting_bytes += waiting.bytes.as_ref().map_or(0, Vec::len);
        self.waiting.push_back(waiting);
        // Their places stay, so that responses come to their own requests.
        let mut at = 0;
        while self.waiting_bytes > self.largest
            && let Some(waiting) = self.waiting.get_mut(at)
        {
            if let Some(bytes) = waiting.bytes.take() {
                self.waiting_bytes -= bytes.len();
                let (offset, number) = (waiting.offset, Some(waiting.number));
                let reason = "too much data between this request and its response".to_owned();
                self.lose(batch, offset, number, reason);
            }
            at += 1;
        }
        if self.waiting.len() > MOST_WAITING {
            let reason =
                "too many requests are waiting for responses; nothing more is read".to_owned();
            self.lose(batch, self.window.offset(), None, reason);
            self.ended = true;
        }
    }

    /// Passes over a message that is too large, and names the exchange that it belongs to.
    fn skip(&mut self, batch: &mut Batch, length: usize) {
        let reason = too_large(self.largest);
        let offset = self.window.offset();
        let rest = self.window.rest();
        let head = Head::read(rest.get(..LONGEST_HEAD).unwrap_or(rest));
        if let Some(Start::Request(method, ..)) = head.map(|head| head.start) {
            let method = method.to_owned();
            self.number += 1;
            self.lose(batch, offset, Some(self.number), reason);
            let number = self.number;
            let body = BodyExtent::NotKept;
            self.wait(batch, PendingRequest { number, offset, bytes: None, method, body });
        } else {
            let waiting = self.waiting.pop_front();
            if let Some(bytes) = waiting.as_ref().and_then(|waiting| waiting.bytes.as_ref()) {
                self.waiting_bytes -= bytes.len();
            }
            self.lose(batch, offset, waiting.map(|waiting| waiting.number), reason);
        }
        self.window.pass(length);
        self.is_lost = true;
    }

    fn find_the_way(&mut self, batch: &mut Batch) {
        match next_start(self.window.rest(), 0) {
            Some(next) => {
                self.window.pass(next);
                self.is_lost = false;
            }
            None if self.window.is_end() => self.finish(batch),
            None => {
                // The start of a line may be that of the next message.
                let rest = self.window.rest();
                let line = memchr::memrchr(b'\n', rest).map_or(rest.len(), |end| end + 1);
                self.window.pass(if rest.len() - line > LONGEST_HEAD { rest.len() } else { line });
                self.read_on(batch);
            }
        }
    }

    /// At the end: requests that still wait got no response.
    fn finish(&mut self, batch: &mut Batch) {
        for waiting in std::mem::take(&mut self.waiting) {
            piece(batch, waiting, None);
        }
        if self.number == 0 && batch.unreadable.is_empty() && self.window.offset() == 0 {
            self.lose(batch, 0, None, "the file is empty".to_owned());
        }
        self.ended = true;
    }
}

/// What the first line of a message says whose head can't be read.
fn first_line(message: &[u8]) -> Option<Start<'_>> {
    start_line(message.get(..memchr::memchr(b'\n', message)?)?)
}

/// Adds an exchange to a batch.
pub(super) fn piece(
    batch: &mut Batch,
    waiting: PendingRequest,
    response: Option<(&[u8], BodyExtent)>,
) {
    let PendingRequest { number, offset, bytes: Some(bytes), body, .. } = waiting else { return };
    let messages = MessageRanges {
        request: batch.keep(&bytes),
        request_body: body,
        response: response.map(|(bytes, _)| batch.keep(bytes)),
        response_body: response.map_or(BodyExtent::Whole, |(_, body)| body),
        is_enclosed: false,
        url: None,
        started: None,
        server: None,
    };
    batch.entries.push(RawEntry { number, offset, parts: RawParts::Messages(messages) });
}

impl<R: Read + Send> Splitter for HttpSplitter<R> {
    fn next(&mut self, batch: &mut Batch) -> bool {
        batch.clear();
        if self.ended {
            return false;
        }
        while !self.ended && batch.bytes.len() < READ && batch.unreadable.len() < 1000 {
            self.message(batch);
        }
        true
    }
}
