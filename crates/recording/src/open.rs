//! Opens a recording: unpacks it, recognises it, and gives what cuts it.

use std::fmt;
use std::io::{self, Cursor, Read};
use std::sync::Arc;

use super::batch::{Batch, LARGEST_ENTRY, Splitter};
use super::har::HarSplitter;
use super::http::{HttpSplitter, PairSplitter};
use super::jsonl::JsonLinesSplitter;
use super::unpack::unpacked;
use super::warc::WarcSplitter;
use super::{Format, LineMap, Unreadable};

/// So many bytes are looked at to recognise a recording.
const LOOKED_AT: u64 = 64 << 10;

/// Where a recording's bytes come from.
pub struct Source<'s> {
    pub(super) bytes: Box<dyn Read + Send + 's>,
    responses: Option<Box<dyn Read + Send + 's>>,
    pub(super) is_brotli: bool,
}

impl<'s> Source<'s> {
    /// A stream. It may be compressed with gzip or zstd.
    pub fn of(bytes: impl Read + Send + 's) -> Self {
        Self { bytes: Box::new(bytes), responses: None, is_brotli: false }
    }

    /// Two files that belong together: HTTP requests in one, their responses in the other.
    pub fn pair(requests: impl Read + Send + 's, responses: impl Read + Send + 's) -> Self {
        Self { responses: Some(Box::new(responses)), ..Self::of(requests) }
    }

    /// Has every byte looked at as it is read, compressed or not.
    #[must_use]
    pub fn observed(self, observe: impl FnMut(&[u8]) + Clone + Send + 's) -> Self {
        let Self { bytes, responses, is_brotli } = self;
        let other = observe.clone();
        let responses = responses.map(|bytes| -> Box<dyn Read + Send + 's> {
            Box::new(Observed { bytes, observe: other })
        });
        Self { bytes: Box::new(Observed { bytes, observe }), responses, is_brotli }
    }

    /// Says that it is compressed with brotli, which can't be told from the bytes.
    #[must_use]
    pub fn brotli(mut self, is_brotli: bool) -> Self {
        self.is_brotli = is_brotli;
        self
    }
}

/// A reader whose bytes are looked at on the way.
struct Observed<R, F> {
    bytes: R,
    observe: F,
}

impl<R: Read, F: FnMut(&[u8])> Read for Observed<R, F> {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        let length = self.bytes.read(into)?;
        (self.observe)(into.get(..length).unwrap_or_default());
        Ok(length)
    }
}

impl fmt::Debug for Source<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("Source").field("is_brotli", &self.is_brotli).finish_non_exhaustive()
    }
}

/// How recordings are opened.
#[derive(Debug, Clone)]
pub struct ReadOptions {
    /// Their form; `None` if it is to be recognised.
    pub format: Option<Format>,
    /// What reads lines of JSON that are no entries of HAR; then a recording consists of those.
    pub map: Option<Arc<LineMap>>,
    /// The largest entry that is read, in bytes.
    pub max_exchange: usize,
    /// The number of the first exchange: that of a part of a recording goes on where the part before ended.
    pub first: u64,
}

impl Default for ReadOptions {
    /// Any form, entries of 64 MiB at most, numbers from 1.
    fn default() -> Self {
        Self { format: None, map: None, max_exchange: LARGEST_ENTRY, first: 1 }
    }
}

/// Opens a recording. `recording` is its place in the run, for addresses.
#[must_use]
pub fn open<'s>(
    source: Source<'s>,
    recording: u32,
    opening: &ReadOptions,
) -> Box<dyn Splitter + 's> {
    let ReadOptions { format, map, max_exchange: largest, first: _ } = opening;
    let (format, largest) = (*format, *largest);
    let Source { bytes, responses, is_brotli } = source;
    if let Some(map) = map {
        let lines = JsonLinesSplitter::new(unpacked(bytes, is_brotli), recording, largest);
        return Box::new(lines.mapped(Arc::clone(map)));
    }
    if let Some(responses) = responses {
        let bytes = unpacked(bytes, is_brotli);
        return Box::new(PairSplitter::new(
            bytes,
            unpacked(responses, is_brotli),
            recording,
            largest,
        ));
    }
    let source = Source::of(bytes).brotli(is_brotli);
    let (bytes, format) = match recognised(source, format) {
        Ok(recognised) => recognised,
        Err(reason) => {
            let unreadable = Unreadable { recording, offset: 0, number: None, reason };
            return Box::new(UnknownFormat(Some(unreadable)));
        }
    };
    match format {
        Format::Har => Box::new(HarSplitter::new(bytes, recording).largest(largest)),
        Format::JsonLines => Box::new(JsonLinesSplitter::new(bytes, recording, largest)),
        Format::Http => Box::new(HttpSplitter::new(bytes, recording, largest)),
        Format::Warc => Box::new(WarcSplitter::new(bytes, recording, largest)),
    }
}

/// A recording's bytes, unpacked, and its form: as the call says, or as the bytes tell.
pub(super) fn recognised<'s>(
    source: Source<'s>,
    format: Option<Format>,
) -> Result<(Box<dyn Read + Send + 's>, Format), String> {
    let bytes = unpacked(source.bytes, source.is_brotli);
    match format {
        Some(format) => Ok((bytes, format)),
        None => {
            let (start, bytes) = peek(bytes, LOOKED_AT);
            Format::of(&start).map(|format| (bytes, format))
        }
    }
}

/// The format of a recording, if it is told by its first bytes beyond doubt.
#[must_use]
pub fn recognise(source: Source<'_>) -> Option<Format> {
    let (start, _) = peek(unpacked(source.bytes, source.is_brotli), LOOKED_AT);
    Format::certain(&start)
}

/// The first bytes of a source, and the source as if nobody had looked.
pub(super) fn peek<'s>(
    mut source: Box<dyn Read + Send + 's>,
    length: u64,
) -> (Vec<u8>, Box<dyn Read + Send + 's>) {
    let mut start = Vec::new();
    let failed = (&mut source).take(length).read_to_end(&mut start).err();
    let again = Cursor::new(start.clone()).chain(DeferredFailure(failed)).chain(source);
    (start, Box::new(again))
}

/// A failure of reading that comes when it is due.
struct DeferredFailure(Option<io::Error>);

impl Read for DeferredFailure {
    fn read(&mut self, _: &mut [u8]) -> io::Result<usize> {
        self.0.take().map_or(Ok(0), Err)
    }
}

/// What is no recording gives nothing but the reason.
struct UnknownFormat(Option<Unreadable>);

impl Splitter for UnknownFormat {
    fn next(&mut self, batch: &mut Batch) -> bool {
        batch.clear();
        batch.unreadable.extend(self.0.take());
        !batch.unreadable.is_empty()
    }
}
