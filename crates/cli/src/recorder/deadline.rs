//! A recorder that is asked to end does so within a second, whatever it is about.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

use crate::output::print_error;
use crate::temporary::remove_all;

/// So long what is under way may take once the recorder is asked to end.
const LONGEST: Duration = Duration::from_millis(900);

/// The code of a recorder that did not write everything.
const NOT_ALL: i32 = 3;

/// Is everything written? It is asked a while after the recorder is asked to end.
#[derive(Debug, Clone, Default)]
pub(crate) struct Deadline(Arc<AtomicBool>);

impl Deadline {
    /// Everything is written.
    pub(crate) fn is_met(&self) {
        self.0.store(true, Ordering::Release);
    }

    /// Ends the program after a while, if not everything is written then. Lines are written one by one, so those that are
    /// there are whole.
    pub(crate) fn begin(&self, lines: String) {
        let is_met = Arc::clone(&self.0);
        let _ = std::thread::Builder::new().spawn(move || {
            std::thread::sleep(LONGEST);
            if !is_met.load(Ordering::Acquire) {
                print_error(&format!(
                    "stopped before everything was written: {lines} has what was written until now, as JSON Lines"
                ));
                remove_all();
                end();
            }
        });
    }
}

#[allow(clippy::exit, reason = "there is nothing left to wait for")]
fn end() -> ! {
    std::process::exit(NOT_ALL)
}
