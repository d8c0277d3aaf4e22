//! Work on numbered pieces by several threads, with the results taken in the order of the numbers: what
//! comes out does not depend on how many threads there are.

use std::collections::BTreeMap;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Condvar, Mutex, MutexGuard, PoisonError};
use std::thread::{Scope, ScopedJoinHandle};

/// So many results a thread may wait for an earlier one before work pauses.
const AHEAD: u64 = 4;

/// So much memory there must be for each thread before any is started: its stack, what it needs to begin and what its
/// work takes. More than what the allocator of glibc keeps by for later once it was given back (32 MB).
const ROOM: usize = 33 << 20;

struct Merger<T, F, E> {
    next: u64,
    waiting: BTreeMap<u64, T>,
    merge: F,
    error: Option<E>,
}

/// Runs `work` on each piece that `next` fetches into a thread's state (giving its number, from 0 and without
/// gaps; nothing at the end), and hands the results to `merge` in order. At most a bounded number of pieces
/// is in flight. Gives the states back.
///
/// # Errors
/// The first error of `next` or `merge`; then no further piece is fetched.
pub fn in_order<S: Send, T: Send, E: Send>(
    threads: usize,
    states: impl FnMut() -> S,
    next: impl Fn(&mut S) -> Result<Option<u64>, E> + Sync,
    work: impl Fn(&mut S) -> T + Sync,
    mut merge: impl FnMut(T) -> Result<(), E> + Send,
) -> Result<Vec<S>, E> {
    let threads = threads.max(1);
    let mut states: Vec<S> = std::iter::repeat_with(states).take(threads).collect();
    if let [state] = states.as_mut_slice() {
        while next(state)?.is_some() {
            merge(work(state))?;
        }
        return Ok(states);
    }
    let ahead = AHEAD * threads as u64;
    let merger = Mutex::new(Merger { next: 0, waiting: BTreeMap::new(), merge, error: None });
    let (moved, stopped) = (Condvar::new(), AtomicBool::new(false));
    let waiting: Mutex<Vec<&mut S>> = Mutex::new(states.iter_mut().collect());
    let run = || {
        let Some(state) = lock(&waiting).pop() else { return };
        let _guard = StopOnPanic { stopped: &stopped, moved: &moved };
        while !stopped.load(Ordering::Relaxed) {
            let number = match next(state) {
                Ok(Some(number)) => number,
                Ok(None) => return,
                Err(error) => return stop(&mut lock(&merger), error, &stopped, &moved),
            };
            let result = work(state);
            let mut merger = lock(&merger);
            merger.waiting.insert(number, result);
            advance(&mut merger, &stopped, &moved);
            while merger.next + ahead <= number && !stopped.load(Ordering::Relaxed) {
                merger = moved.wait(merger).unwrap_or_else(PoisonError::into_inner);
            }
        }
    };
    std::thread::scope(|scope| {
        // Where the system gives no more threads, those that there are do the work, or this one.
        let started = (0..rooms(threads)).take_while(|_| start(scope, run).is_some()).count();
        if started == 0 {
            run();
        }
    });
    let merger = merger.into_inner().unwrap_or_else(PoisonError::into_inner);
    merger.error.map_or(Ok(states), Err)
}

fn lock<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

fn advance<T, F: FnMut(T) -> Result<(), E>, E>(
    merger: &mut Merger<T, F, E>,
    stopped: &AtomicBool,
    moved: &Condvar,
) {
    while merger.error.is_none()
        && let Some(result) = merger.waiting.remove(&merger.next)
    {
        merger.next += 1;
        if let Err(error) = (merger.merge)(result) {
            return stop(merger, error, stopped, moved);
        }
    }
    moved.notify_all();
}

/// Does each part of some work in a thread of its own, as far as the system gives them, and gives the results in order.
///
/// # Panics
/// When one of the threads does.
pub(crate) fn apart<P: Send + Copy, T: Send>(
    parts: impl Iterator<Item = P>,
    work: impl Fn(P) -> T + Sync,
) -> Vec<T> {
    let work = &work;
    std::thread::scope(|scope| {
        let parts: Vec<P> = parts.collect();
        let rooms = rooms(parts.len());
        let begin =
            |(at, part): (usize, P)| (part, if at < rooms { start(scope, move || work(part)) } else { None });
        let started: Vec<_> = parts.into_iter().enumerate().map(begin).collect();
        let finish = |(part, thread): (P, Option<ScopedJoinHandle<'_, T>>)| match thread {
            Some(thread) => thread.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic)),
            None => work(part),
        };
        started.into_iter().map(finish).collect()
    })
}

/// For how many of so many threads the system has memory. It is asked for all of them before the first begins: what one
/// takes while another is started could not be foreseen, and a thread that finds none when it begins ends the program.
fn rooms(threads: usize) -> usize {
    tidy_gate_memory::given(ROOM, threads)
}

fn start<'scope, T: Send + 'scope>(
    scope: &'scope Scope<'scope, '_>,
    work: impl FnOnce() -> T + Send + 'scope,
) -> Option<ScopedJoinHandle<'scope, T>> {
    std::thread::Builder::new().spawn_scoped(scope, work).ok()
}

fn stop<T, F, E>(merger: &mut Merger<T, F, E>, error: E, stopped: &AtomicBool, moved: &Condvar) {
    merger.error.get_or_insert(error);
    stopped.store(true, Ordering::Relaxed);
    moved.notify_all();
}

/// Wakes the other threads when one ends by a panic, so that the panic comes out instead of a stand-still.
struct StopOnPanic<'a> {
    stopped: &'a AtomicBool,
    moved: &'a Condvar,
}

impl Drop for StopOnPanic<'_> {
    fn drop(&mut self) {
        if std::thread::panicking() {
            self.stopped.store(true, Ordering::Relaxed);
            self.moved.notify_all();
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::sync::atomic::AtomicU64;

    #[test]
    fn results_come_in_order_and_an_error_ends_the_work() {
        for threads in [1, 2, 7] {
            for fails_at in [None, Some(40)] {
                let counter = AtomicU64::new(0);
                let mut seen = Vec::new();
                let next = |state: &mut u64| {
                    *state = counter.fetch_add(1, Ordering::Relaxed);
                    Ok((*state < 500).then_some(*state))
                };
                let work = |state: &mut u64| {
                    std::thread::sleep(std::time::Duration::from_micros(*state % 7 * 20));
                    *state
                };
                let result = in_order(
                    threads,
                    || 0,
                    next,
                    work,
                    |number| {
                        seen.push(number);
                        if Some(number) == fails_at { Err(number) } else { Ok(()) }
                    },
                );
                assert_eq!(result.err(), fails_at);
                assert!(seen.iter().copied().eq(0..fails_at.map_or(500, |n| n + 1)), "{threads}");
            }
        }
    }
}
