#![no_main]

#[path = "../bodies/sources.rs"]
mod body;

libfuzzer_sys::fuzz_target!(|data: &[u8]| body::run(data));
