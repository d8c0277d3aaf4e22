//! Sixty-four bytes at a time as bit masks: bit *i* of a mask speaks of byte *i*.

#[cfg(target_arch = "x86_64")]
mod avx2;
mod portable;
mod step;

pub(crate) use portable::Portable;
use std::sync::atomic::{AtomicBool, Ordering};
pub(crate) use step::{Lanes, Task};

/// Whether wide lanes are passed over.
static NARROW: AtomicBool = AtomicBool::new(false);

/// From now on the portable lanes do all the work, as on a processor without wide ones: for seeing what they cost.
pub fn use_portable_lanes() {
    NARROW.store(true, Ordering::Relaxed);
}

/// Runs the task on the widest lanes there are.
pub(crate) fn with_lanes<T: Task>(dialect: super::dialect::Dialect, task: T) -> T::Output {
    #[cfg(target_arch = "x86_64")]
    if avx2::is_there() && !NARROW.load(Ordering::Relaxed) {
        return avx2::with_avx2(dialect, task);
    }
    task.run(Portable::new(dialect))
}
