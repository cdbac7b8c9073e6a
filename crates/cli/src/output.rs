//! Standard output is for results, standard error for messages.

use std::io::{ErrorKind, Write as _};
use std::path::Path;

use faithful_clerk_report::escape::terminal;

use crate::exit::Failure;

/// Writes a result. A reader that has gone away, as in `| head`, is no failure: the work is done, and
/// the exit code tells of it.
pub(crate) fn say(text: &str) -> Result<(), Failure> {
    say_bytes(text.as_bytes())
}

/// Writes a result that may be no text.
pub(crate) fn say_bytes(bytes: &[u8]) -> Result<(), Failure> {
    let mut stdout = std::io::stdout().lock();
    match stdout.write_all(bytes).and_then(|()| stdout.flush()) {
        Err(error) if error.kind() == ErrorKind::BrokenPipe => Ok(()),
        written => written.map_err(Failure::Output),
    }
}

/// Writes a message, in one line. There is nobody to tell if that fails.
pub(crate) fn complain(message: &str) {
    show(&format!("fclerk: {}\n", terminal(message)));
}

/// Writes text that was made for a terminal to standard error.
pub(crate) fn show(text: &str) {
    let _ = std::io::stderr().lock().write_all(text.as_bytes());
}

/// Writes a new file, whole or not at all. One that is there is left as it is, and that is a failure.
pub(crate) fn write_new(path: &Path, text: &str) -> Result<(), Failure> {
    let fail = |error: &std::io::Error| {
        let reason = match error.kind() {
            ErrorKind::AlreadyExists => "it is there already, and is left as it is".to_owned(),
            _ => error.to_string(),
        };
        Failure::Call(format!("{} can't be written: {reason}", path.display()))
    };
    let folder = match path.parent() {
        Some(folder) if !folder.as_os_str().is_empty() => folder,
        _ => Path::new("."),
    };
    let written = tempfile::NamedTempFile::new_in(folder).and_then(|mut file| {
        file.write_all(text.as_bytes())?;
        Ok(file)
    });
    let file = written.map_err(|error| fail(&error))?;
    file.persist_noclobber(path).map_err(|error| fail(&error.error))?;
    Ok(())
}
