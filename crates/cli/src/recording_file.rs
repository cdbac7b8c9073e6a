//! A recording that is written while it is made: an entry a line, each at once, so that whoever is stopped at any time
//! leaves a recording that can be read.

use std::fs::{File, OpenOptions};
use std::io::{self, BufRead as _, BufReader, Seek as _, SeekFrom, Write as _};
use std::path::{Path, PathBuf};

use faithful_clerk_recording::{Format, ReadOptions, RecordingWriter, Source};

use crate::exit::Failure;
use crate::output::{OutputTarget, Readers, cannot, print_error};

/// The recording, open for writing.
#[derive(Debug)]
pub(crate) struct RecordingFile {
    file: File,
    /// Where the lines are.
    lines: PathBuf,
    /// Where they are to be as HAR, at the end.
    har: Option<PathBuf>,
    /// Up to here it is whole.
    end: u64,
    /// Entries that are in it.
    pub(crate) entries: u64,
    /// Entries that could not be written.
    pub(crate) lost: u64,
}

impl RecordingFile {
    /// A new recording. One that is called `.har` is made of its lines when it is closed. Nothing that is there is
    /// written over.
    pub(crate) fn new(path: &Path) -> Result<Self, Failure> {
        let ending = path.extension().unwrap_or_default().to_string_lossy().to_ascii_lowercase();
        if matches!(ending.as_str(), "gz" | "zst" | "br" | "warc" | "http") {
            return Err(Failure::Call(format!(
                "{}: a recording is written as JSON Lines or HAR; `fclerk convert` converts it to other formats",
                path.display()
            )));
        }
        let (lines, har) = match ending == "har" {
            true => (path.with_extension("har.jsonl"), Some(path.to_owned())),
            false => (path.to_owned(), None),
        };
        if let Some(har) = har.as_deref().filter(|har| har.symlink_metadata().is_ok()) {
            return Err(cannot(har, &io::ErrorKind::AlreadyExists.into()));
        }
        let file = new_file(&lines).map_err(|error| cannot(&lines, &error))?;
        Ok(Self { file, lines, har, end: 0, entries: 0, lost: 0 })
    }

    /// A recording that is there, to be continued behind its last whole line; `look` is given each line of it.
    pub(crate) fn resume(path: &Path, mut look: impl FnMut(&str)) -> Result<Self, Failure> {
        if path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("har")) {
            let path = path.display();
            let why = format!("{path}: a probe is continued in JSON Lines; HAR is one whole");
            return Err(Failure::Call(why));
        }
        let fail = |error: io::Error| Failure::Call(format!("{}: {error}", path.display()));
        let mut reader = BufReader::new(File::open(path).map_err(fail)?);
        let (mut end, mut entries, mut line) = (0, 0, String::new());
        loop {
            line.clear();
            let length = reader.read_line(&mut line).map_err(fail)?;
            // A line without its end was being written when it was stopped.
            if !line.ends_with('\n') {
                break;
            }
            end += length as u64;
            entries += 1;
            look(&line);
        }
        let mut file = OpenOptions::new().write(true).open(path).map_err(fail)?;
        file.set_len(end).and_then(|()| file.seek(SeekFrom::End(0))).map_err(fail)?;
        Ok(Self { file, lines: path.to_owned(), har: None, end, entries, lost: 0 })
    }

    /// Writes an entry, whole or not at all.
    pub(crate) fn enter(&mut self, entry: &str) {
        let line = format!("{entry}\n");
        match self.file.write_all(line.as_bytes()) {
            Ok(()) => {
                self.end += line.len() as u64;
                self.entries += 1;
            }
            Err(error) => {
                // Half a line would be in the way of what comes later. A device can't be cut, and need not be.
                let _ = self.file.set_len(self.end);
                let _ = self.file.seek(SeekFrom::Start(self.end));
                self.lost += 1;
                if self.lost == 1 {
                    print_error(&format!(
                        "can't write {}: {error}; requests are still forwarded",
                        self.lines.display()
                    ));
                }
            }
        }
    }

    /// Where its lines are while it is made.
    pub(crate) fn lines(&self) -> &Path {
        &self.lines
    }

    /// Takes it back, as nothing is recorded after all.
    pub(crate) fn discard(self) {
        let _ = std::fs::remove_file(&self.lines);
    }

    /// The file that holds the recording from now on.
    pub(crate) fn close(self) -> Result<PathBuf, Failure> {
        let Some(har) = self.har else { return Ok(self.lines) };
        let fail = |error: io::Error| cannot(&har, &error);
        let mut writer =
            RecordingWriter::new(Format::Har, OutputTarget::open(Some(&har), Readers::Owner)?);
        let source = Source::of(File::open(&self.lines).map_err(fail)?);
        // However large an entry is, it was made here.
        let opening = ReadOptions {
            format: Some(Format::JsonLines),
            max_exchange: usize::MAX,
            ..ReadOptions::default()
        };
        writer.copy(source, 0, &opening).map_err(fail)?;
        let (target, _) = writer.finish().map_err(fail)?;
        target.close()?;
        std::fs::remove_file(&self.lines).map_err(|error| cannot(&self.lines, &error))?;
        Ok(har)
    }
}

/// What passes may hold secrets: it is for its owner alone.
fn new_file(path: &Path) -> io::Result<File> {
    let mut options = OpenOptions::new();
    options.write(true).create_new(true);
    #[cfg(unix)]
    std::os::unix::fs::OpenOptionsExt::mode(&mut options, 0o600);
    options.open(path)
}
