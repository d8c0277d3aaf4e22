//! Sixty-four bytes at a time as bit masks: bit *i* of a mask speaks of byte *i*.

#[cfg(target_arch = "x86_64")]
mod avx2;
#[cfg(target_arch = "x86_64")]
mod avx2_numbers;
mod numbers;
mod portable;
mod step;

pub use numbers::Numbers;
pub(crate) use portable::Portable;
use std::sync::atomic::{AtomicBool, Ordering};
pub use step::{Lanes, Task};

/// Whether wide lanes are passed over.
static NARROW: AtomicBool = AtomicBool::new(false);

/// From now on the portable lanes do all the work, as on a processor without wide ones: for seeing what they cost.
pub fn use_portable_lanes() {
    NARROW.store(true, Ordering::Relaxed);
}

/// Runs the task on the widest lanes there are. Lanes of 64 bytes were tried: processors slow down for them, and more was
/// lost than gained.
pub fn with_lanes<T: Task>(dialect: super::dialect::Dialect, task: T) -> T::Output {
    #[cfg(target_arch = "x86_64")]
    if avx2::is_there() && !NARROW.load(Ordering::Relaxed) {
        return avx2::with_avx2(dialect, task);
    }
    task.run(Portable::new(dialect))
}

/// Runs the task that `make` makes on every kind of lanes there is here.
#[cfg(test)]
pub(crate) fn on_each_kind<T: Task>(
    dialect: super::dialect::Dialect,
    make: impl Fn() -> T,
) -> Vec<T::Output> {
    let mut found = vec![make().run(Portable::new(dialect))];
    #[cfg(target_arch = "x86_64")]
    if avx2::is_there() {
        found.push(avx2::with_avx2(dialect, make()));
    }
    found
}
