//! Any text in the escapes of the outputs and in the mask: nothing that hides or controls is left.
#![no_main]

use faithful_clerk_model::invisible::is_hidden;
use faithful_clerk_model::secret::mask::masked;
use faithful_clerk_report::escape::{lines, markdown, terminal};
use libfuzzer_sys::fuzz_target;

fuzz_target!(|text: &str| {
    assert!(!terminal(text).contains(is_hidden));
    assert!(!lines(text).contains(|c| c != '\n' && is_hidden(c)));
    let page = markdown(text);
    assert!(!page.contains(is_hidden));
    let mut before = ' ';
    for c in page.chars() {
        assert!(!matches!(c, '<' | '`' | '[') || before == '\\', "{page}");
        before = if before == '\\' { ' ' } else { c };
    }
    let once = masked(text);
    assert_eq!(masked(&once), once);
});
