//! What the first pass over a recording leaves behind: its parts with all replaced that is a secret by itself, and by which words
//! it can be told whether others' secrets may stand in them, too.
//!
//! Each batch is a line of JSON and the new bytes of its parts, one after the other.

use std::borrow::Cow;
use std::io::{self, BufRead, Read as _, Write};

use serde::{Deserialize, Serialize};

use super::ScrubReport;
use super::blank::{BlankReason, BlankedPlaces};
use super::known::{KnownSecrets, NotedWords};
use super::pass::ScrubbedBatch;
use faithful_clerk_model::secret::{RandomForm, SecretKind};
use faithful_clerk_recording::RecordingPart;

/// A part of a recording.
#[derive(Debug, Clone, Copy)]
pub(super) struct PartPlace {
    /// Where it starts in the recording, and how long it is.
    pub(super) offset: u64,
    pub(super) length: u64,
    pub(super) part: RecordingPart,
    /// The number of its entry.
    pub(super) entry: u64,
}

/// A part as it is written down: offset, length, what it is, number of its entry, and whether it has new bytes.
type SavedPart = (u64, u64, usize, u64, bool);

/// What a part can be, by the number that is written down for it.
const PARTS: [RecordingPart; 4] = [
    RecordingPart::Entry,
    RecordingPart::Line,
    RecordingPart::Message,
    RecordingPart::RecordHeader,
];

/// A batch as it is written down, but for the bytes of its parts.
#[derive(Serialize, Deserialize)]
struct SavedBatch {
    parts: Vec<SavedPart>,
    words: NotedWords,
    replaced: Vec<((SecretKind, String), u64)>,
    left: Vec<((RandomForm, String), u64)>,
    blanks: Vec<((Cow<'static, str>, BlankReason), BlankedPlaces)>,
}

/// Writes a batch.
pub(super) fn write(batch: ScrubbedBatch, to: &mut impl Write) -> io::Result<()> {
    let ScrubbedBatch { parts, report, words, .. } = batch;
    let saved = |(is, new): &(PartPlace, Option<Vec<u8>>)| {
        let part = PARTS.iter().position(|part| *part == is.part).unwrap_or_default();
        (is.offset, is.length, part, is.entry, new.is_some())
    };
    let saved = SavedBatch {
        parts: parts.iter().map(saved).collect(),
        words,
        replaced: report.replaced.into_iter().collect(),
        left: report.left.into_iter().collect(),
        blanks: report.blanks.into_iter().collect(),
    };
    serde_json::to_writer(&mut *to, &saved)?;
    to.write_all(b"\n")?;
    for new in parts.iter().filter_map(|(_, new)| new.as_ref()) {
        to.write_all(new)?;
    }
    Ok(())
}

/// Reads the next batch; nothing at the end.
pub(super) fn read(from: &mut impl BufRead) -> io::Result<Option<ScrubbedBatch>> {
    let mut line = Vec::new();
    if from.read_until(b'\n', &mut line)? == 0 {
        return Ok(None);
    }
    let saved: SavedBatch = serde_json::from_slice(&line)?;
    let mut part = |(offset, length, part, entry, is_new): SavedPart| {
        let part = PARTS.get(part).copied().ok_or(io::ErrorKind::InvalidData)?;
        let mut new = None;
        if is_new {
            let mut bytes = Vec::new();
            from.by_ref().take(length).read_to_end(&mut bytes)?;
            new = Some(bytes);
        }
        Ok::<_, io::Error>((PartPlace { offset, length, part, entry }, new))
    };
    let parts = saved.parts.into_iter().map(&mut part).collect::<io::Result<_>>()?;
    let report = ScrubReport {
        replaced: saved.replaced.into_iter().collect(),
        left: saved.left.into_iter().collect(),
        blanks: saved.blanks.into_iter().collect(),
    };
    Ok(Some(ScrubbedBatch { parts, report, known: KnownSecrets::default(), words: saved.words }))
}
