//! The scan with vectors against its scalar twin.
#![no_main]

use faithful_clerk_core::recording::scan_agrees;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|data: &[u8]| scan_agrees(data));
