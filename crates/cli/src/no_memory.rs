//! When the system gives no more memory: one message, exit code 2, and no output that is half written.

use crate::failure::Failure;
use crate::telling;
use std::sync::Mutex;

#[global_allocator]
static MEMORY: tidy_gate_memory::Ending = tidy_gate_memory::Ending;

/// What the message needs, put by.
static PUT_BY: Mutex<Vec<u8>> = Mutex::new(Vec::new());

/// Ends the program with a message, should the memory not suffice.
pub(crate) fn watch() {
    if let Ok(mut put_by) = PUT_BY.lock() {
        put_by.reserve(64 << 10);
    }
    tidy_gate_memory::end_with(end);
}

fn end(bytes: usize) {
    drop(PUT_BY.try_lock().map(|mut put_by| std::mem::take(&mut *put_by)));
    let asked = bytesize::ByteSize::b(bytes as u64).display().iec();
    let message = format!("the system gives no more memory: {asked} more were asked for");
    let help =
        "give the program more memory, fewer --threads, or the file in parts; nothing was written to its end";
    crate::interrupt::take_away_now();
    let _ = telling::tell(&Failure::usage(message, help.to_owned()).into());
    #[expect(clippy::exit, reason = "whoever asked for the memory cannot go on")]
    std::process::exit(2);
}
