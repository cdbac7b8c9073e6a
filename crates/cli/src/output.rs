//! Standard output is for results, standard error for messages.

use std::io::{ErrorKind, Write as _};

use faithful_clerk_report::escape::terminal;

use crate::exit::Failure;

/// Writes a result. A reader that has gone away, as in `| head`, is no failure: the work is done, and
/// the exit code tells of it.
pub(crate) fn say(text: &str) -> Result<(), Failure> {
    let mut stdout = std::io::stdout().lock();
    match stdout.write_all(text.as_bytes()).and_then(|()| stdout.flush()) {
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
