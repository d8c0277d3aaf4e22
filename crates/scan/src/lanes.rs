//! Sixty-four bytes at a time as bit masks: bit *i* of a mask speaks of byte *i*.

#[cfg(target_arch = "x86_64")]
mod avx2;
mod portable;
mod step;

pub(crate) use portable::Portable;
pub(crate) use step::{Lanes, Task};

/// Runs the task on the widest lanes there are.
pub(crate) fn with_lanes<T: Task>(dialect: super::dialect::Dialect, task: T) -> T::Output {
    #[cfg(target_arch = "x86_64")]
    if avx2::is_there() {
        return avx2::with_avx2(dialect, task);
    }
    task.run(Portable::new(dialect))
}
