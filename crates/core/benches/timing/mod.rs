//! The processor time that something takes.

use std::hint::black_box;
use std::time::{Duration, Instant};

use rustix::time::{ClockId, clock_gettime};

/// What one run of a job took.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Cost {
    /// Processor time of all threads, in seconds.
    pub(crate) processor: f64,
    /// Time by the clock, in seconds.
    pub(crate) elapsed: f64,
}

/// The processor time of all threads of this process.
fn processor_time() -> Duration {
    let time = clock_gettime(ClockId::ProcessCPUTime);
    Duration::new(time.tv_sec.unsigned_abs(), u32::try_from(time.tv_nsec).unwrap_or_default())
}

/// Runs a job, and measures it.
pub(crate) fn cost(job: &dyn Fn() -> u64) -> Cost {
    let (processor, start) = (processor_time(), Instant::now());
    black_box(job());
    Cost {
        processor: (processor_time() - processor).as_secs_f64(),
        elapsed: start.elapsed().as_secs_f64(),
    }
}
