//! Any text as a contract: mistakes are named at places of the text, and nothing panics.
#![no_main]

use faithful_clerk_core::ErrorContract;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|text: &str| {
    let reading = ErrorContract::read(text);
    for mistake in &reading.mistakes {
        assert!(text.get(mistake.span.clone()).is_some(), "{mistake:?}");
    }
});
