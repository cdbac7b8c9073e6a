//! Any bytes as a recording of any format, scrubbed: as many bytes come out, on one thread as on three.
#![no_main]

use std::io::Cursor;
use std::num::NonZero;

use faithful_clerk_model::secret::SecretRules;
use faithful_clerk_recording::{Format, ReadOptions, Source};
use faithful_clerk_scrub::{ScrubKey, Scrubber, collect, replace};
use libfuzzer_sys::fuzz_target;

fn scrubbed(data: &[u8], options: &ReadOptions, threads: usize) -> Vec<u8> {
    let rules = SecretRules::default();
    let mut scrubber = Scrubber::new(&rules, ScrubKey::new(b"a key of sixteen characters")).personal(true);
    let threads = NonZero::new(threads).expect("more than none");
    let (mut first, mut copy) = (Vec::new(), Vec::new());
    collect(&mut scrubber, Source::of(data), options, threads, &mut first).expect("memory can be written");
    scrubber.begin();
    replace(&mut scrubber, first.as_slice(), (data, Cursor::new(data)), threads, &mut copy).expect("memory can be written");
    copy
}

fuzz_target!(|data: &[u8]| {
    let Some((choice, data)) = data.split_first() else { return };
    let format = [Format::Har, Format::JsonLines, Format::Http, Format::Warc][usize::from(choice & 3)];
    let options = ReadOptions { format: Some(format), max_exchange: 1 << 16, ..ReadOptions::default() };
    let one = scrubbed(data, &options, 1);
    assert_eq!(one.len(), data.len());
    assert!(one == scrubbed(data, &options, 3));
});
