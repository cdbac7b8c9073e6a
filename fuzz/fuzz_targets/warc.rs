//! Any bytes as a recording of this form.
#![no_main]

mod read;

use faithful_clerk_core::Format;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|data: &[u8]| read::read(Format::Warc, data));
