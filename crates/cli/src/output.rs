//! Standard output is for results, standard error for messages.

use std::io::{BufWriter, ErrorKind, IntoInnerError, Stdout, Write};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};

use flate2::Compression;
use flate2::write::GzEncoder;
use tempfile::NamedTempFile;

use faithful_clerk_report::escape::terminal;

use crate::exit::Failure;
use crate::flags::OutputSettings;
use crate::temporary::temporary;

/// Writes a result. A reader that has gone away, as in `| head`, is no failure: the work is done, and
/// the exit code tells of it.
pub(crate) fn print_result(text: &str) -> Result<(), Failure> {
    print_bytes(text.as_bytes())
}

/// Writes a result, unless nobody wants to see it.
pub(crate) fn print_unless_quiet(text: &str, settings: &OutputSettings) -> Result<(), Failure> {
    if settings.quiet { Ok(()) } else { print_result(text) }
}

/// Writes a result that may be no text.
pub(crate) fn print_bytes(bytes: &[u8]) -> Result<(), Failure> {
    let mut stdout = std::io::stdout().lock();
    match stdout.write_all(bytes).and_then(|()| stdout.flush()) {
        Err(error) if error.kind() == ErrorKind::BrokenPipe => Ok(()),
        written => written.map_err(Failure::Output),
    }
}

/// Writes a message, in one line. There is nobody to tell if that fails.
pub(crate) fn print_error(message: &str) {
    show(&format!("fclerk: {}\n", terminal(message)));
}

/// Is each step of the work told, as `--verbose` asks for?
static STEPS: AtomicBool = AtomicBool::new(false);

/// From now on, each step is told.
pub(crate) fn announce_steps() {
    STEPS.store(true, Ordering::Relaxed);
}

/// Tells a step of the work, if that is asked for.
pub(crate) fn step(what: std::fmt::Arguments<'_>) {
    if STEPS.load(Ordering::Relaxed) {
        print_error(&what.to_string());
    }
}

/// Writes text that was made for a terminal to standard error.
pub(crate) fn show(text: &str) {
    let _ = std::io::stderr().lock().write_all(text.as_bytes());
}

/// Writes a new file, whole or not at all. One that is there is left as it is, and that is a failure.
pub(crate) fn write_new(path: &Path, text: &str) -> Result<(), Failure> {
    let mut target = OutputTarget::open(Some(path), Readers::ByUmask)?;
    target.write_all(text.as_bytes()).map_err(|error| cannot(path, &error))?;
    target.close()
}

/// Writes a file, whole or not at all; one that is there is replaced.
pub(crate) fn write_over(path: &Path, text: &str) -> Result<(), Failure> {
    let mut file = beside(path, Readers::ByUmask).map_err(|error| cannot(path, &error))?;
    file.write_all(text.as_bytes())
        .and_then(|()| readable(path, &file))
        .and_then(|()| file.persist(path).map(drop).map_err(|error| error.error))
        .map_err(|error| cannot(path, &error))
}

/// The folder that a file is in.
pub(crate) fn folder(path: &Path) -> &Path {
    match path.parent() {
        Some(folder) if !folder.as_os_str().is_empty() => folder,
        _ => Path::new("."),
    }
}

/// Who may read a new file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Readers {
    /// Those whom the user's umask lets.
    ByUmask,
    /// Its owner alone: it may hold secrets.
    Owner,
}

/// A temporary file that can take the place of `path`.
pub(crate) fn beside(path: &Path, readers: Readers) -> std::io::Result<NamedTempFile> {
    let mut builder = tempfile::Builder::new();
    #[cfg(unix)]
    if readers == Readers::ByUmask {
        use std::os::unix::fs::PermissionsExt as _;
        // The system takes away what the umask says.
        builder.permissions(std::fs::Permissions::from_mode(0o666));
    }
    #[cfg(not(unix))]
    let _ = readers;
    temporary(&builder, Some(folder(path)))
}

/// A file that replaces another is for whoever could read that.
#[cfg(unix)]
pub(crate) fn readable(path: &Path, file: &NamedTempFile) -> std::io::Result<()> {
    use std::os::unix::fs::PermissionsExt as _;
    let Ok(old) = std::fs::metadata(path) else { return Ok(()) };
    let mode = old.permissions().mode() & 0o777;
    file.as_file().set_permissions(std::fs::Permissions::from_mode(mode))
}

#[cfg(not(unix))]
pub(crate) fn readable(_: &Path, _: &NamedTempFile) -> std::io::Result<()> {
    Ok(())
}

/// Where a recording is written to: standard output, or a new file that is there when all of it is.
///
/// A file whose name ends in `.gz` or `.zst` is compressed.
pub(crate) struct OutputTarget {
    sink: TargetSink,
    path: Option<PathBuf>,
}

enum TargetSink {
    Standard(BufWriter<Stdout>),
    Plain(BufWriter<NamedTempFile>),
    Gzip(GzEncoder<BufWriter<NamedTempFile>>),
    Zstd(zstd::Encoder<'static, BufWriter<NamedTempFile>>),
}

impl OutputTarget {
    /// Opens it. A file that is there already is left as it is, and that is a failure.
    pub(crate) fn open(path: Option<&Path>, readers: Readers) -> Result<Self, Failure> {
        let Some(path) = path else {
            return Ok(Self {
                sink: TargetSink::Standard(BufWriter::new(std::io::stdout())),
                path: None,
            });
        };
        if path.symlink_metadata().is_ok() {
            return Err(cannot(path, &ErrorKind::AlreadyExists.into()));
        }
        let file = beside(path, readers).map_err(|error| cannot(path, &error))?;
        let file = BufWriter::with_capacity(256 << 10, file);
        let ending = path.extension().unwrap_or_default().to_ascii_lowercase();
        let sink = match ending.to_str() {
            Some("gz") => TargetSink::Gzip(GzEncoder::new(file, Compression::default())),
            Some("zst") => {
                TargetSink::Zstd(zstd::Encoder::new(file, 3).map_err(|error| cannot(path, &error))?)
            }
            _ => TargetSink::Plain(file),
        };
        Ok(Self { sink, path: Some(path.to_owned()) })
    }

    /// Makes what was written last.
    pub(crate) fn close(self) -> Result<(), Failure> {
        let file = match self.sink {
            TargetSink::Standard(mut stdout) => {
                return match stdout.flush() {
                    Err(error) if error.kind() == ErrorKind::BrokenPipe => Ok(()),
                    flushed => flushed.map_err(Failure::Output),
                };
            }
            TargetSink::Plain(file) => Ok(file),
            TargetSink::Gzip(file) => file.finish(),
            TargetSink::Zstd(file) => file.finish(),
        };
        let path = self.path.unwrap_or_default();
        let file = file.and_then(|file| file.into_inner().map_err(IntoInnerError::into_error));
        let file = file.map_err(|error| cannot(&path, &error))?;
        file.persist_noclobber(&path).map_err(|error| cannot(&path, &error.error))?;
        Ok(())
    }
}

impl Write for OutputTarget {
    fn write(&mut self, bytes: &[u8]) -> std::io::Result<usize> {
        match &mut self.sink {
            TargetSink::Standard(sink) => sink.write(bytes),
            TargetSink::Plain(sink) => sink.write(bytes),
            TargetSink::Gzip(sink) => sink.write(bytes),
            TargetSink::Zstd(sink) => sink.write(bytes),
        }
    }

    fn flush(&mut self) -> std::io::Result<()> {
        match &mut self.sink {
            TargetSink::Standard(sink) => sink.flush(),
            TargetSink::Plain(sink) => sink.flush(),
            TargetSink::Gzip(sink) => sink.flush(),
            TargetSink::Zstd(sink) => sink.flush(),
        }
    }
}

pub(crate) fn cannot(path: &Path, error: &std::io::Error) -> Failure {
    let reason = match error.kind() {
        ErrorKind::AlreadyExists => "already exists; not overwritten".to_owned(),
        _ => error.to_string(),
    };
    Failure::Call(format!("can't write {}: {reason}", path.display()))
}
