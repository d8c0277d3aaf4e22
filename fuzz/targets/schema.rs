#![no_main]

#[path = "../bodies/schema.rs"]
mod body;

libfuzzer_sys::fuzz_target!(|data: &[u8]| body::run(data));
