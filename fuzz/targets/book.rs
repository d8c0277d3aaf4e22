#![no_main]

#[path = "../bodies/book.rs"]
mod body;

libfuzzer_sys::fuzz_target!(|data: &[u8]| body::run(data));
