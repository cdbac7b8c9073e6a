//! Where the parts of a recording stand in it, whatever its form: for those who change some and leave
//! the rest to the byte.

use memchr::memmem;

use super::batch::{Batch, Cut as _, Parts};
use super::feed::{Fed, Feed};
use super::har::Cutter;
use super::http::{Frame, frame};
use super::lines::Lines;
use super::open::recognised;
use super::warc::{Found, record};
use super::{Format, Opening, Source};

/// What a part of a recording is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Region {
    /// An entry of HAR.
    Entry,
    /// An HTTP message.
    Message,
    /// The header of an archive's record.
    RecordHeader,
}

/// Goes over the parts of a recording, in their order: where each starts, its bytes, what it is. What lies
/// between them is passed over.
pub(crate) fn regions(
    source: Source<'_>,
    opening: Opening,
    each: &mut dyn FnMut(u64, &[u8], Region),
) {
    let Ok((bytes, format)) = recognised(source, opening.format) else { return };
    match format {
        Format::Har => {
            let mut cutter = Cutter::new(bytes, 0).largest(opening.largest);
            let mut batch = Batch::default();
            while cutter.next(&mut batch) {
                entries(&batch, each);
            }
        }
        Format::Lines => {
            let mut lines = Lines::new(bytes, 0, opening.largest);
            let mut batch = Batch::default();
            while lines.next(&mut batch) {
                entries(&batch, each);
            }
        }
        Format::Http => Held::new(bytes, opening.largest).messages(each),
        Format::Warc => Held::new(bytes, opening.largest).records(each),
    }
}

fn entries(batch: &Batch, each: &mut dyn FnMut(u64, &[u8], Region)) {
    for piece in batch.pieces() {
        if let Parts::Entry(range) = &piece.parts {
            each(piece.offset, batch.bytes.get(range.clone()).unwrap_or_default(), Region::Entry);
        }
    }
}

/// The bytes in work, of a source that is read as they are needed.
struct Held<R> {
    feed: Feed<R>,
    largest: usize,
    bytes: Vec<u8>,
    at: usize,
    before: u64,
    is_end: bool,
}

impl<R: std::io::Read> Held<R> {
    fn new(source: R, largest: usize) -> Self {
        let (feed, bytes) = (Feed::new(source), Vec::new());
        Self { feed, largest, bytes, at: 0, before: 0, is_end: false }
    }

    fn rest(&self) -> &[u8] {
        self.bytes.get(self.at..).unwrap_or_default()
    }

    fn offset(&self) -> u64 {
        self.before + self.at as u64
    }

    /// Reads on; what has grown too large is passed over.
    fn more(&mut self) {
        if self.rest().len() > self.largest {
            self.at = self.bytes.len();
        }
        self.before += self.at as u64;
        self.bytes.drain(..std::mem::take(&mut self.at));
        self.is_end |= matches!(self.feed.more(&mut self.bytes), Fed::End);
    }

    fn messages(mut self, each: &mut dyn FnMut(u64, &[u8], Region)) {
        loop {
            let rest = self.rest();
            self.at += rest.iter().take_while(|byte| matches!(byte, b'\r' | b'\n')).count();
            let rest = self.rest();
            if rest.is_empty() {
                if self.is_end {
                    return;
                }
                self.more();
                continue;
            }
            match frame(rest, "", self.is_end) {
                Frame::Whole(length) | Frame::Cut(length) => {
                    each(self.offset(), rest.get(..length).unwrap_or_default(), Region::Message);
                    self.at += length.max(1);
                }
                Frame::Stray(length) => self.at += length.max(1),
                Frame::More if self.is_end => return,
                Frame::More => self.more(),
            }
        }
    }

    fn records(mut self, each: &mut dyn FnMut(u64, &[u8], Region)) {
        loop {
            match record(self.rest()) {
                Found::Record(fields, start, end) => {
                    let rest = self.rest();
                    let header = rest.get(..start).unwrap_or_default();
                    each(self.offset(), header, Region::RecordHeader);
                    if fields.is_http() {
                        let block = rest.get(start..end).unwrap_or_default();
                        each(self.offset() + start as u64, block, Region::Message);
                    }
                    self.at += end;
                    continue;
                }
                Found::More(_) if self.is_end => return,
                Found::More(_) => {
                    self.more();
                    continue;
                }
                Found::Stray(_) => {}
            }
            match memmem::find(self.rest().get(1..).unwrap_or_default(), b"WARC/1.") {
                Some(next) => self.at += next + 1,
                None if self.is_end => return,
                None => {
                    self.at += self.rest().len().saturating_sub(8);
                    self.more();
                }
            }
        }
    }
}
