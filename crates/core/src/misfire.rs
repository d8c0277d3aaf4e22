//! Faults of the program's own, put in on purpose: tests name a place, and the thread that comes there panics. Only builds
//! for tests know of it; elsewhere nothing is compiled.

#[cfg(debug_assertions)]
use std::sync::OnceLock;

#[cfg(debug_assertions)]
static ARMED: OnceLock<String> = OnceLock::new();

/// Makes the place of this name fail. The first name counts.
pub fn arm(place: &str) {
    #[cfg(debug_assertions)]
    drop(ARMED.set(place.to_owned()));
    #[cfg(not(debug_assertions))]
    let _ = place;
}

/// A place that a test may make fail.
///
/// # Panics
/// When a test has armed it.
#[inline]
pub fn point(place: &str) {
    #[cfg(debug_assertions)]
    assert!(ARMED.get().is_none_or(|armed| armed != place), "a fault was asked for at {place}");
    #[cfg(not(debug_assertions))]
    let _ = place;
}
