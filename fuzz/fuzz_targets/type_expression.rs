//! Any text as a type expression of the contract language.
#![no_main]

use faithful_clerk_shape::parse;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|text: &str| {
    let _ = parse(text, &|_| None);
});
