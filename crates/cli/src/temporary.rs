//! Temporary files, which no signal that ends the program leaves behind.

use std::io;
use std::path::PathBuf;
use std::sync::{Mutex, Once, PoisonError};

use tempfile::{Builder, NamedTempFile};

/// The paths of those that were made. One that took the place of a file is no longer there, and so is not removed.
static MADE: Mutex<Vec<PathBuf>> = Mutex::new(Vec::new());

static WATCH: Once = Once::new();

/// Makes a temporary file in a folder; without one, in the system's.
pub(crate) fn temporary(
    builder: &Builder<'_, '_>,
    folder: Option<&std::path::Path>,
) -> io::Result<NamedTempFile> {
    WATCH.call_once(watch);
    let file = match folder {
        Some(folder) => builder.tempfile_in(folder),
        None => builder.tempfile(),
    }?;
    MADE.lock().unwrap_or_else(PoisonError::into_inner).push(file.path().to_owned());
    Ok(file)
}

/// Removes those that are there.
pub(crate) fn remove_all() {
    for path in MADE.lock().unwrap_or_else(PoisonError::into_inner).drain(..) {
        let _ = std::fs::remove_file(path);
    }
}

/// Whoever ends by signals in an order of its own says so before the first file is made.
pub(crate) fn signals_are_handled() {
    WATCH.call_once(|| {});
}

/// Waits for a signal that ends the program, removes the files, and ends it by that signal.
#[cfg(unix)]
fn watch() {
    use signal_hook::consts::{SIGHUP, SIGINT, SIGTERM};
    let Ok(mut signals) = signal_hook::iterator::Signals::new([SIGHUP, SIGINT, SIGTERM]) else {
        return;
    };
    // Without a thread for it the files stay, as after a power cut.
    let _ = std::thread::Builder::new().spawn(move || {
        if let Some(signal) = signals.forever().next() {
            remove_all();
            let _ = signal_hook::low_level::emulate_default_handler(signal);
        }
    });
}

#[cfg(not(unix))]
fn watch() {}
