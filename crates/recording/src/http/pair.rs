//! Two files that belong together: requests in one, their responses in the other.

use std::io::Read;

use super::BodyExtent;
use super::frame::{MessageFrame, frame};
use super::head::{Head, Start};
use super::splitter::{PendingRequest, piece};
use crate::batch::{Batch, Splitter};
use crate::{Unreadable, too_large};

/// Puts the responses of one file to the requests of another.
#[derive(Debug)]
pub(crate) struct PairSplitter<Q, A> {
    sources: Option<(Q, A)>,
    recording: u32,
    largest: usize,
}

impl<Q: Read, A: Read> PairSplitter<Q, A> {
    pub(crate) fn new(asked: Q, told: A, recording: u32, largest: usize) -> Self {
        Self { sources: Some((asked, told)), recording, largest }
    }

    /// All of a file; an unreadable part of it is named.
    fn whole(&self, source: impl Read, batch: &mut Batch) -> Vec<u8> {
        let mut bytes = Vec::new();
        let most = self.largest as u64;
        let reason = match source.take(most + 1).read_to_end(&mut bytes) {
            Ok(_) if bytes.len() as u64 > most => too_large(self.largest),
            Ok(_) => return bytes,
            Err(error) => format!("reading failed: {error}"),
        };
        self.lose(batch, bytes.len() as u64, None, reason);
        bytes.truncate(self.largest);
        bytes
    }

    fn lose(&self, batch: &mut Batch, offset: u64, number: Option<u64>, reason: String) {
        batch.unreadable.push(Unreadable { recording: self.recording, offset, number, reason });
    }

    fn exchanges(&self, batch: &mut Batch, asked: &[u8], told: &[u8]) {
        let mut told_at = 0;
        let (mut number, mut at) = (0, 0);
        while let Some((start, end, is_cut)) = self.message(batch, asked, at, "") {
            let bytes = asked.get(start..end).unwrap_or_default();
            at = end;
            let Some(Start::Request(method, ..)) = Head::read(bytes).map(|head| head.start) else {
                let reason =
                    "this is not a request, or its head does not come to its end".to_owned();
                self.lose(batch, start as u64, None, reason);
                continue;
            };
            number += 1;
            let offset = start as u64;
            let body = self.extent(batch, bytes, (start, number), is_cut, "");
            let response = self.response(batch, told, &mut told_at, (method, number));
            let method = method.to_owned();
            let bytes = Some(bytes.to_vec());
            piece(batch, PendingRequest { number, offset, bytes, method, body }, response);
        }
        if self.message(batch, told, told_at, "").is_some() {
            let reason = "a response without a request".to_owned();
            self.lose(batch, told_at as u64, None, reason);
        }
    }

    /// How much there is of a message's body. What is cut is told.
    fn extent(
        &self,
        batch: &mut Batch,
        message: &[u8],
        (offset, number): (usize, u64),
        is_cut: bool,
        method: &str,
    ) -> BodyExtent {
        if !is_cut {
            return BodyExtent::Whole;
        }
        let (body, told) = BodyExtent::of_cut(message, method);
        if let Some(told) = told {
            self.lose(batch, offset as u64, Some(number), told);
        }
        body
    }

    /// The next final response.
    fn response<'b>(
        &self,
        batch: &mut Batch,
        told: &'b [u8],
        at: &mut usize,
        (method, number): (&str, u64),
    ) -> Option<(&'b [u8], BodyExtent)> {
        while let Some((start, end, is_cut)) = self.message(batch, told, *at, method) {
            *at = end;
            let bytes = told.get(start..end).unwrap_or_default();
            match Head::read(bytes).map(|head| head.start) {
                Some(Start::Response(_, 100 | 102..=199, _)) => {}
                Some(Start::Response(..)) => {
                    let body = self.extent(batch, bytes, (start, number), is_cut, method);
                    return Some((bytes, body));
                }
                _ => {
                    let reason = "this is not a response, or its head has no end".to_owned();
                    self.lose(batch, start as u64, None, reason);
                }
            }
        }
        None
    }

    /// The next message at or behind a place: where it starts, where it ends, and if it is cut.
    fn message(
        &self,
        batch: &mut Batch,
        bytes: &[u8],
        at: usize,
        method: &str,
    ) -> Option<(usize, usize, bool)> {
        let mut at = at;
        loop {
            let rest = bytes.get(at..)?;
            at += rest.iter().take_while(|byte| matches!(byte, b'\r' | b'\n')).count();
            let rest = bytes.get(at..).filter(|rest| !rest.is_empty())?;
            match frame(rest, method, true) {
                MessageFrame::Whole(length) => return Some((at, at + length, false)),
                MessageFrame::Truncated(length) => return Some((at, at + length, true)),
                MessageFrame::More => return None,
                MessageFrame::Stray(length) => {
                    let reason = "this is not an HTTP message".to_owned();
                    self.lose(batch, at as u64, None, reason);
                    at += length;
                }
            }
        }
    }
}

impl<Q: Read + Send, A: Read + Send> Splitter for PairSplitter<Q, A> {
    fn next(&mut self, batch: &mut Batch) -> bool {
        batch.clear();
        let Some((asked, told)) = self.sources.take() else { return false };
        let (asked, told) = (self.whole(asked, batch), self.whole(told, batch));
        self.exchanges(batch, &asked, &told);
        if batch.is_empty() {
            self.lose(batch, 0, None, "the file of the request is empty".to_owned());
        }
        true
    }
}
