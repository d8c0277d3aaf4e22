//! How far a long run has come: on standard error, on a terminal, after a second.

use indicatif::{ProgressBar, ProgressDrawTarget, ProgressState, ProgressStyle};
use std::io::IsTerminal;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::time::{Duration, Instant};
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::run::Watch;

/// Nothing is shown before this.
const PATIENCE: Duration = Duration::from_secs(1);

/// A bar that knows the share of bytes and counts rows.
pub(crate) struct Progress {
    bar: ProgressBar,
    began: Instant,
    is_shown: AtomicBool,
    rows: &'static AtomicU64,
}

/// The rows so far; the bar's own keys can only look at something that outlives it.
static ROWS: AtomicU64 = AtomicU64::new(0);

impl Progress {
    /// For a file of this size, if it is known.
    pub(crate) fn new(size: Option<u64>) -> Self {
        let bar = ProgressBar::with_draw_target(size, ProgressDrawTarget::hidden());
        let template = match size {
            Some(_) => "{bar:28} {percent:>3} %  {rows} rows  {speed} rows/s  {eta} left",
            None => "{spinner} {rows} rows  {speed} rows/s  {bytes} read",
        };
        let style = ProgressStyle::with_template(template).unwrap_or_else(|_| ProgressStyle::default_bar());
        let rows = |_: &ProgressState, out: &mut dyn std::fmt::Write| {
            let _ = write!(out, "{}", grouped(ROWS.load(Ordering::Relaxed)));
        };
        let speed = |state: &ProgressState, out: &mut dyn std::fmt::Write| {
            let millis = u64::try_from(state.elapsed().as_millis()).unwrap_or(u64::MAX).max(1);
            let _ = write!(out, "{}", grouped(ROWS.load(Ordering::Relaxed).saturating_mul(1000) / millis));
        };
        bar.set_style(style.with_key("rows", rows).with_key("speed", speed).progress_chars("━╸─"));
        Self { bar, began: Instant::now(), is_shown: AtomicBool::new(false), rows: &ROWS }
    }
}

impl Watch for Progress {
    fn judged(&self, rows: u64, bytes: u64) {
        if self.began.elapsed() < PATIENCE {
            return;
        }
        if !self.is_shown.swap(true, Ordering::Relaxed) && std::io::stderr().is_terminal() {
            self.bar.set_draw_target(ProgressDrawTarget::stderr());
        }
        self.rows.store(rows, Ordering::Relaxed);
        self.bar.set_position(bytes);
    }
}

impl Drop for Progress {
    fn drop(&mut self) {
        self.bar.finish_and_clear();
    }
}
