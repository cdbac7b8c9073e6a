//! Reads any bytes as a recording: it comes to an end, and the size of the reads makes no difference.

use std::io::Read;
use std::num::NonZero;
use std::sync::LazyLock;

use faithful_clerk_core::clause::HARBOUR;
use faithful_clerk_core::{Check, ErrorContract, Format, Ledger, Opening, Source};

static CONTRACT: LazyLock<ErrorContract> =
    LazyLock::new(|| ErrorContract::read(HARBOUR).contract.expect("the examples' contract is right"));

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
    let opening = Opening { format: Some(format), largest: 4096 };
    let check = |source: Source<'_>| -> Ledger {
        let mut check = Check::new(&CONTRACT);
        check.threads(NonZero::<usize>::MIN).opening(opening);
        check.recording(source, 0)
    };
    let whole = check(Source::of(data));
    assert_eq!(whole, check(Source::of(Drops(data, 7))));
}
