//! The parser of HAR entries against serde_json.
#![no_main]

use faithful_clerk_recording::har;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|data: &[u8]| har::parsers_agree(data));
