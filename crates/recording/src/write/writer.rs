//! Writes exchanges in the form that is asked for.

use super::super::batch::{Batch, RawEntry, RawParts};
use super::super::{Format, ReadOptions, Source, Unreadable, UnreadableParts, open};
use super::omission::leave_out;
use super::record::ExchangeRecord;
use faithful_clerk_model::headers::is_token;
use faithful_clerk_model::secret::mask::masked;
use serde_json::value::RawValue;
use std::collections::BTreeMap;
use std::io::{self, Write};

/// What was written.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct WriteSummary {
    /// How many exchanges.
    pub exchanges: u64,
    /// What the form can't hold, and how often it was left out.
    pub left_out: BTreeMap<&'static str, u64>,
}

/// Writes a recording.
#[derive(Debug)]
pub struct RecordingWriter<W> {
    format: Format,
    sink: W,
    written: WriteSummary,
}

impl<W: Write> RecordingWriter<W> {
    /// A writer of a form.
    pub fn new(format: Format, sink: W) -> Self {
        Self { format, sink, written: WriteSummary::default() }
    }

    /// Copies a recording, behind what was written before. Gives what of it could not be read.
    ///
    /// # Errors
    /// What prevents writing.
    pub fn copy(
        &mut self,
        source: Source<'_>,
        recording: u32,
        opening: &ReadOptions,
    ) -> io::Result<UnreadableParts> {
        let mut splitter = open(source, recording, opening);
        let (mut batch, mut unreadable) = (Batch::default(), UnreadableParts::default());
        while splitter.next(&mut batch) {
            for part in batch.unreadable.drain(..) {
                unreadable.enter(part);
            }
            for piece in batch.entries() {
                if let Err(reason) = self.piece(&batch, piece, recording)? {
                    let reason = masked(&reason).into_owned();
                    let (offset, number) = (piece.offset, Some(piece.number));
                    unreadable.enter(Unreadable { recording, offset, number, reason });
                }
            }
        }
        Ok(unreadable)
    }

    /// Writes what stands behind the last exchange, and gives what was written.
    ///
    /// # Errors
    /// What prevents writing.
    pub fn finish(mut self) -> io::Result<(W, WriteSummary)> {
        if self.format == Format::Har {
            if self.written.exchanges == 0 {
                self.sink.write_all(super::har::BEGIN)?;
            }
            self.sink.write_all(super::har::END)?;
        }
        self.sink.flush()?;
        Ok((self.sink, self.written))
    }

    /// Writes one exchange, or says why it can't be read.
    fn piece(
        &mut self,
        batch: &Batch,
        piece: &RawEntry,
        recording: u32,
    ) -> io::Result<Result<(), String>> {
        let exchange = match batch.exchange(piece, recording) {
            Ok(exchange) => exchange,
            Err(reason) => return Ok(Err(reason)),
        };
        let entry = match &piece.parts {
            RawParts::Entry(range) => batch.bytes.get(range.clone()),
            RawParts::Mapped(..) | RawParts::Messages(_) => None,
        };
        let entry = entry.map(|bytes| std::str::from_utf8(bytes).unwrap_or_default());
        let is_json = matches!(self.format, Format::Har | Format::JsonLines);
        if let Some(entry) = entry.filter(|_| is_json) {
            // What is carried over unread has to be JSON to its last byte.
            if let Err(error) = serde_json::from_str::<&RawValue>(entry) {
                return Ok(Err(error.to_string()));
            }
            self.entry(entry)?;
            return Ok(Ok(()));
        }
        let record = match (&piece.parts, entry) {
            (RawParts::Messages(messages), _) => {
                ExchangeRecord::of_messages(exchange, messages, &batch.bytes)
            }
            (RawParts::Mapped(range, _), _) => {
                let line = batch.bytes.get(range.clone()).unwrap_or_default();
                let started = batch.map.as_ref().and_then(|map| map.started(line));
                ExchangeRecord::of_line(exchange, started)
            }
            (RawParts::Entry { .. }, entry) => ExchangeRecord::of_entry(
                exchange,
                entry.unwrap_or_default(),
                &mut self.written.left_out,
            ),
        };
        if !is_json && !is_token(&record.exchange.request.method) {
            leave_out(&mut self.written.left_out, "exchanges whose method is none of HTTP");
            return Ok(Ok(()));
        }
        if !is_json {
            record.leave_out_of_messages(&mut self.written.left_out);
        }
        match self.format {
            Format::Har | Format::JsonLines => {
                let entry = super::har::entry(&record, &mut self.written.left_out)?;
                self.entry(&entry)?;
            }
            Format::Http => {
                if super::http::write(&record, &mut self.sink, &mut self.written.left_out)? {
                    self.written.exchanges += 1;
                }
            }
            Format::Warc => {
                super::warc::write(&record, &mut self.sink, &mut self.written.left_out)?;
                self.written.exchanges += 1;
            }
        }
        Ok(Ok(()))
    }

    fn entry(&mut self, entry: &str) -> io::Result<()> {
        let is_first = self.written.exchanges == 0;
        self.written.exchanges += 1;
        if self.format == Format::JsonLines {
            self.sink.write_all(super::har::in_one_line(entry).as_bytes())?;
            return self.sink.write_all(b"\n");
        }
        self.sink.write_all(if is_first { super::har::BEGIN } else { b",\n" })?;
        self.sink.write_all(entry.as_bytes())
    }
}
