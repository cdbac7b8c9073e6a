use std::io::Read;

use super::HarSplitter;
use crate::feed::READ;
use crate::{Batch, LARGEST_ENTRY, Splitter as _, Unreadable};

/// A source that gives at most `step` bytes a read.
struct SlowReader<'a>(&'a [u8], usize);

impl Read for SlowReader<'_> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        let step = self.1.min(into.len()).min(self.0.len());
        let (now, later) = self.0.split_at(step);
        into[..step].copy_from_slice(now);
        self.0 = later;
        Ok(step)
    }
}

fn cut(bytes: &[u8], step: usize, largest: usize) -> (Vec<(u64, u64, String)>, Vec<Unreadable>) {
    let mut splitter = HarSplitter::new(SlowReader(bytes, step), 0).largest(largest);
    let (mut batch, mut entries, mut unreadable) = (Batch::default(), Vec::new(), Vec::new());
    while splitter.next(&mut batch) {
        entries.extend(batch.entries().iter().map(|piece| {
            let text = String::from_utf8_lossy(batch.entry(piece).unwrap()).into_owned();
            (piece.number, piece.offset, text)
        }));
        unreadable.append(&mut batch.unreadable);
    }
    (entries, unreadable)
}

fn texts(bytes: &[u8]) -> Vec<String> {
    cut(bytes, 7, LARGEST_ENTRY).0.into_iter().map(|entry| entry.2).collect()
}

#[test]
fn entries_are_found_wherever_log_keeps_them() {
    for har in [
        r#"{"log":{"version":"1.2","entries":[{"a":"]}"},{"b":[1,{"c":2}]}]}}"#,
        r#"{"log":{"entries":[{"a":"]}"},{"b":[1,{"c":2}]}],"pages":[{"entries":[{"x":1}]}]}}"#,
        r#"{"entries":[{"x":1}],"log":{"_x":{"entries":[{"x":1}]},"entries":[{"a":"]}"},{"b":[1,{"c":2}]}]}}"#,
        "\u{feff}{ \"log\" :\n { \"entries\"\t: [ {\"a\":\"]}\"} ,\r\n {\"b\":[1,{\"c\":2}]} ] } }\n",
    ] {
        assert_eq!(texts(har.as_bytes()), [r#"{"a":"]}"}"#, r#"{"b":[1,{"c":2}]}"#], "{har}");
    }
}

#[test]
fn strings_with_escapes_do_not_end_early() {
    let har = br#"{"log":{"entries":[{"a":"\\\"}\\"},{"b":"\\\\"}]}}"#;
    assert_eq!(texts(har), [r#"{"a":"\\\"}\\"}"#, r#"{"b":"\\\\"}"#]);
}

/// Over several reads, so that entries are carried from one batch to the next.
#[test]
fn entries_that_span_reads_are_whole() {
    let entry = |number: usize| {
        format!(r#"{{"url":"/","text":"{}","time":{number}}}"#, r#" a\"b\\"#.repeat(150))
    };
    let entries: Vec<String> = (0..1000).map(entry).collect();
    let har = format!(r#"{{"log":{{"entries":[{}]}}}}"#, entries.join(","));
    assert!(har.len() > 3 * READ);
    assert_eq!(texts(har.as_bytes()), entries);
}

#[test]
fn what_is_no_object_is_an_entry_all_the_same() {
    assert_eq!(
        texts(br#"{"log":{"entries":[null,"x",17 ,[],{}]}}"#),
        ["null", "\"x\"", "17 ", "[]", "{}"]
    );
}

#[test]
fn numbers_and_offsets_are_those_of_the_file() {
    let har = br#"{"log":{"entries":[{"a":1}, {"b":2}]}}"#;
    let (entries, unreadable) = cut(har, 1, LARGEST_ENTRY);
    assert_eq!(unreadable, []);
    for (number, offset, text) in entries {
        assert_eq!(&har[usize::try_from(offset).unwrap()..][..text.len()], text.as_bytes());
        assert!(number == 1 && text.contains('a') || number == 2 && text.contains('b'));
    }
}

#[test]
fn any_size_of_read_gives_the_same() {
    let har = br#"{"log":{"pages":["\\"],"entries":[{"a":"\\\"x"},{"b":[[]]},7]}}"#;
    let whole = cut(har, har.len(), LARGEST_ENTRY);
    for step in 1..20 {
        assert_eq!(cut(har, step, LARGEST_ENTRY), whole);
    }
}

#[test]
fn a_recording_cut_at_any_byte_keeps_its_whole_entries_and_says_that_it_is_cut() {
    let har = br#"{"log":{"entries":[{"a":"x"},{"b":2}]}}"#;
    for end in 0..har.len() {
        let (entries, unreadable) = cut(&har[..end], 3, LARGEST_ENTRY);
        assert_eq!(unreadable.len(), 1, "{end}: {unreadable:?}");
        let whole = usize::from(end >= 28) + usize::from(end >= 36);
        assert_eq!(entries.len(), whole, "{end}");
    }
}

#[test]
fn an_entry_that_is_too_large_is_named_and_skipped() {
    let large = "x".repeat(2 * READ);
    let har = format!(r#"{{"log":{{"entries":[{{"a":"{large}"}},{{"b":2}}]}}}}"#);
    let (entries, unreadable) = cut(har.as_bytes(), usize::MAX, 1000);
    assert_eq!(entries.len(), 1);
    assert_eq!((entries[0].0, entries[0].2.as_str()), (2, r#"{"b":2}"#));
    assert_eq!((unreadable.len(), unreadable[0].number, unreadable[0].offset), (1, Some(1), 19));
    let small = br#"{"log":{"entries":[{"a":"12345"},{"b":2}]}}"#;
    let (entries, unreadable) = cut(small, usize::MAX, 10);
    assert_eq!((entries.len(), unreadable.len()), (1, 1));
}

#[test]
fn what_is_no_har_says_what_it_is() {
    for (bytes, words) in [
        (&b""[..], "the file is empty"),
        (b"  \n", "the file is empty"),
        (b"<html>", "does not start with `{`"),
        (b"{}", "no log.entries"),
        (br#"{"log":{"entries":{}}}"#, "no log.entries"),
        (br#"{"log":{"entries":[]}} {}"#, "after the end"),
        (br#"{"log":{"entries":[{}}"#, "expected an entry or `]`"),
    ] {
        let (_, unreadable) = cut(bytes, 5, LARGEST_ENTRY);
        assert_eq!(unreadable.len(), 1, "{unreadable:?}");
        assert!(unreadable[0].reason.contains(words), "{unreadable:?}");
    }
}

/// Each kind of break, in each of three entries: that one is named, the others are read.
#[test]
fn behind_a_broken_entry_reading_goes_on() {
    let good = |n: u32| format!(r#"{{"t":"{n}","request":{{"url":"/{n}"}},"list":[{{"t":1}}]}}"#);
    for broken in [
        r#"{"t":"x","request":{"url":"/"}"#,
        r#"{"t":"x","request":{"url":"/"}}]"#,
        r#"{"t":"x","request":{"url":"/"}}}"#,
        r#"{"t":"x","list":[1}"#,
        r#"{"t":"x","request":{"url":"/}}"#,
        r#"{"t":"x","request":{"url":"#,
        r#"{"t":"x}"#,
        r#"{"t":"#,
    ] {
        for at in 0..3 {
            let mut entries = vec![good(1), good(2), good(3)];
            entries.insert(at, broken.to_owned());
            let har = format!(r#"{{"log":{{"entries":[{}]}}}}"#, entries.join(", "));
            for step in [3, usize::MAX] {
                let (found, unreadable) = cut(har.as_bytes(), step, LARGEST_ENTRY);
                let read: Vec<&str> = found.iter().map(|entry| entry.2.as_str()).collect();
                let whole: Vec<String> = (1..=3).map(good).collect();
                let missed = whole.iter().filter(|entry| !read.contains(&entry.as_str())).count();
                assert!(!unreadable.is_empty(), "{har}");
                assert!(missed == 0, "{at}: {har}\n{found:?}\n{unreadable:?}");
            }
        }
    }
}

/// Files of broken entries only: each batch stays small, and the whole comes to an end.
#[test]
fn what_is_broken_all_over_is_read_in_small_batches_or_given_up() {
    let start = r#"{"log":{"entries":["#;
    for broken in [r#"{"t":"x},"#, r#"{"t":],"#, "},", "1,", r#"{"t":[1},"#] {
        let har = format!("{start}{}", broken.repeat(300_000));
        let mut splitter = HarSplitter::new(har.as_bytes(), 0);
        let (mut batch, mut unreadable) = (Batch::default(), 0);
        while splitter.next(&mut batch) {
            assert!(batch.unreadable.len() + batch.entries().len() <= (1 << 19) + 2, "{broken}");
            unreadable += batch.unreadable.len();
        }
        assert!(unreadable > 0, "{broken}");
    }
}

#[test]
fn two_hundred_levels_of_nesting_are_walked_without_recursion() {
    let deep = format!("{}{}", "[".repeat(200_000), "]".repeat(200_000));
    let har = format!(r#"{{"_x":{deep},"log":{{"entries":[{{"_y":{deep}}}]}}}}"#);
    assert_eq!(texts(har.as_bytes()).len(), 1);
}
