//! Report files: each is written whole or not at all, and what is wrong with one is known before any work is
//! done.

use std::fs::{File, OpenOptions};
use std::io::{ErrorKind, Write};
use std::path::{Path, PathBuf};

use tempfile::NamedTempFile;

use crate::exit::Failure;
use crate::flags::{OutputSettings, ReportFile, ReportFormat};
use crate::output::{Readers, beside, folder, print_unless_quiet, readable};

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
    fn write(&mut self, to: &mut impl Write) -> std::io::Result<()> {
        match self {
            Self::Text(text) => to.write_all(text.as_bytes()),
            Self::File(file) => std::io::copy(file, to).map(drop),
        }
    }
}

/// A file that can be written.
#[derive(Debug)]
struct PreparedFile {
    /// As the call names it.
    path: PathBuf,
    /// What that leads to.
    place: PathBuf,
    sink: ReportSink,
}

#[derive(Debug)]
enum ReportSink {
    /// A file beside it that takes its place in the end.
    Beside(NamedTempFile),
    /// A device or a pipe, which nothing can take the place of.
    Direct(File),
    /// Standard output, where nothing else is printed then.
    Standard,
}

impl ReportFiles {
    /// Makes ready for writing. `reads` are the files that the call reads; none of them is written over.
    pub(crate) fn open(asked: &[ReportFile], reads: &[&Path]) -> Result<Self, Failure> {
        let mut files: Vec<(ReportFormat, PreparedFile)> = Vec::new();
        let mut locations: Vec<PathBuf> = Vec::new();
        let read: Vec<PathBuf> = reads.iter().filter_map(|path| path.canonicalize().ok()).collect();
        for ReportFile { kind, path } in asked {
            let place = place(path).map_err(|error| cannot(path, &error))?;
            if place.as_os_str() == STANDARD && locations.contains(&place) {
                return Err(Failure::Call(
                    "two reports would be written to standard output".to_owned(),
                ));
            }
            if locations.contains(&place) {
                let message = format!("two reports would be written to {}", path.display());
                return Err(Failure::Call(message));
            }
            if read.contains(&place) {
                let message =
                    format!("{} is an input of this call; not overwritten", path.display());
                return Err(Failure::Call(message));
            }
            files.push((*kind, PreparedFile::of(path, &place)?));
            locations.push(place);
        }
        Ok(Self { files })
    }

    /// Prints the result, unless nobody wants to see it, or a report is printed in its place. `is_needed`: nothing can take its
    /// place.
    pub(crate) fn print(
        &self,
        result: &str,
        is_needed: bool,
        settings: &OutputSettings,
    ) -> Result<(), Failure> {
        let is_taken = self.files.iter().any(|(_, file)| matches!(file.sink, ReportSink::Standard));
        match (is_taken, is_needed) {
            (true, true) => Err(Failure::Call(
                "the ledger is printed, and a report can't be printed beside it: name a file for the report".to_owned(),
            )),
            (true, false) => Ok(()),
            (false, _) => print_unless_quiet(result, settings),
        }
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

/// What names standard output.
const STANDARD: &str = "-";

/// Other names of it. To open one of them anew would write from the start of a file that it leads to.
const STANDARD_TOO: [&str; 3] = ["/dev/stdout", "/dev/fd/1", "/proc/self/fd/1"];

/// So many links lead from one to the next.
const MOST_LINKS: usize = 40;

/// The file that a path leads to, whether it is there or not; two names of one file are one. A link is followed, so that what
/// it leads to is written and the link stays.
fn place(path: &Path) -> std::io::Result<PathBuf> {
    if path.as_os_str() == STANDARD || STANDARD_TOO.iter().any(|name| path == Path::new(name)) {
        return Ok(PathBuf::from(STANDARD));
    }
    let mut path = path.to_owned();
    for _ in 0..MOST_LINKS {
        if let Ok(place) = path.canonicalize() {
            return Ok(place);
        }
        let folder = folder(&path).canonicalize()?;
        path = folder.join(path.file_name().unwrap_or_default());
        // A link to a file that is not there yet.
        let Ok(target) = std::fs::read_link(&path) else { return Ok(path) };
        path = folder.join(target);
    }
    Err(std::io::Error::other("its links lead round in a circle"))
}

impl PreparedFile {
    /// Makes ready what is written to the file at `place`, which the call names `path`.
    fn of(path: &Path, place: &Path) -> Result<Self, Failure> {
        let metadata = std::fs::metadata(place);
        let sink = match &metadata {
            _ if place.as_os_str() == STANDARD => ReportSink::Standard,
            Ok(metadata) if metadata.is_dir() => {
                let message = format!("{} is a folder; a report needs a file", path.display());
                return Err(Failure::Call(message));
            }
            Ok(metadata) if !metadata.is_file() => ReportSink::Direct(
                OpenOptions::new().write(true).open(place).map_err(|e| cannot(path, &e))?,
            ),
            _ => ReportSink::Beside(beside(place, Readers::ByUmask).map_err(|e| cannot(path, &e))?),
        };
        Ok(Self { path: path.to_owned(), place: place.to_owned(), sink })
    }

    fn write(self, mut content: ReportContent) -> Result<(), Failure> {
        let Self { path, place, sink } = self;
        let written = match sink {
            ReportSink::Standard => {
                let mut stdout = std::io::stdout().lock();
                match content.write(&mut stdout).and_then(|()| stdout.flush()) {
                    Err(error) if error.kind() == ErrorKind::BrokenPipe => Ok(()),
                    written => written,
                }
            }
            ReportSink::Direct(mut file) => content.write(&mut file).and_then(|()| file.flush()),
            ReportSink::Beside(mut file) => {
                let readable = readable(&place, &file);
                content
                    .write(file.as_file_mut())
                    .and(readable)
                    .and_then(|()| file.as_file().sync_data())
                    .and_then(|()| file.persist(&place).map(drop).map_err(|error| error.error))
            }
        };
        written.map_err(|error| cannot(&path, &error))
    }
}

fn cannot(path: &Path, error: &std::io::Error) -> Failure {
    Failure::Call(format!("can't write the report {}: {error}", path.display()))
}
