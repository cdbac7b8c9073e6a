//! Any text as a phrase of the contract's shape language.
#![no_main]

use faithful_clerk_core::shape::phrase;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|text: &str| {

    let _ = phrase(text, &|_| None);
});
