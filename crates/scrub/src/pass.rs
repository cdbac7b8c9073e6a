//! The two ways over a recording.

use std::io::{self, Read, Seek, SeekFrom, Write};

use super::Scrubber;
use super::json::{DEEPEST, MessageSide};
use super::scrubber::SecretLocation;
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
    recording_parts(source, opening, &mut |offset, bytes, part| {
        if failed.is_some() {
            return;
        }
        let patched = between(scrubber, file, done, offset).and_then(|()| {
            match scrubber.part(bytes, part).filter(|new| new.len() == bytes.len()) {
                Some(new) => patch(file, offset, &new),
                None => Ok(()),
            }
        });
        done = offset + bytes.len() as u64;
        failed = patched.err();
    });
    if let Some(error) = failed {
        return Err(error);
    }
    let end = file.seek(SeekFrom::End(0))?;
    between(scrubber, file, done, end)?;
    file.flush()
}

/// What can't be read as a part of the recording is gone over as text.
fn between(
    scrubber: &mut Scrubber<'_>,
    file: &mut impl PatchTarget,
    from: u64,
    to: u64,
) -> io::Result<()> {
    let mut at = from;
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
        let new = std::str::from_utf8(&bytes).ok().and_then(|text| scrubber.unread(text));
        if let Some(new) = new.filter(|new| new.len() == bytes.len()) {
            patch(file, at, new.as_bytes())?;
        }
        at += bytes.len() as u64;
    }
    Ok(())
}

fn patch(file: &mut impl PatchTarget, at: u64, bytes: &[u8]) -> io::Result<()> {
    file.seek(SeekFrom::Start(at))?;
    file.write_all(bytes)
}

impl Scrubber<'_> {
    fn part(&mut self, bytes: &[u8], part: RecordingPart) -> Option<Vec<u8>> {
        match part {
            RecordingPart::Entry => {
                let text = std::str::from_utf8(bytes).ok()?;
                self.entry(text).map(String::into_bytes)
            }
            RecordingPart::Message => self.message(bytes),
            RecordingPart::RecordHeader => self.fields(bytes),
        }
    }

    /// Text that is no part of a recording, or a broken one.
    fn unread(&mut self, text: &str) -> Option<String> {
        if text.contains("\":") || text.contains("\" :") {
            self.json(text, MessageSide::Request, DEEPEST)
        } else {
            self.text(text, SecretLocation::of("an unreadable part"))
        }
    }
}
