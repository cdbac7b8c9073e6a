//! Undoes the content codings of a body (RFC 9110 section 8.4).

#[cfg(feature = "compression")]
use decode::undo;

const GZIP: &[u8] = &[0x1f, 0x8b, 8];
const ZSTD: &[u8] = &[0x28, 0xb5, 0x2f, 0xfd];

/// Undoes the codings of a body (RFC 9110 section 8.4), the last first. What is plain text already, as
/// recorders like to have it, is left.
///
/// # Errors
/// Why it can't be undone.
pub fn undo_codings(bytes: &[u8], codings: &str) -> Result<Option<Vec<u8>>, &'static str> {
    let mut plain: Option<Vec<u8>> = None;
    for coding in codings.rsplit(',').map(str::trim) {
        let coded = plain.as_deref().unwrap_or(bytes);
        if coding.is_empty() || coding.eq_ignore_ascii_case("identity") {
            continue;
        }
        let is_packed = coded.starts_with(GZIP) || coded.starts_with(ZSTD);
        if !is_packed && std::str::from_utf8(coded).is_ok() {
            continue;
        }
        plain = Some(undo(coded, &coding.to_ascii_lowercase())?);
    }
    Ok(plain)
}

#[cfg(not(feature = "compression"))]
fn undo(_: &[u8], _: &str) -> Result<Vec<u8>, &'static str> {
    Err("this program was built without content codings")
}

#[cfg(feature = "compression")]
mod decode {
    use std::io::Read;

    use brotli_decompressor::Decompressor;
    use flate2::read::{DeflateDecoder, MultiGzDecoder, ZlibDecoder};

    /// Bodies are seldom compressed more than 50 to 1; what was made to fill memory is.
    const DENSEST: u64 = 250;

    /// A body is not decompressed beyond this.
    const LARGEST_BODY: u64 = 64 << 20;

    /// A body that decompresses to less than this may be as dense as it likes.
    const SMALL_BODY: u64 = 1 << 20;

    /// Frames that need more than 2 to this power bytes are refused.
    const ZSTD_WINDOW: u32 = 25;

    pub(super) fn undo(coded: &[u8], coding: &str) -> Result<Vec<u8>, &'static str> {
        match coding {
            "gzip" | "x-gzip" => all(MultiGzDecoder::new(coded), coded),
            // The standard means zlib's form, and some send the bare one (RFC 9110 section 8.4.1.2).
            "deflate" => all(ZlibDecoder::new(coded), coded)
                .or_else(|_| all(DeflateDecoder::new(coded), coded)),
            "br" => all(Decompressor::new(coded, 4096), coded),
            "zstd" => {
                let decoder = zstd::stream::read::Decoder::with_buffer(coded);
                let mut decoder = decoder.map_err(|_| BROKEN)?;
                decoder.window_log_max(ZSTD_WINDOW).map_err(|_| BROKEN)?;
                all(decoder, coded)
            }
            _ => Err("its content coding is not known"),
        }
    }

    const BROKEN: &str = "its content coding can't be undone";

    fn all(mut source: impl Read, coded: &[u8]) -> Result<Vec<u8>, &'static str> {
        let most = (coded.len() as u64).saturating_mul(DENSEST).clamp(SMALL_BODY, LARGEST_BODY);
        let mut plain = Vec::new();
        (&mut source).take(most + 1).read_to_end(&mut plain).map_err(|_| BROKEN)?;
        if plain.len() as u64 > most {
            return Err("its content coding unpacks to more than is read");
        }
        Ok(plain)
    }
}

#[cfg(test)]
#[cfg(feature = "compression")]
mod tests {
    use std::io::Write as _;

    use flate2::Compression;
    use flate2::write::{DeflateEncoder, GzEncoder, ZlibEncoder};

    use super::*;

    fn gzip(text: &[u8]) -> Vec<u8> {
        let mut encoder = GzEncoder::new(Vec::new(), Compression::best());
        encoder.write_all(text).unwrap();
        encoder.finish().unwrap()
    }

    #[test]
    fn every_coding_of_a_body_is_undone() {
        let text = "{\"title\": \"Grüße\"}".repeat(40);
        let mut zlib = ZlibEncoder::new(Vec::new(), Compression::best());
        zlib.write_all(text.as_bytes()).unwrap();
        let mut bare = DeflateEncoder::new(Vec::new(), Compression::best());
        bare.write_all(text.as_bytes()).unwrap();
        let zstd = zstd::encode_all(text.as_bytes(), 3).unwrap();
        for (bytes, codings) in [
            (gzip(text.as_bytes()), "gzip"),
            (gzip(text.as_bytes()), "identity, X-GZip"),
            (zlib.finish().unwrap(), "deflate"),
            (bare.finish().unwrap(), "deflate"),
            (zstd.clone(), "zstd"),
            (gzip(&zstd), "zstd, gzip"),
        ] {
            assert_eq!(
                undo_codings(&bytes, codings).unwrap().unwrap(),
                text.as_bytes(),
                "{codings}"
            );
        }
        // Undone by the recorder, though the header still says so.
        assert_eq!(undo_codings(text.as_bytes(), "gzip").unwrap(), None);
        assert!(undo_codings(b"\x1f\x8b\x08broken\xff", "gzip").is_err());
        assert!(undo_codings(b"\xff\xfe", "br").is_err());
        assert!(undo_codings(b"\xff\xfe", "pack200").is_err());
    }

    #[test]
    fn a_bomb_is_not_decompressed() {
        let bomb = gzip(&vec![b' '; 40 << 20]);
        assert!(undo_codings(&bomb, "gzip").unwrap_err().contains("more than is read"));
    }
}
