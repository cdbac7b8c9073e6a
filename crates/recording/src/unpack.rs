//! Decompresses whole recordings as they are read.

use std::io::{BufRead, BufReader, Error, ErrorKind, Read};
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};

use brotli_decompressor::Decompressor;
use flate2::bufread::GzDecoder;

use super::Source;
use super::open::peek;

/// What unpacks to more than this has to be compressed no denser than [`DENSEST`].
const SMALL: u64 = 256 << 20;

/// Recordings and bodies are seldom compressed denser than 50 to 1; what was made to fill memory or time is.
const DENSEST: u64 = 250;

/// Frames that need more than 2 to this power bytes to be unpacked are refused.
const ZSTD_WINDOW: u32 = 25;

const GZIP: &[u8] = &[0x1f, 0x8b, 8];
const ZSTD: &[u8] = &[0x28, 0xb5, 0x2f, 0xfd];

/// The bytes of a source, unpacked if they are compressed.
pub fn unpack(source: Source<'_>) -> impl Read {
    unpacked(source.bytes, source.is_brotli)
}

/// A recording's bytes, unpacked if they are compressed.
pub(super) fn unpacked<'s>(
    source: Box<dyn Read + Send + 's>,
    is_brotli: bool,
) -> Box<dyn Read + Send + 's> {
    let (start, source) = peek(source, 4);
    let taken = Arc::new(AtomicU64::new(0));
    let counted =
        BufReader::with_capacity(64 << 10, CountingReader { source, taken: Arc::clone(&taken) });
    let unpacked: Box<dyn Read + Send + 's> = if start.starts_with(GZIP) {
        Box::new(GzipMembers::new(counted))
    } else if start.starts_with(ZSTD) {
        match zstd::stream::read::Decoder::with_buffer(counted) {
            Ok(mut decoder) => match decoder.window_log_max(ZSTD_WINDOW) {
                Ok(()) => Box::new(decoder),
                Err(error) => Box::new(FailingReader(Some(error))),
            },
            Err(error) => Box::new(FailingReader(Some(error))),
        }
    } else if is_brotli {
        Box::new(Decompressor::new(counted, 4096))
    } else {
        return counted.into_inner().source;
    };
    Box::new(BoundedReader { source: unpacked, taken, given: 0 })
}

/// Counts what was taken out of a source.
struct CountingReader<'s> {
    source: Box<dyn Read + Send + 's>,
    taken: Arc<AtomicU64>,
}

impl Read for CountingReader<'_> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        let came = self.source.read(into)?;
        self.taken.fetch_add(came as u64, Ordering::Relaxed);
        Ok(came)
    }
}

/// Ends where more comes out of a source than anybody packs in.
struct BoundedReader<'s> {
    source: Box<dyn Read + Send + 's>,
    taken: Arc<AtomicU64>,
    given: u64,
}

impl Read for BoundedReader<'_> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        let most = self.taken.load(Ordering::Relaxed).saturating_mul(DENSEST).max(SMALL);
        if self.given > most {
            let reason = format!("it unpacks to more than {DENSEST} times its size");
            return Err(Error::new(ErrorKind::InvalidData, reason));
        }
        let came = self.source.read(into)?;
        self.given += came as u64;
        Ok(came)
    }
}

/// A source that could not be begun.
struct FailingReader(Option<Error>);

impl Read for FailingReader {
    fn read(&mut self, _: &mut [u8]) -> std::io::Result<usize> {
        self.0.take().map_or(Ok(0), Err)
    }
}

/// The members of a gzip file, one behind the other, as archives have them. A damaged member is a failure
/// of reading, and behind it reading goes on with the next.
struct GzipMembers<R: BufRead> {
    decoder: Option<GzDecoder<PrefixedReader<R>>>,
    /// Something came of the member in work.
    has_given: bool,
}

impl<R: BufRead> GzipMembers<R> {
    fn new(source: R) -> Self {
        Self {
            decoder: Some(GzDecoder::new(PrefixedReader { source, again: &[] })),
            has_given: false,
        }
    }

    /// Goes to the next member, behind whatever lies before it. Gives how much that was.
    fn find(&mut self, mut source: PrefixedReader<R>) -> std::io::Result<u64> {
        let (mut passed, mut matched) = (0, 0);
        loop {
            let Some(byte) = source.fill_buf()?.first().copied() else { return Ok(passed) };
            source.consume(1);
            passed += 1;
            matched = match GZIP.get(matched) {
                Some(due) if *due == byte => matched + 1,
                // No byte stands twice in the mark, so it can only begin anew.
                _ => usize::from(GZIP.first() == Some(&byte)),
            };
            if matched == GZIP.len() {
                source.again = GZIP;
                self.decoder = Some(GzDecoder::new(source));
                return Ok(passed - GZIP.len() as u64);
            }
        }
    }
}

/// A source that gives a few bytes again before it goes on.
struct PrefixedReader<R> {
    source: R,
    again: &'static [u8],
}

impl<R: BufRead> BufRead for PrefixedReader<R> {
    fn fill_buf(&mut self) -> std::io::Result<&[u8]> {
        if self.again.is_empty() { self.source.fill_buf() } else { Ok(self.again) }
    }

    fn consume(&mut self, length: usize) {
        match self.again.get(length..) {
            Some(rest) if !self.again.is_empty() => self.again = rest,
            _ => self.source.consume(length),
        }
    }
}

impl<R: BufRead> Read for PrefixedReader<R> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        let length = self.fill_buf()?.read(into)?;
        self.consume(length);
        Ok(length)
    }
}

impl<R: BufRead> Read for GzipMembers<R> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        loop {
            let Some(decoder) = &mut self.decoder else { return Ok(0) };
            let result = decoder.read(into);
            if let Ok(1..) = result {
                self.has_given = true;
                return result;
            }
            let has_given = std::mem::take(&mut self.has_given);
            let Some(source) = self.decoder.take().map(GzDecoder::into_inner) else { return Ok(0) };
            let passed = self.find(source)?;
            match result {
                // A sum that does not fit tells that what came is damaged; an end too early does not.
                Err(error) if has_given && error.kind() != ErrorKind::UnexpectedEof => {
                    return Err(Error::new(ErrorKind::InvalidData, error));
                }
                Err(error) => return Err(Error::other(error)),
                Ok(_) if passed > 512 && self.decoder.is_some() => {
                    let reason = format!("{passed} bytes between two members are not gzip");
                    return Err(Error::new(ErrorKind::InvalidData, reason));
                }
                Ok(_) => {}
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use std::io::Write as _;

    use flate2::Compression;
    use flate2::write::GzEncoder;

    use super::*;

    fn gzip(text: &[u8]) -> Vec<u8> {
        let mut encoder = GzEncoder::new(Vec::new(), Compression::best());
        encoder.write_all(text).unwrap();
        encoder.finish().unwrap()
    }

    fn read(packed: &[u8]) -> (Vec<u8>, usize) {
        let (mut source, mut all, mut failures) =
            (unpacked(Box::new(packed), false), Vec::new(), 0);
        while source.read_to_end(&mut all).is_err() {
            failures += 1;
            assert!(failures < 10);
        }
        (all, failures)
    }

    #[test]
    fn a_bomb_is_not_unpacked() {
        let bomb = gzip(&vec![b' '; 300 << 20]);
        let mut source = unpacked(Box::new(bomb.as_slice()), false);
        let result = std::io::copy(&mut source, &mut std::io::sink());
        assert!(result.unwrap_err().to_string().contains("times its size"));
    }

    #[test]
    fn behind_a_damaged_member_the_next_is_read() {
        let mut packed = Vec::new();
        let texts: Vec<String> =
            (0..4).map(|n| format!("member {n} {}", "x".repeat(n * 10))).collect();
        for (number, text) in texts.iter().enumerate() {
            let mut member = gzip(text.as_bytes());
            if number == 1 {
                let middle = member.len() / 2;
                member[middle] ^= 0xff;
            }
            packed.extend(member);
        }
        let (all, failures) = read(&packed);
        assert_eq!(failures, 1);
        let all = String::from_utf8_lossy(&all).into_owned();
        assert!([0, 2, 3].iter().all(|at| all.contains(&texts[*at])), "{all}");
        assert_eq!(read(&gzip(b"one")), (b"one".to_vec(), 0));
        assert_eq!(read(b"plain"), (b"plain".to_vec(), 0));
        assert_eq!(read(&zstd::encode_all(&b"dense"[..], 3).unwrap()), (b"dense".to_vec(), 0));
    }
}
