//! HTTP messages as they stood on the wire.

use std::ffi::CString;
use std::io::Write as _;

use flate2::{Compression, GzBuilder};

use super::Scrubber;
use super::blank::{self, BlankReason};
use super::json::MessageSide;
use super::scrubber::SecretLocation;
use faithful_clerk_model::coding::undo_codings;
use faithful_clerk_model::media;
use faithful_clerk_recording::{Head, Start, chunks_of};

impl Scrubber<'_> {
    /// Replaces in a message: its first line, its header fields, its body.
    pub(super) fn message(&mut self, message: &[u8]) -> Option<Vec<u8>> {
        let Some(head) = Head::read(message) else { return self.fields(message) };
        let (before, body) = message.split_at_checked(head.length)?;
        let new_before = self.fields(before);
        let side = match head.start {
            Start::Response(_, 400.., _) => MessageSide::Response,
            _ => MessageSide::Request,
        };
        let media = head.headers.get("content-type").unwrap_or_default();
        let is_chunked = head.headers.has("transfer-encoding");
        let ranges = if is_chunked { chunks_of(body) } else { None };
        let ranges = ranges.unwrap_or_else(|| std::iter::once(0..body.len()).collect());
        let content: Vec<u8> =
            ranges.iter().filter_map(|range| body.get(range.clone())).flatten().copied().collect();
        let new_content = self.content(&content, media, head.headers.get("content-encoding"), side);
        let new_content = new_content.map(|new| match new.len() == content.len() {
            true => new,
            false => blank::no_text(&content),
        });
        // Behind the last chunk there may be trailers.
        let end = ranges.last().map_or(0, |range| range.end);
        let behind = body.get(end..).unwrap_or_default();
        let new_behind = self.fields(behind).filter(|new| new.len() == behind.len());
        if new_before.is_none() && new_content.is_none() && new_behind.is_none() {
            return None;
        }
        let mut new = new_before.unwrap_or_else(|| before.to_vec());
        new.extend_from_slice(body.get(..end).unwrap_or_default());
        new.extend_from_slice(new_behind.as_deref().unwrap_or(behind));
        if let Some(content) = new_content {
            let mut left = content.as_slice();
            for range in ranges {
                let (now, later) = left.split_at_checked(range.len())?;
                new.get_mut(head.length + range.start..head.length + range.end)?
                    .copy_from_slice(now);
                left = later;
            }
        }
        Some(new)
    }

    /// Replaces in the lines of a head, or of an archive's record.
    pub(super) fn fields(&mut self, head: &[u8]) -> Option<Vec<u8>> {
        let mut new = Vec::with_capacity(head.len());
        let mut name = String::new();
        for (number, line) in head.split_inclusive(|byte| *byte == b'\n').enumerate() {
            // Header fields are in Latin-1 where they are not in UTF-8.
            let Ok(text) = std::str::from_utf8(line) else {
                self.blanked("a header field", BlankReason::NotText);
                let name = line.iter().position(|byte| *byte == b':').unwrap_or_default();
                let (name, value) = line.split_at(name);
                new.extend_from_slice(name);
                new.extend_from_slice(&blank::unread(value));
                continue;
            };
            let is_folded = number > 0 && text.starts_with([' ', '\t']) && !name.is_empty();
            let changed = match is_folded {
                // The value goes on (RFC 9112 section 5.2).
                true => self.value_in(text, &name),
                false => {
                    name.clear();
                    name.extend(text.split_once(':').map(|(name, _)| name.trim()));
                    self.line(text, number == 0)
                }
            };
            new.extend_from_slice(changed.as_ref().map_or(line, String::as_bytes));
        }
        (new != head).then_some(new)
    }

    fn line(&mut self, line: &str, is_first: bool) -> Option<String> {
        let content = line.trim_end_matches(['\r', '\n']);
        let end = line.get(content.len()..)?;
        if is_first && !content.starts_with("HTTP/") && !content.starts_with("WARC/") {
            let (method, rest) = content.split_once(' ')?;
            let (target, version) = rest.rsplit_once(' ')?;
            return Some(format!("{method} {} {version}{end}", self.url(target)?));
        }
        let Some((name, value)) = content.split_once(':') else {
            return Some(format!("{}{end}", self.text(content, SecretLocation::of("header"))?));
        };
        let new = self.value_in(value, name.trim())?;
        Some(format!("{name}:{new}{end}"))
    }

    /// The value of a header field, with what stands around it.
    fn value_in(&mut self, value: &str, name: &str) -> Option<String> {
        let plain = value.trim();
        let new = match name.to_ascii_lowercase().as_str() {
            "warc-target-uri" => self.url(plain),
            _ => self.header(name, plain),
        }?;
        let start = value.len() - value.trim_start().len();
        let (space, rest) = value.split_at(start);
        Some(format!("{space}{new}{}", rest.get(plain.len()..)?))
    }

    /// Replaces in the bytes of a body.
    pub(super) fn content(
        &mut self,
        content: &[u8],
        media: &str,
        codings: Option<&str>,
        side: MessageSide,
    ) -> Option<Vec<u8>> {
        let plain = match codings.map(|codings| undo_codings(content, codings)) {
            None | Some(Ok(None)) => return self.plain(content, media, side),
            Some(Ok(Some(plain))) => plain,
            Some(Err(_)) => {
                self.blanked("a body", BlankReason::Coding);
                return Some(blank::no_text(content));
            }
        };
        let new = self.plain(&plain, media, side)?;
        let is_gzip = codings.is_some_and(|codings| codings.trim().eq_ignore_ascii_case("gzip"));
        let packed = if is_gzip { packed(&new, content.len()) } else { None };
        packed.or_else(|| {
            // No coding of this length is known: better no body than a secret.
            self.blanked("a body", BlankReason::Packed);
            Some(blank::no_text(content))
        })
    }

    /// Replaces in the bytes of a body without codings.
    fn plain(&mut self, content: &[u8], media: &str, side: MessageSide) -> Option<Vec<u8>> {
        if let Ok(text) = std::str::from_utf8(content) {
            return self.body(text, media, side).map(String::into_bytes);
        }
        let in_utf_8 = media::in_utf_8(content, media);
        if let Ok(text) = std::str::from_utf8(&in_utf_8) {
            let new = self.body(text, media, side)?;
            // Pseudonyms are of the same sort, but not all in this character set.
            return Some(new.chars().map(|c| u8::try_from(c).unwrap_or(b'x')).collect());
        }
        self.blanked("a body", BlankReason::NotText);
        Some(blank::no_text(content))
    }
}

/// A text in gzip, of just that many bytes: what lacks is put into fields that nobody reads (RFC 1952
/// section 2.3.1).
fn packed(plain: &[u8], length: usize) -> Option<Vec<u8>> {
    let pack = |builder: GzBuilder, level: u32| {
        let mut encoder = builder.write(Vec::new(), Compression::new(level));
        encoder.write_all(plain).ok()?;
        encoder.finish().ok()
    };
    [9, 6, 4].into_iter().find_map(|level| {
        let bare = pack(GzBuilder::new(), level)?;
        let builder = match length.checked_sub(bare.len())? {
            0 => return Some(bare),
            1 => GzBuilder::new().filename(CString::default()),
            lacking => GzBuilder::new().extra(vec![0; lacking - 2]),
        };
        pack(builder, level).filter(|packed| packed.len() == length)
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn gzip_can_be_of_any_greater_length() {
        let text = "{\"token\": \"abc\"}".repeat(9);
        let least = packed(text.as_bytes(), 4000).unwrap().len();
        assert_eq!(least, 4000);
        for length in 60..200 {
            if let Some(packed) = packed(text.as_bytes(), length) {
                assert_eq!(packed.len(), length);
                assert_eq!(undo_codings(&packed, "gzip").unwrap().unwrap(), text.as_bytes());
            }
        }
    }
}
