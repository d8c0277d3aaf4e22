//! When the system gives no more memory, the standard library aborts. This allocator is the system's own, and hands
//! over to whoever asked to end the program in its own way: with a message, an exit code, and no file half written.
#![allow(
    unsafe_code,
    reason = "an allocator is unsafe by its signature; every call goes to the system's own"
)]

use std::alloc::{GlobalAlloc, Layout, System};
use std::sync::OnceLock;
use std::sync::atomic::{AtomicBool, Ordering};

/// The system's allocator, which ends the program by [`end_with`] when it gives nothing.
///
/// ```
/// #[global_allocator]
/// static MEMORY: tidy_gate_memory::Ending = tidy_gate_memory::Ending;
/// ```
#[derive(Debug, Clone, Copy, Default)]
pub struct Ending;

/// What ends the program; it is given the bytes that were asked for.
static END: OnceLock<fn(usize)> = OnceLock::new();

/// Ending the program may ask for memory too: it gets what there is, and is not called again.
static ENDING: AtomicBool = AtomicBool::new(false);

/// Names what ends the program when there is no more memory: it is given the bytes that were asked for, and must not
/// return. Only the first that is named counts.
pub fn end_with(end: fn(usize)) {
    let _ = END.set(end);
}

#[cold]
fn ended(bytes: usize) {
    if let Some(end) = END.get()
        && !ENDING.swap(true, Ordering::SeqCst)
    {
        end(bytes);
    }
}

/// How many rooms of so many bytes the system gives at once, `most` at most. They are given back before this returns;
/// unlike other memory that is asked for, a room that is not given does not end the program.
pub fn given(bytes: usize, most: usize) -> usize {
    let Ok(layout) = Layout::from_size_align(bytes.max(1), 1) else { return 0 };
    // SAFETY: the layout is not empty.
    let ask = || Some(std::hint::black_box(unsafe { System.alloc(layout) })).filter(|room| !room.is_null());
    let rooms: Vec<_> = std::iter::repeat_with(ask).take(most).map_while(std::convert::identity).collect();
    for room in &rooms {
        // SAFETY: the system's allocator gave this room for this layout, and nobody else knows of it.
        unsafe { System.dealloc(*room, layout) };
    }
    rooms.len()
}

// SAFETY: every call is passed on to the system's allocator as it came, and its answer is given back as it is.
unsafe impl GlobalAlloc for Ending {
    unsafe fn alloc(&self, layout: Layout) -> *mut u8 {
        // SAFETY: the caller's promises are those of the system's allocator.
        let given = unsafe { System.alloc(layout) };
        if given.is_null() {
            ended(layout.size());
        }
        given
    }

    unsafe fn alloc_zeroed(&self, layout: Layout) -> *mut u8 {
        // SAFETY: the caller's promises are those of the system's allocator.
        let given = unsafe { System.alloc_zeroed(layout) };
        if given.is_null() {
            ended(layout.size());
        }
        given
    }

    unsafe fn realloc(&self, old: *mut u8, layout: Layout, size: usize) -> *mut u8 {
        // SAFETY: the caller's promises are those of the system's allocator.
        let given = unsafe { System.realloc(old, layout, size) };
        if given.is_null() {
            ended(size);
        }
        given
    }

    unsafe fn dealloc(&self, old: *mut u8, layout: Layout) {
        // SAFETY: the caller's promises are those of the system's allocator.
        unsafe { System.dealloc(old, layout) }
    }
}
