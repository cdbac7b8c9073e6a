//! Any text as a contract: diagnostics are at places of the text, and nothing panics.
#![no_main]

use faithful_clerk_check::parse_contract;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|text: &str| {
    for diagnostic in &parse_contract(text).diagnostics {
        assert!(text.get(diagnostic.span.clone()).is_some(), "{diagnostic:?}");
    }
});
