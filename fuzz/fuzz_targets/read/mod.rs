//! Reads any bytes as a recording: it comes to an end, and the size of the reads makes no difference.

use std::io::Read;
use std::num::NonZero;
use std::sync::LazyLock;

use faithful_clerk_check::clauses::HARBOUR;
use faithful_clerk_check::ledger::Ledger;
use faithful_clerk_check::{Check, parse_contract};
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_recording::{Format, ReadOptions, Source};

static CONTRACT: LazyLock<ErrorContract> =
    LazyLock::new(|| parse_contract(HARBOUR).contract.expect("the examples' contract parses"));

struct Drops<'b>(&'b [u8], usize);

impl Read for Drops<'_> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        let length = self.1.min(into.len()).min(self.0.len());
        let (now, later) = self.0.split_at(length);
        into[..length].copy_from_slice(now);
        self.0 = later;
        Ok(length)
    }
}

pub fn read(format: Format, data: &[u8]) {
    let options = ReadOptions { format: Some(format), max_exchange: 4096, ..ReadOptions::default() };
    let check = |source: Source<'_>| -> Ledger {
        let mut check = Check::new(&CONTRACT);
        check.threads(NonZero::<usize>::MIN).opening(options.clone());
        check.recording(source, 0)
    };
    let whole = check(Source::of(data));
    assert_eq!(whole, check(Source::of(Drops(data, 7))));
}
