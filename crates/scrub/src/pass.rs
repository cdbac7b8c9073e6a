//! The two ways over a recording.

use std::io::{self, Read, Seek, SeekFrom, Write};

use super::Scrubber;
use super::blank::{self, BETWEEN, BlankReason};
use super::json::{DEEPEST, MessageSide};
use faithful_clerk_recording::{ReadOptions, RecordingPart, Source, recording_parts};

/// What lies between the parts of a recording is read in pieces of this size.
const PIECE: usize = 1 << 20;

/// A file that is patched in place.
pub trait PatchTarget: Read + Write + Seek {}

impl<T: Read + Write + Seek> PatchTarget for T {}

/// The first way: collects what is a secret in a recording.
pub fn collect(scrubber: &mut Scrubber<'_>, source: Source<'_>, opening: ReadOptions) {
    recording_parts(source, opening, &mut |_, bytes, part| drop(scrubber.part(bytes, part)));
}

/// The second way: replaces the secrets of a recording. `source` gives its bytes, unpacked; `file` holds
/// the same bytes, and gets the pseudonyms.
///
/// # Errors
/// What prevents writing.
pub fn replace(
    scrubber: &mut Scrubber<'_>,
    source: Source<'_>,
    opening: ReadOptions,
    file: &mut impl PatchTarget,
) -> io::Result<()> {
    let (mut done, mut failed) = (0, None);
    let mut gap = Gap { is_har: true, at: Place::Before };
    recording_parts(source, opening, &mut |offset, bytes, part| {
        if failed.is_some() {
            return;
        }
        gap.is_har = part == RecordingPart::Entry;
        let patched = between(scrubber, file, (done, offset), &gap).and_then(|()| {
            match scrubber.part(bytes, part) {
                Some(new) if new.len() == bytes.len() => patch(file, offset, &new),
                Some(_) => {
                    scrubber.blanked("an entry", BlankReason::Unreadable);
                    patch(file, offset, &blank::unread(bytes))
                }
                None => Ok(()),
            }
        });
        gap.at = Place::Behind;
        done = offset + bytes.len() as u64;
        failed = patched.err();
    });
    if let Some(error) = failed {
        return Err(error);
    }
    let end = file.seek(SeekFrom::End(0))?;
    between(scrubber, file, (done, end), &gap)?;
    file.flush()
}

/// What lies between the parts of a recording.
struct Gap {
    /// Is it one of HAR, in which something else may stand before and behind the entries?
    is_har: bool,
    at: Place,
}

#[derive(PartialEq, Eq)]
enum Place {
    /// Before the first part.
    Before,
    /// Behind one.
    Behind,
}

/// What can't be read as a part of the recording is blanked; what a recording has around its entries is gone over as JSON.
fn between(
    scrubber: &mut Scrubber<'_>,
    file: &mut impl PatchTarget,
    (from, to): (u64, u64),
    gap: &Gap,
) -> io::Result<()> {
    let (mut at, mut is_first, mut is_around) = (from, true, false);
    while at < to {
        let length = (to - at).min(PIECE as u64);
        let mut bytes = Vec::new();
        file.seek(SeekFrom::Start(at))?;
        Read::by_ref(file).take(length).read_to_end(&mut bytes)?;
        if bytes.is_empty() {
            return Ok(());
        }
        // Not to cut through a secret, a piece ends where a line or a string does.
        if at + (bytes.len() as u64) < to {
            let end = bytes.iter().rposition(|byte| matches!(byte, b'\n' | b'"' | b','));
            bytes.truncate(end.map_or(bytes.len(), |end| end + 1));
        }
        // So many bytes belong to the recording itself.
        let own = match (gap.is_har, &gap.at) {
            (false, _) => 0,
            (true, Place::Before) if is_first => entries_begin(&bytes),
            (true, Place::Behind) if is_first => {
                let rest =
                    bytes.iter().position(|byte| !byte.is_ascii_whitespace() && *byte != b',');
                let is_end = rest.is_some_and(|at| bytes.get(at) == Some(&b']'));
                is_around = is_end;
                if is_end { bytes.len() } else { 0 }
            }
            (true, _) => {
                if is_around {
                    bytes.len()
                } else {
                    0
                }
            }
        };
        let (around, unread) = bytes.split_at(own);
        let new_around = std::str::from_utf8(around).ok().and_then(|text| scrubber.around(text));
        let new_around = new_around.filter(|new| new.len() == around.len());
        let mut new = new_around.map_or_else(|| around.to_vec(), String::into_bytes);
        if std::str::from_utf8(around).is_err() {
            new = blank::unread(around);
        }
        let blanked = blank::unread(unread);
        if blanked != unread && is_first {
            scrubber.blanked(BETWEEN, BlankReason::Unreadable);
        }
        new.extend_from_slice(&blanked);
        if new != bytes {
            patch(file, at, &new)?;
        }
        is_first = false;
        at += bytes.len() as u64;
    }
    Ok(())
}

/// Where the entries of a HAR begin in its first bytes; 0 where there are none.
fn entries_begin(bytes: &[u8]) -> usize {
    let mut from = 0;
    while let Some(at) = memchr::memmem::find(bytes.get(from..).unwrap_or_default(), b"\"entries\"")
    {
        let end = from + at + b"\"entries\"".len();
        let mut rest =
            bytes.iter().enumerate().skip(end).filter(|(_, byte)| !byte.is_ascii_whitespace());
        if rest.next().is_some_and(|(_, byte)| *byte == b':')
            && let Some((at, b'[')) = rest.next()
        {
            return at + 1;
        }
        from = end;
    }
    0
}

fn patch(file: &mut impl PatchTarget, at: u64, bytes: &[u8]) -> io::Result<()> {
    file.seek(SeekFrom::Start(at))?;
    file.write_all(bytes)
}

impl Scrubber<'_> {
    /// Replaces in a part of a recording.
    pub(super) fn part(&mut self, bytes: &[u8], part: RecordingPart) -> Option<Vec<u8>> {
        match part {
            RecordingPart::Entry | RecordingPart::Line => {
                self.entry += 1;
                let Ok(text) = std::str::from_utf8(bytes) else {
                    self.blanked("an entry", BlankReason::NotText);
                    return Some(blank::unread(bytes));
                };
                self.har_entry(text).map(String::into_bytes)
            }
            RecordingPart::Message => {
                // A response belongs to the request before it.
                self.entry += u64::from(!bytes.starts_with(b"HTTP/"));
                self.message(bytes)
            }
            RecordingPart::RecordHeader => self.fields(bytes),
        }
    }

    /// What a recording has around its entries.
    fn around(&mut self, text: &str) -> Option<String> {
        self.json(text, MessageSide::Request, DEEPEST)
    }
}
