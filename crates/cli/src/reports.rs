//! Report files: each is written whole or not at all, and what is wrong with one is known before any work is
//! done.

use std::fs::{File, OpenOptions};
use std::io::Write as _;
use std::path::{Path, PathBuf};

use tempfile::NamedTempFile;

use crate::exit::Failure;
use crate::flags::{ReportFile, ReportFormat};
use crate::output::{Readers, beside, folder, readable};

/// The report files of a call.
#[derive(Debug)]
pub(crate) struct ReportFiles {
    files: Vec<(ReportFormat, PreparedFile)>,
}

/// What a report says.
#[derive(Debug)]
pub(crate) enum ReportContent {
    /// A text.
    Text(String),
    /// A file that is too large to be kept in memory, at its start.
    File(File),
}

impl From<String> for ReportContent {
    fn from(text: String) -> Self {
        Self::Text(text)
    }
}

impl ReportContent {
    fn write(&mut self, to: &mut File) -> std::io::Result<()> {
        match self {
            Self::Text(text) => to.write_all(text.as_bytes()),
            Self::File(file) => std::io::copy(file, to).map(drop),
        }
    }
}

/// A file that can be written.
#[derive(Debug)]
struct PreparedFile {
    path: PathBuf,
    sink: ReportSink,
}

#[derive(Debug)]
enum ReportSink {
    /// A file beside it that takes its place in the end.
    Beside(NamedTempFile),
    /// A device or a pipe, which nothing can take the place of.
    Direct(File),
}

impl ReportFiles {
    /// Makes ready for writing. `reads` are the files that the call reads; none of them is written over.
    pub(crate) fn open(asked: &[ReportFile], reads: &[&Path]) -> Result<Self, Failure> {
        let mut files: Vec<(ReportFormat, PreparedFile)> = Vec::new();
        let mut locations: Vec<PathBuf> = Vec::new();
        let read: Vec<PathBuf> = reads.iter().filter_map(|path| path.canonicalize().ok()).collect();
        for ReportFile { kind, path } in asked {
            let place = place(path).map_err(|error| cannot(path, &error))?;
            if locations.contains(&place) {
                let message = format!("two reports would be written to {}", path.display());
                return Err(Failure::Call(message));
            }
            if read.contains(&place) {
                let message =
                    format!("{} is an input of this call; not overwritten", path.display());
                return Err(Failure::Call(message));
            }
            locations.push(place);
            files.push((*kind, PreparedFile::of(path)?));
        }
        Ok(Self { files })
    }

    /// Is a report of that kind asked for?
    pub(crate) fn has(&self, kind: ReportFormat) -> bool {
        self.files.iter().any(|(asked, _)| *asked == kind)
    }

    /// Writes every report; `text` makes it. One that can't be written does not keep the others from it.
    pub(crate) fn write<C: Into<ReportContent>>(
        self,
        mut text: impl FnMut(ReportFormat) -> Result<C, Failure>,
    ) -> Result<(), Failure> {
        let mut failure = None;
        for (kind, file) in self.files {
            let path = file.path.display().to_string();
            let written = text(kind).and_then(|content| file.write(content.into()));
            match written {
                Ok(()) => {
                    crate::output::step(format_args!("{} report written: {path}", kind.name()));
                }
                Err(error) => {
                    if let Some(Failure::Call(message)) = failure.replace(error) {
                        crate::output::print_error(&message);
                    }
                }
            }
        }
        failure.map_or(Ok(()), Err)
    }
}

/// What a path comes to, so that two names of one file are seen to be one.
fn place(path: &Path) -> std::io::Result<PathBuf> {
    if let Ok(place) = path.canonicalize() {
        return Ok(place);
    }
    let folder = folder(path).canonicalize()?;
    Ok(folder.join(path.file_name().unwrap_or_default()))
}

impl PreparedFile {
    fn of(path: &Path) -> Result<Self, Failure> {
        let metadata = std::fs::metadata(path);
        let sink = match &metadata {
            Ok(metadata) if metadata.is_dir() => {
                let message = format!("{} is a folder; a report needs a file", path.display());
                return Err(Failure::Call(message));
            }
            Ok(metadata) if !metadata.is_file() => ReportSink::Direct(
                OpenOptions::new().write(true).open(path).map_err(|e| cannot(path, &e))?,
            ),
            _ => ReportSink::Beside(beside(path, Readers::ByUmask).map_err(|e| cannot(path, &e))?),
        };
        Ok(Self { path: path.to_owned(), sink })
    }

    fn write(self, mut content: ReportContent) -> Result<(), Failure> {
        let Self { path, sink } = self;
        let written = match sink {
            ReportSink::Direct(mut file) => content.write(&mut file).and_then(|()| file.flush()),
            ReportSink::Beside(mut file) => {
                let readable = readable(&path, &file);
                content
                    .write(file.as_file_mut())
                    .and(readable)
                    .and_then(|()| file.as_file().sync_data())
                    .and_then(|()| file.persist(&path).map(drop).map_err(|error| error.error))
            }
        };
        written.map_err(|error| cannot(&path, &error))
    }
}

fn cannot(path: &Path, error: &std::io::Error) -> Failure {
    Failure::Call(format!("can't write the report {}: {error}", path.display()))
}
