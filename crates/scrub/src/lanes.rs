//! Work on several threads whose results come in the order of the work.

use std::num::NonZero;
use std::sync::mpsc::{Receiver, SyncSender, sync_channel};

/// More lanes than this only wait for their turn.
const MOST_LANES: usize = 64;

/// A thread that works, with the way to it and the way back.
type Lane<W, R> = (SyncSender<W>, Receiver<R>);

/// Hands work out to the lanes in turn, and the results back in the order of the work. No more than two pieces are with a lane.
/// `worker` makes what a lane works with; `produce` hands out the work; `is_heavy` tells pieces that are not to be kept
/// waiting beside others, since they are large.
pub(super) fn in_lanes<W: Send, R: Send, F: FnMut(W) -> R + Send>(
    lanes: NonZero<usize>,
    worker: impl Fn() -> F,
    is_heavy: impl Fn(&W) -> bool,
    produce: impl FnOnce(&mut dyn FnMut(W)),
    mut consume: impl FnMut(R),
) {
    std::thread::scope(|scope| {
        let lane = |_| {
            let (to_lane, work) = sync_channel::<W>(1);
            let (done, from_lane) = sync_channel::<R>(1);
            let mut worker = worker();
            let run = move || {
                for piece in work {
                    if done.send(worker(piece)).is_err() {
                        return;
                    }
                }
            };
            let thread = std::thread::Builder::new().spawn_scoped(scope, run).ok()?;
            Some(((to_lane, from_lane), thread))
        };
        let made: Vec<_> = (0..lanes.get().min(MOST_LANES)).filter_map(lane).collect();
        let (lanes, threads): (Vec<Lane<W, R>>, Vec<_>) = made.into_iter().unzip();
        if lanes.is_empty() {
            // The system has no more threads: the one that there is does the work.
            let mut worker = worker();
            return produce(&mut |piece| consume(worker(piece)));
        }
        let (mut given, mut taken) = (0, 0);
        // The oldest piece that is with a lane; a lane that panicked gives nothing, and its panic goes on below.
        let mut take = |taken: &mut usize| {
            if let Some((_, from_lane)) = lanes.get(*taken % lanes.len())
                && let Ok(result) = from_lane.recv()
            {
                consume(result);
            }
            *taken += 1;
        };
        produce(&mut |piece| {
            let most = if is_heavy(&piece) { 0 } else { 2 * lanes.len() - 1 };
            while given - taken > most {
                take(&mut taken);
            }
            if let Some((to_lane, _)) = lanes.get(given % lanes.len()) {
                _ = to_lane.send(piece);
            }
            given += 1;
        });
        while taken < given {
            take(&mut taken);
        }
        drop(lanes);
        for thread in threads {
            if let Err(panic) = thread.join() {
                std::panic::resume_unwind(panic);
            }
        }
    });
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn results_come_in_the_order_of_the_work_whatever_it_takes() {
        for lanes in [1, 2, 3, 7] {
            let mut results = Vec::new();
            let worker = || {
                |piece: u64| {
                    std::thread::sleep(std::time::Duration::from_micros(piece * 7919 % 500));
                    piece
                }
            };
            let produce = |give: &mut dyn FnMut(u64)| (0..100).for_each(give);
            let is_heavy = |piece: &u64| piece.is_multiple_of(9);
            let lanes = NonZero::new(lanes).unwrap();
            in_lanes(lanes, worker, is_heavy, produce, |result| results.push(result));
            assert_eq!(results, (0..100).collect::<Vec<_>>());
        }
    }
}
