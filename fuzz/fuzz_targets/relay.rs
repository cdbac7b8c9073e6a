//! Any bytes as what passes through the recorder.
#![no_main]

use libfuzzer_sys::fuzz_target;

fuzz_target!(|data: &[u8]| faithful_clerk_live::read_heads(data));
