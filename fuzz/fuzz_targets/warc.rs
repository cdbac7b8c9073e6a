//! Any bytes as a recording of this format.
#![no_main]

mod read;

use faithful_clerk_recording::Format;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|data: &[u8]| read::read(Format::Warc, data));
