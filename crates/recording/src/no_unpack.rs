//! Stands in for decompression where it is not built in: what is compressed can't be read, and that is said.

use std::io::{Error, ErrorKind, Read};

use super::Source;
use super::open::peek;

const GZIP: &[u8] = &[0x1f, 0x8b, 8];
const ZSTD: &[u8] = &[0x28, 0xb5, 0x2f, 0xfd];

/// The bytes of a source, or a failure if they are compressed.
pub fn unpack(source: Source<'_>) -> impl Read {
    unpacked(source.bytes, source.is_brotli)
}

pub(super) fn unpacked<'s>(
    source: Box<dyn Read + Send + 's>,
    is_brotli: bool,
) -> Box<dyn Read + Send + 's> {
    let (start, source) = peek(source, 4);
    if is_brotli || start.starts_with(GZIP) || start.starts_with(ZSTD) {
        return Box::new(Refusal { is_told: false });
    }
    Box::new(source)
}

/// Fails once, and then has ended.
struct Refusal {
    is_told: bool,
}

impl Read for Refusal {
    fn read(&mut self, _: &mut [u8]) -> std::io::Result<usize> {
        if std::mem::replace(&mut self.is_told, true) {
            return Ok(0);
        }
        let reason = "it is compressed, and this program was built without decompression";
        Err(Error::new(ErrorKind::Unsupported, reason))
    }
}
