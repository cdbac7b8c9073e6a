//! Any bytes as the ledger of a survey: what can be read is concluded, and read again once it was written.
#![no_main]

use faithful_clerk_check::ledger::LedgerSources;
use faithful_clerk_insight::survey::SurveyLedger;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|data: &[u8]| {
    let Ok(text) = std::str::from_utf8(data) else { return };
    let Ok(ledger) = SurveyLedger::read(text, |_| 0) else { return };
    let sources = LedgerSources { recordings: vec!["a".to_owned()], ..LedgerSources::default() };
    let saved = ledger.save("", &sources).expect("text, numbers and lists");
    let again = SurveyLedger::read(&saved, |_| 0).expect("what was written");
    assert!(again.save("", &sources).expect("text, numbers and lists") == saved);
    let mut sum = again.clone();
    sum.add(again);
    let _ = sum.decided().0.conclude();
});
