//! One pass over a recording: cut, read, hand over, on as many threads as there are.
//!
//! Workers take turns: each locks the recording, cuts a batch of whole entries off it, lets it go, and
//! looks at its batch while the bytes are still warm. Nothing is handed over between threads, so memory
//! is bounded by the batches in work, and what workers gather adds up in any order.

use std::num::NonZero;
use std::sync::{Mutex, PoisonError};

use crate::{Batch, ReadOptions, Source, Unreadable, open};
use faithful_clerk_model::exchange::Exchange;
use faithful_clerk_model::secret::mask::masked;

/// More workers than this only wait for their turn.
const MOST_THREADS: usize = 64;

/// What a worker gathers on a pass.
pub trait Visitor: Send {
    /// Looks at an exchange.
    fn exchange(&mut self, exchange: &Exchange<'_>);

    /// Has enough been seen? Then the rest of the recording is left.
    fn is_done(&self) -> bool {
        false
    }

    /// Enters something that could not be read.
    fn on_unreadable(&mut self, unreadable: Unreadable);
}

/// How passes are made.
#[derive(Debug, Clone)]
pub struct Traversal {
    /// How many threads work.
    pub threads: NonZero<usize>,
    /// How recordings are opened.
    pub options: ReadOptions,
}

impl Default for Traversal {
    /// One thread, any format, and entries of 64 MiB at most.
    fn default() -> Self {
        Self { threads: NonZero::<usize>::MIN, options: ReadOptions::default() }
    }
}

impl Traversal {
    /// A pass with so many threads.
    #[must_use]
    pub fn with(threads: NonZero<usize>) -> Self {
        Self { threads, ..Self::default() }
    }

    /// Passes over one recording, and gives what each worker gathered. `recording` is its place in the
    /// run, for addresses. `make` makes what a worker begins with.
    pub fn visit_parallel<G: Visitor>(
        &self,
        source: Source<'_>,
        recording: u32,
        make: impl Fn() -> G + Sync,
    ) -> Vec<G> {
        let splitter = Mutex::new(open(source, recording, &self.options));
        let worker = || {
            let mut collected = make();
            let mut batch = Batch::default();
            // A worker that panicked left the splitter between two batches, so it is still sound.
            while !collected.is_done()
                && splitter.lock().unwrap_or_else(PoisonError::into_inner).next(&mut batch)
            {
                read(&mut batch, (recording, self.options.first), &mut collected);
            }
            collected
        };
        std::thread::scope(|scope| {
            // If the system has no more threads, those that there are do the work.
            let spawn = |_| std::thread::Builder::new().spawn_scoped(scope, worker).ok();
            let others: Vec<_> =
                (1..self.threads.get().min(MOST_THREADS)).filter_map(spawn).collect();
            let mine = worker();
            let others = others.into_iter().map(|other| match other.join() {
                Ok(collected) => collected,
                Err(panic) => std::panic::resume_unwind(panic),
            });
            std::iter::once(mine).chain(others).collect()
        })
    }

    /// Passes over one recording on this thread, so that the exchanges come in its order.
    pub fn visit_in_order(&self, source: Source<'_>, recording: u32, collected: &mut impl Visitor) {
        let mut cutter = open(source, recording, &self.options);
        let mut batch = Batch::default();
        while !collected.is_done() && cutter.next(&mut batch) {
            read(&mut batch, (recording, self.options.first), collected);
        }
    }
}

fn read<G: Visitor>(batch: &mut Batch, (recording, first): (u32, u64), collected: &mut G) {
    let numbered = |number: u64| number.saturating_add(first.saturating_sub(1));
    for mut unreadable in batch.unreadable.drain(..) {
        unreadable.number = unreadable.number.map(numbered);
        collected.on_unreadable(unreadable);
    }
    for entry in batch.entries() {
        if collected.is_done() {
            return;
        }
        match batch.exchange(entry, recording) {
            Ok(mut exchange) => {
                exchange.address.number = numbered(exchange.address.number);
                collected.exchange(&exchange);
            }
            Err(reason) => {
                let reason = masked(&reason).into_owned();
                let (offset, number) = (entry.offset, Some(numbered(entry.number)));
                collected.on_unreadable(Unreadable { recording, offset, number, reason });
            }
        }
    }
}
