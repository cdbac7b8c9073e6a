//! Where the parts of a recording stand in it, whatever its form: for those who change some and leave
//! the rest to the byte.

use memchr::memmem;

use super::batch::{Batch, Cut as _, Parts};
use super::har::HarSplitter;
use super::http::{Frame, frame};
use super::lines::Lines;
use super::open::recognised;
use super::warc::{Found, record};
use super::window::Window;
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
            let mut cutter = HarSplitter::new(bytes, 0).largest(opening.largest);
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

/// A source of messages or records.
struct Held<R> {
    window: Window<R>,
    largest: usize,
}

impl<R: std::io::Read> Held<R> {
    fn new(source: R, largest: usize) -> Self {
        Self { window: Window::new(source), largest }
    }

    /// Reads on; what has grown too large is passed over.
    fn more(&mut self) {
        if self.window.rest().len() > self.largest {
            self.window.pass(usize::MAX);
        }
        self.window.read_on();
    }

    fn messages(mut self, each: &mut dyn FnMut(u64, &[u8], Region)) {
        loop {
            self.window.pass_blank();
            let rest = self.window.rest();
            if rest.is_empty() {
                if self.window.is_end() {
                    return;
                }
                self.more();
                continue;
            }
            match frame(rest, "", self.window.is_end()) {
                Frame::Whole(length) | Frame::Cut(length) => {
                    each(
                        self.window.offset(),
                        rest.get(..length).unwrap_or_default(),
                        Region::Message,
                    );
                    self.window.pass(length.max(1));
                }
                Frame::Stray(length) => self.window.pass(length.max(1)),
                Frame::More if self.window.is_end() => return,
                Frame::More => self.more(),
            }
        }
    }

    fn records(mut self, each: &mut dyn FnMut(u64, &[u8], Region)) {
        loop {
            match record(self.window.rest()) {
                Found::Record(fields, start, end) => {
                    let rest = self.window.rest();
                    let header = rest.get(..start).unwrap_or_default();
                    each(self.window.offset(), header, Region::RecordHeader);
                    if fields.is_http() {
                        let block = rest.get(start..end).unwrap_or_default();
                        each(self.window.offset() + start as u64, block, Region::Message);
                    }
                    self.window.pass(end);
                    continue;
                }
                Found::More(_) if self.window.is_end() => return,
                Found::More(_) => {
                    self.more();
                    continue;
                }
                Found::Stray(_) => {}
            }
            match memmem::find(self.window.rest().get(1..).unwrap_or_default(), b"WARC/1.") {
                Some(next) => self.window.pass(next + 1),
                None if self.window.is_end() => return,
                None => {
                    self.window.pass(self.window.rest().len().saturating_sub(8));
                    self.more();
                }
            }
        }
    }
}
