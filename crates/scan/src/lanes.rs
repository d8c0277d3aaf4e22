//! Sixty-four bytes at a time as bit masks: bit *i* of a mask speaks of byte *i*.

#[cfg(target_arch = "x86_64")]
mod avx2;
mod portable;
mod step;

pub(crate) use portable::Portable;
pub(crate) use step::{Lanes, Task};

/// Whether the wide lanes are there, and nobody has asked for the portable ones to see what those cost.
#[cfg(target_arch = "x86_64")]
fn is_wide() -> bool {
    static WIDE: std::sync::OnceLock<bool> = std::sync::OnceLock::new();
    *WIDE.get_or_init(|| {
        avx2::is_there() && std::env::var_os("TIDY_GATE_LANES").is_none_or(|lanes| lanes != "portable")
    })
}

/// Runs the task on the widest lanes there are.
pub(crate) fn with_lanes<T: Task>(dialect: super::dialect::Dialect, task: T) -> T::Output {
    #[cfg(target_arch = "x86_64")]
    if is_wide() {
        return avx2::with_avx2(dialect, task);
    }
    task.run(Portable::new(dialect))
}
