//! Opens a recording: unpacks it, recognises it, and gives what cuts it.

use std::fmt;
use std::io::{self, Cursor, Read, Seek, SeekFrom};
use std::sync::{Arc, Mutex, PoisonError};

use super::batch::{Batch, Cut, LARGEST_ENTRY};
use super::har::Cutter;
use super::http::{Pair, Turns};
use super::lines::Lines;
use super::unpack::unpacked;
use super::warc::Archive;
use super::{Format, Loss};

/// So many bytes are looked at to recognise a recording.
const LOOKED_AT: u64 = 64 << 10;

/// Where a recording's bytes come from.
pub struct Source<'s> {
    pub(super) bytes: Box<dyn Read + Send + 's>,
    answers: Option<Box<dyn Read + Send + 's>>,
    pub(super) is_brotli: bool,
    start: Option<Start<'s>>,
}

/// Goes back to a source's start.
type Start<'s> = Box<dyn FnOnce() -> io::Result<Box<dyn Read + Send + 's>> + 's>;

impl<'s> Source<'s> {
    /// A stream. It may be packed with gzip or zstd.
    pub fn of(bytes: impl Read + Send + 's) -> Self {
        Self { bytes: Box::new(bytes), answers: None, is_brotli: false, start: None }
    }

    /// A file, or anything else that can be gone back in to where it stands now. It can be read quicker than a
    /// stream, since a quick way that turns out to be none does no harm. What can't be gone back in after all
    /// is a stream.
    pub fn file(mut bytes: impl Read + Seek + Send + 's) -> Self {
        let Ok(start) = bytes.stream_position() else { return Self::of(bytes) };
        let shared = Shared(Arc::new(Mutex::new(bytes)));
        let again = Shared(Arc::clone(&shared.0));
        let go_back = move || -> io::Result<Box<dyn Read + Send + 's>> {
            again.0.lock().unwrap_or_else(PoisonError::into_inner).seek(SeekFrom::Start(start))?;
            Ok(Box::new(again))
        };
        Self { start: Some(Box::new(go_back)), ..Self::of(shared) }
    }

    /// Two files that belong together: HTTP requests in one, their answers in the other.
    pub fn pair(requests: impl Read + Send + 's, answers: impl Read + Send + 's) -> Self {
        Self { answers: Some(Box::new(answers)), ..Self::of(requests) }
    }

    /// What can be read from its start, where this can be; of this nothing may be read any more by then.
    pub(crate) fn again(&mut self) -> Option<impl FnOnce() -> io::Result<Source<'s>> + use<'s>> {
        let (start, is_brotli) = (self.start.take()?, self.is_brotli);
        Some(move || Ok(Self { bytes: start()?, answers: None, is_brotli, start: None }))
    }

    /// Says that it is packed with brotli, which can't be told from the bytes.
    #[must_use]
    pub fn brotli(mut self, is_brotli: bool) -> Self {
        self.is_brotli = is_brotli;
        self
    }
}

impl fmt::Debug for Source<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("Source").field("is_brotli", &self.is_brotli).finish_non_exhaustive()
    }
}

/// Bytes of which the start can be gone back to when they are no longer read.
struct Shared<R>(Arc<Mutex<R>>);

impl<R: Read> Read for Shared<R> {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).read(into)
    }
}

/// How recordings are opened.
#[derive(Debug, Clone, Copy)]
pub struct Opening {
    /// Their form; `None` if it is to be recognised.
    pub format: Option<Format>,
    /// The largest entry that is read, in bytes.
    pub largest: usize,
    /// May a cutter take a HAR entry to end where text stands that has stood between two entries before? That is quick, and
    /// holds unless a recording is broken or odd. Whoever allows it has to ask [`Batch::is_whole`] of what can't be
    /// read, and to read the recording from its start without this if something is not.
    pub leaps: bool,
}

impl Default for Opening {
    /// Any form, entries of 64 MiB at most, and no leaps.
    fn default() -> Self {
        Self { format: None, largest: LARGEST_ENTRY, leaps: false }
    }
}

/// Opens a recording. `recording` is its place in the run, for addresses.
#[must_use]
pub fn open<'s>(source: Source<'s>, recording: u32, opening: Opening) -> Box<dyn Cut + 's> {
    let Opening { format, largest, leaps } = opening;
    let Source { bytes, answers, is_brotli, start: _ } = source;
    if let Some(answers) = answers {
        let bytes = unpacked(bytes, is_brotli);
        return Box::new(Pair::new(bytes, unpacked(answers, is_brotli), recording, largest));
    }
    let source = Source::of(bytes).brotli(is_brotli);
    let (bytes, format) = match recognised(source, format) {
        Ok(recognised) => recognised,
        Err(reason) => {
            let loss = Loss { recording, offset: 0, number: None, reason };
            return Box::new(Unknown(Some(loss)));
        }
    };
    match format {
        Format::Har => Box::new(Cutter::new(bytes, recording).largest(largest).leaps(leaps)),
        Format::Lines => Box::new(Lines::new(bytes, recording, largest)),
        Format::Http => Box::new(Turns::new(bytes, recording, largest)),
        Format::Warc => Box::new(Archive::new(bytes, recording, largest)),
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

/// The form of a recording, if it is told by its first bytes beyond doubt.
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
    let again = Cursor::new(start.clone()).chain(Failure(failed)).chain(source);
    (start, Box::new(again))
}

/// A failure of reading that comes when it is due.
struct Failure(Option<io::Error>);

impl Read for Failure {
    fn read(&mut self, _: &mut [u8]) -> io::Result<usize> {
        self.0.take().map_or(Ok(0), Err)
    }
}

/// What is no recording gives nothing but the reason.
struct Unknown(Option<Loss>);

impl Cut for Unknown {
    fn next(&mut self, batch: &mut Batch) -> bool {
        batch.clear();
        batch.losses.extend(self.0.take());
        !batch.losses.is_empty()
    }
}
