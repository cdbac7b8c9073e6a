//! Where the parts of a recording stand in it, whatever its form: for those who change some and leave
//! the rest to the byte.

use memchr::memmem;

use super::batch::{Batch, RawParts, Splitter as _};
use super::har::HarSplitter;
use super::http::{MessageFrame, frame};
use super::jsonl::JsonLinesSplitter;
use super::open::recognised;
use super::warc::{RecordScan, record};
use super::window::Window;
use super::{Format, ReadOptions, Source};

/// What a part of a recording is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum RecordingPart {
    /// An entry of HAR.
    Entry,
    /// A line of JSON Lines, which is an entry of HAR.
    Line,
    /// An HTTP message.
    Message,
    /// The header of an archive's record.
    RecordHeader,
}

/// Goes over the parts of a recording, in their order: where each starts, its bytes, what it is. What lies
/// between them is passed over.
pub fn recording_parts(
    source: Source<'_>,
    opening: &ReadOptions,
    each: &mut dyn FnMut(u64, &[u8], RecordingPart),
) {
    let Ok((bytes, format)) = recognised(source, opening.format) else { return };
    match format {
        Format::Har => {
            let mut splitter = HarSplitter::new(bytes, 0).largest(opening.max_exchange);
            let mut batch = Batch::default();
            while splitter.next(&mut batch) {
                entries(&batch, RecordingPart::Entry, each);
            }
        }
        Format::JsonLines => {
            let mut lines = JsonLinesSplitter::new(bytes, 0, opening.max_exchange);
            let mut batch = Batch::default();
            while lines.next(&mut batch) {
                entries(&batch, RecordingPart::Line, each);
            }
        }
        Format::Http => RegionScanner::new(bytes, opening.max_exchange).messages(each),
        Format::Warc => RegionScanner::new(bytes, opening.max_exchange).records(each),
    }
}

fn entries(batch: &Batch, part: RecordingPart, each: &mut dyn FnMut(u64, &[u8], RecordingPart)) {
    for entry in batch.entries() {
        if let RawParts::Entry(range) = &entry.parts {
            each(entry.offset, batch.bytes.get(range.clone()).unwrap_or_default(), part);
        }
    }
}

/// A source of messages or records.
struct RegionScanner<R> {
    window: Window<R>,
    largest: usize,
}

impl<R: std::io::Read> RegionScanner<R> {
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

    fn messages(mut self, each: &mut dyn FnMut(u64, &[u8], RecordingPart)) {
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
                MessageFrame::Whole(length) | MessageFrame::Truncated(length) => {
                    each(
                        self.window.offset(),
                        rest.get(..length).unwrap_or_default(),
                        RecordingPart::Message,
                    );
                    self.window.pass(length.max(1));
                }
                MessageFrame::Stray(length) => self.window.pass(length.max(1)),
                MessageFrame::More if self.window.is_end() => return,
                MessageFrame::More => self.more(),
            }
        }
    }

    fn records(mut self, each: &mut dyn FnMut(u64, &[u8], RecordingPart)) {
        loop {
            match record(self.window.rest()) {
                RecordScan::Record(fields, start, end) => {
                    let rest = self.window.rest();
                    let header = rest.get(..start).unwrap_or_default();
                    each(self.window.offset(), header, RecordingPart::RecordHeader);
                    if fields.is_http() {
                        let block = rest.get(start..end).unwrap_or_default();
                        each(self.window.offset() + start as u64, block, RecordingPart::Message);
                    }
                    self.window.pass(end);
                    continue;
                }
                RecordScan::More(_) if self.window.is_end() => return,
                RecordScan::More(_) => {
                    self.more();
                    continue;
                }
                RecordScan::Stray(_) => {}
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
