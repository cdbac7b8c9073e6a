//! Finds the entries of a HAR file (`log.entries`) without reading them.
//!
//! The cutter follows strings and brackets only, so it costs little, needs no recursion, and the
//! depth of nesting in a file does not matter. Members may come in any order. It hands out batches
//! of whole entries; the beginning of an entry that the batch did not reach is carried over. An entry
//! whose brackets or quotes do not match is named, and reading goes on where the next one starts.

use std::io::Read;
use std::ops::Range;

use memchr::memchr2;

use super::Loss;
use super::regain::{KEPT, find_start, first_member};

/// The largest entry that is read; a larger one is named and skipped.
pub const LARGEST_ENTRY: usize = 64 << 20;

/// How much is read at a time. Half a megabyte stays in a core's own cache.
const READ: usize = 512 << 10;

/// So many bytes are gone over again at most to find where entries go on behind broken ones.
const MOST_REGAINED: usize = 1 << 30;

/// Whole entries, with the bytes that they stand in. Reused from batch to batch.
#[derive(Debug, Default)]
pub struct Batch {
    bytes: Vec<u8>,
    entries: Vec<Cut>,
    /// What could not be read on the way.
    pub losses: Vec<Loss>,
}

#[derive(Debug)]
struct Cut {
    number: u64,
    offset: u64,
    range: Range<usize>,
}

impl Batch {
    /// Each entry: its number, its offset in the file, its bytes.
    pub fn entries(&self) -> impl Iterator<Item = (u64, u64, &[u8])> {
        self.entries.iter().map(|cut| {
            (cut.number, cut.offset, self.bytes.get(cut.range.clone()).unwrap_or_default())
        })
    }
}

/// Cuts a HAR file into its entries.
#[derive(Debug)]
pub struct Cutter<R> {
    source: R,
    recording: u32,
    largest: usize,
    /// The beginning of an entry, where the last batch ended within one.
    carry: Vec<u8>,
    /// How many bytes were read before `carry`.
    before: u64,
    number: u64,
    walk: Walk,
    /// The way was lost in a broken entry; the start of the next one is looked for.
    is_lost: bool,
    /// How many bytes were gone over again.
    regained: usize,
    /// How an entry of this recording starts: the name of its first member, in quotes.
    start: Vec<u8>,
    ended: bool,
}

impl<R: Read> Cutter<R> {
    /// A cutter over a file's bytes; `recording` is the file's place in the run.
    pub fn new(source: R, recording: u32) -> Self {
        Self {
            source,
            recording,
            largest: LARGEST_ENTRY,
            carry: Vec::new(),
            before: 0,
            number: 0,
            walk: Walk::default(),
            is_lost: false,
            regained: 0,
            start: Vec::new(),
            ended: false,
        }
    }

    /// Sets the largest entry that is read, in bytes; the default is [`LARGEST_ENTRY`].
    #[must_use]
    pub fn largest(mut self, bytes: usize) -> Self {
        self.largest = bytes;
        self
    }

    /// Fills the batch with the next entries. `false` once there is nothing more.
    pub fn next(&mut self, batch: &mut Batch) -> bool {
        batch.entries.clear();
        batch.losses.clear();
        batch.bytes.clear();
        if self.ended {
            return false;
        }
        batch.bytes.append(&mut self.carry);
        let mut scanned = batch.bytes.len();
        while batch.entries.is_empty() && !self.ended {
            let came = match (&mut self.source).take(READ as u64).read_to_end(&mut batch.bytes) {
                Ok(came) => came,
                Err(error) => {
                    let at = self.before + batch.bytes.len() as u64;
                    self.lose(batch, at, None, format!("reading failed: {error}"));
                    self.ended = true;
                    break;
                }
            };
            self.scan(batch, if self.is_lost { 0 } else { scanned });
            scanned = batch.bytes.len();
            if came < READ && !self.ended {
                self.finish(batch);
                self.ended = true;
            }
            self.drop_what_is_no_entry(batch, &mut scanned);
        }
        let rest = match &self.walk.entry {
            Some(entry) => entry.start,
            None if self.is_lost => batch.bytes.len().saturating_sub(KEPT),
            None => batch.bytes.len(),
        };
        self.carry.extend_from_slice(batch.bytes.get(rest..).unwrap_or_default());
        if let Some(entry) = &mut self.walk.entry {
            entry.start = 0;
        }
        self.before += rest as u64;
        true
    }

    /// Follows strings and brackets from `from` on, and notes the entries that end.
    fn scan(&mut self, batch: &mut Batch, from: usize) {
        let mut at = from;
        if self.before == 0 && from == 0 && batch.bytes.starts_with(b"\xef\xbb\xbf") {
            at = 3;
        }
        while self.find_the_way(batch, &mut at) {
            let Some(step) = self.walk.next(&batch.bytes, &mut at) else { return };
            match step {
                Step::Entry(range) => {
                    self.number += 1;
                    self.learn(batch, range.start);
                    let offset = self.before + range.start as u64;
                    if range.len() > self.largest {
                        self.too_large(batch, offset);
                    } else {
                        batch.entries.push(Cut { number: self.number, offset, range });
                    }
                }
                Step::Skipped { offset } => {
                    self.number += 1;
                    self.too_large(batch, offset);
                }
                Step::Torn => {
                    let reason =
                        format!("its brackets do not match at byte {}", self.before + at as u64);
                    at = self.torn(batch, at, reason);
                }
                Step::Stray => {
                    let offset = self.before + at as u64;
                    let reason = "expected an entry or `]` in log.entries".to_owned();
                    self.lose(batch, offset, None, reason);
                    self.is_lost = true;
                }
                Step::Broken(at, reason) => {
                    let offset = self.before + at as u64;
                    self.lose(batch, offset, None, reason.to_owned());
                    self.ended = true;
                    return;
                }
            }
        }
    }

    /// Where the way is lost, goes to the start of the next entry. `false` if there is none so far.
    fn find_the_way(&mut self, batch: &Batch, at: &mut usize) -> bool {
        if self.is_lost {
            let Some(start) = find_start(&batch.bytes, *at, &self.start) else { return false };
            *at = start;
            self.is_lost = false;
        }
        !self.ended
    }

    /// Learns from the first entry how entries start in this recording.
    fn learn(&mut self, batch: &Batch, start: usize) {
        if self.start.is_empty() {
            let bytes = batch.bytes.get(start..).unwrap_or_default();
            self.start = first_member(bytes).unwrap_or_default();
        }
    }

    /// Names the entry that is open as broken, and gives the place from which to look for the next.
    fn torn(&mut self, batch: &mut Batch, at: usize, reason: String) -> usize {
        self.number += 1;
        self.walk.string = None;
        let (offset, from) = match self.walk.entry.take() {
            Some(Entry { start, skipped: None }) => {
                self.learn(batch, start);
                (self.before + start as u64, start + 1)
            }
            Some(Entry { skipped: Some(offset), .. }) => (offset, at),
            None => (self.before + at as u64, at),
        };
        self.lose(batch, offset, Some(self.number), reason);
        self.is_lost = true;
        self.regained += at.saturating_sub(from);
        if self.regained > MOST_REGAINED {
            let reason = "too much is broken before this, nothing more is read".to_owned();
            self.lose(batch, self.before + at as u64, None, reason);
            self.ended = true;
        }
        from
    }

    /// Gives back the memory of what was scanned and is no entry, or too large to be one.
    fn drop_what_is_no_entry(&mut self, batch: &mut Batch, scanned: &mut usize) {
        if !batch.entries.is_empty() || self.ended {
            return;
        }
        let drop = match &mut self.walk.entry {
            None if self.is_lost => batch.bytes.len().saturating_sub(KEPT),
            None => batch.bytes.len(),
            Some(entry) if batch.bytes.len() - entry.start > self.largest => {
                entry.skipped.get_or_insert(self.before + entry.start as u64);
                entry.start = 0;
                batch.bytes.len()
            }
            Some(_) => return,
        };
        batch.bytes.drain(..drop);
        self.before += drop as u64;
        *scanned = batch.bytes.len();
    }

    /// At the end of the file: says what is missing.
    fn finish(&mut self, batch: &mut Batch) {
        let end = self.before + batch.bytes.len() as u64;
        // An entry that runs to the end and has the start of another in it was not cut but broken.
        while let Some(Entry { start, skipped: None }) = self.walk.entry {
            self.learn(batch, start);
            if find_start(&batch.bytes, start + 1, &self.start).is_none() || self.ended {
                break;
            }
            let reason = "its brackets or quotes do not close".to_owned();
            let from = self.torn(batch, batch.bytes.len(), reason);
            self.scan(batch, from);
        }
        if let Some(entry) = self.walk.entry.take() {
            let offset = entry.skipped.unwrap_or(self.before + entry.start as u64);
            let reason = format!("the recording ends at byte {end}, inside this entry");
            self.lose(batch, offset, Some(self.number + 1), reason);
        } else if self.is_lost || self.ended {
            // That has been told.
        } else if self.walk.is_untouched() {
            self.lose(batch, end, None, "the file is empty".to_owned());
        } else if self.walk.depth > 0 {
            let reason = "the recording ends before its JSON does".to_owned();
            self.lose(batch, end, None, reason);
        } else if !self.walk.found_entries {
            let reason = "this is JSON but no HAR: it has no log.entries".to_owned();
            self.lose(batch, 0, None, reason);
        }
    }

    fn too_large(&self, batch: &mut Batch, offset: u64) {
        let most = self.largest;
        let reason = format!("the entry is larger than {most} bytes, the most that is read");
        self.lose(batch, offset, Some(self.number), reason);
    }

    fn lose(&self, batch: &mut Batch, offset: u64, number: Option<u64>, reason: String) {
        batch.losses.push(Loss { recording: self.recording, offset, number, reason });
    }
}

/// Where the walk through the file's brackets and strings stands. It survives from read to read.
#[derive(Debug, Default)]
struct Walk {
    /// Brackets open outside of an entry.
    depth: u32,
    string: Option<Escape>,
    /// The last string outside of an entry, as far as a member name of interest is long.
    word: Vec<u8>,
    /// In the member `log` of the document.
    in_log: bool,
    /// The last member name at depth 1 was `log`, at depth 2 within it `entries`.
    at_log: bool,
    at_entries: bool,
    /// At depth 2, a name and its colon came before.
    at_value: bool,
    /// In the list `log.entries`.
    in_list: bool,
    found_entries: bool,
    /// The document is closed.
    closed: bool,
    entry: Option<Entry>,
    /// The brackets that are to close within the entry, the innermost last.
    open: Vec<u8>,
}

#[derive(Debug, Clone, Copy, PartialEq)]
enum Escape {
    No,
    /// The next byte is escaped.
    Next,
}

/// An entry that has started and not ended.
#[derive(Debug)]
struct Entry {
    start: usize,
    /// Its offset in the file, once it was found to be too large.
    skipped: Option<u64>,
}

enum Step {
    Entry(Range<usize>),
    Skipped {
        offset: u64,
    },
    /// A bracket closes what it did not open.
    Torn,
    /// Between two entries stands what can't.
    Stray,
    Broken(usize, &'static str),
}

/// Member names of interest are `log` and `entries`.
const LONGEST_WORD: usize = 8;

impl Walk {
    fn is_untouched(&self) -> bool {
        self.depth == 0 && !self.closed
    }

    /// Walks on to the end of the next entry; `None` at the end of `bytes`.
    fn next(&mut self, bytes: &[u8], at: &mut usize) -> Option<Step> {
        loop {
            if self.entry.is_some() {
                return self.in_entry(bytes, at);
            }
            if let Some(escape) = self.string {
                self.in_string(bytes, at, escape)?;
                continue;
            }
            let byte = *bytes.get(*at)?;
            if let Some(broken) = self.outside(byte, *at) {
                return Some(broken);
            }
            if self.entry.is_none() {
                *at += 1;
            }
        }
    }

    /// Runs to the end of the entry; `None` if it does not end in `bytes`.
    fn in_entry(&mut self, bytes: &[u8], at: &mut usize) -> Option<Step> {
        loop {
            if let Some(escape) = self.string {
                self.in_string(bytes, at, escape)?;
                if self.open.is_empty() {
                    return self.entry_ends(*at);
                }
            }
            // Most bytes between strings mean nothing here. A bare word or number as an entry ends
            // where the list goes on.
            let bare = self.open.is_empty();
            let rest = bytes.get(*at..)?;
            let mark = rest.iter().position(|byte| {
                matches!(byte, b'"' | b'{' | b'[' | b'}' | b']') || (bare && *byte == b',')
            });
            let Some(mark) = mark else {
                *at = bytes.len();
                return None;
            };
            *at += mark;
            match rest.get(mark)? {
                b'"' => self.string = Some(Escape::No),
                b'{' => self.open.push(b'}'),
                b'[' => self.open.push(b']'),
                _ if bare => return self.entry_ends(*at),
                bracket if self.open.last() == Some(bracket) => {
                    self.open.pop();
                    if self.open.is_empty() {
                        *at += 1;
                        return self.entry_ends(*at);
                    }
                }
                _ => return Some(Step::Torn),
            }
            *at += 1;
        }
    }

    /// One byte outside of entries and strings.
    fn outside(&mut self, byte: u8, at: usize) -> Option<Step> {
        match byte {
            b' ' | b'\t' | b'\r' | b'\n' => {}
            _ if self.closed => {
                return Some(Step::Broken(at, "something stands behind the end of the JSON"));
            }
            _ if self.depth == 0 && byte != b'{' => {
                return Some(Step::Broken(at, "this is no HAR: it does not start with `{`"));
            }
            b',' if self.in_list => {}
            b']' if self.in_list => {
                self.in_list = false;
                self.depth -= 1;
            }
            b'}' | b':' if self.in_list => return Some(Step::Stray),
            // The list was closed by a bracket too many: an entry stands where a name has to.
            b'{' if self.depth == 2 && self.in_log && self.found_entries && !self.at_value => {
                self.in_list = true;
                self.depth = 3;
                return Some(Step::Stray);
            }
            _ if self.in_list => {
                self.open.clear();
                self.entry = Some(Entry { start: at, skipped: None });
            }
            b'"' => {
                self.word.clear();
                self.string = Some(Escape::No);
            }
            b':' if self.depth == 1 => self.at_log = self.word == b"log",
            b':' if self.depth == 2 => {
                self.at_value = true;
                self.at_entries = self.in_log && self.word == b"entries";
            }
            b'{' => {
                self.depth += 1;
                if self.depth == 2 {
                    self.in_log = self.at_log;
                }
            }
            b'[' => {
                self.depth += 1;
                if self.depth == 3 && self.at_entries {
                    self.in_list = true;
                    self.found_entries = true;
                }
            }
            b'}' | b']' => {
                self.depth -= 1;
                self.closed = self.depth == 0;
                self.in_log &= self.depth >= 2;
                self.at_entries = false;
            }
            b',' if self.depth == 2 => {
                self.at_value = false;
                self.at_entries = false;
            }
            _ => {}
        }
        None
    }

    /// Runs to the end of the string; `None` if it does not end in `bytes`.
    fn in_string(&mut self, bytes: &[u8], at: &mut usize, escape: Escape) -> Option<()> {
        if escape == Escape::Next {
            bytes.get(*at)?;
            *at += 1;
            self.string = Some(Escape::No);
        }
        loop {
            let rest = bytes.get(*at..)?;
            let found = memchr2(b'"', b'\\', rest);
            if self.entry.is_none() {
                let part = rest.get(..found.unwrap_or(rest.len())).unwrap_or_default();
                let room = LONGEST_WORD.saturating_sub(self.word.len());
                self.word.extend(part.iter().take(room));
            }
            match found {
                None => {
                    *at = bytes.len();
                    return None;
                }
                Some(offset) if rest.get(offset) == Some(&b'"') => {
                    *at += offset + 1;
                    self.string = None;
                    return Some(());
                }
                Some(offset) => {
                    // No name of interest has an escape: spoil the word.
                    self.word.resize(LONGEST_WORD, b'\\');
                    *at += offset + 2;
                    if *at > bytes.len() {
                        *at = bytes.len();
                        self.string = Some(Escape::Next);
                        return None;
                    }
                }
            }
        }
    }

    fn entry_ends(&mut self, end: usize) -> Option<Step> {
        let entry = self.entry.take()?;
        Some(match entry.skipped {
            Some(offset) => Step::Skipped { offset },
            None => Step::Entry(entry.start..end),
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A source that gives at most `step` bytes a read.
    struct Drops<'a>(&'a [u8], usize);

    impl Read for Drops<'_> {
        fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
            let step = self.1.min(into.len()).min(self.0.len());
            let (now, later) = self.0.split_at(step);
            into[..step].copy_from_slice(now);
            self.0 = later;
            Ok(step)
        }
    }

    fn cut(bytes: &[u8], step: usize, largest: usize) -> (Vec<(u64, u64, String)>, Vec<Loss>) {
        let mut cutter = Cutter::new(Drops(bytes, step), 0).largest(largest);
        let (mut batch, mut entries, mut losses) = (Batch::default(), Vec::new(), Vec::new());
        while cutter.next(&mut batch) {
            entries.extend(batch.entries().map(|(number, offset, bytes)| {
                (number, offset, String::from_utf8_lossy(bytes).into_owned())
            }));
            losses.append(&mut batch.losses);
        }
        (entries, losses)
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
        let (entries, losses) = cut(har, 1, LARGEST_ENTRY);
        assert_eq!(losses, []);
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
            let (entries, losses) = cut(&har[..end], 3, LARGEST_ENTRY);
            assert_eq!(losses.len(), 1, "{end}: {losses:?}");
            let whole = usize::from(end >= 28) + usize::from(end >= 36);
            assert_eq!(entries.len(), whole, "{end}");
        }
    }

    #[test]
    fn an_entry_that_is_too_large_is_named_and_skipped() {
        let large = "x".repeat(2 * READ);
        let har = format!(r#"{{"log":{{"entries":[{{"a":"{large}"}},{{"b":2}}]}}}}"#);
        let (entries, losses) = cut(har.as_bytes(), usize::MAX, 1000);
        assert_eq!(entries.len(), 1);
        assert_eq!((entries[0].0, entries[0].2.as_str()), (2, r#"{"b":2}"#));
        assert_eq!((losses.len(), losses[0].number, losses[0].offset), (1, Some(1), 19));
        let small = br#"{"log":{"entries":[{"a":"12345"},{"b":2}]}}"#;
        let (entries, losses) = cut(small, usize::MAX, 10);
        assert_eq!((entries.len(), losses.len()), (1, 1));
    }

    #[test]
    fn what_is_no_har_says_what_it_is() {
        for (bytes, words) in [
            (&b""[..], "the file is empty"),
            (b"  \n", "the file is empty"),
            (b"<html>", "does not start with `{`"),
            (b"{}", "no log.entries"),
            (br#"{"log":{"entries":{}}}"#, "no log.entries"),
            (br#"{"log":{"entries":[]}} {}"#, "behind the end"),
            (br#"{"log":{"entries":[{}}"#, "expected an entry or `]`"),
        ] {
            let (_, losses) = cut(bytes, 5, LARGEST_ENTRY);
            assert_eq!(losses.len(), 1, "{losses:?}");
            assert!(losses[0].reason.contains(words), "{losses:?}");
        }
    }

    /// Each kind of break, in each of three entries: that one is named, the others are read.
    #[test]
    fn behind_a_broken_entry_reading_goes_on() {
        let good =
            |n: u32| format!(r#"{{"t":"{n}","request":{{"url":"/{n}"}},"list":[{{"t":1}}]}}"#);
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
                    let (found, losses) = cut(har.as_bytes(), step, LARGEST_ENTRY);
                    let read: Vec<&str> = found.iter().map(|entry| entry.2.as_str()).collect();
                    let whole: Vec<String> = (1..=3).map(good).collect();
                    let missed =
                        whole.iter().filter(|entry| !read.contains(&entry.as_str())).count();
                    assert!(!losses.is_empty(), "{har}");
                    assert!(missed == 0, "{at}: {har}\n{found:?}\n{losses:?}");
                }
            }
        }
    }

    #[test]
    fn what_is_broken_all_over_is_given_up_in_good_time() {
        let har = format!(r#"{{"log":{{"entries":[{}"#, r#"{"t":"x},"#.repeat(50_000));
        let (_, losses) = cut(har.as_bytes(), usize::MAX, LARGEST_ENTRY);
        assert!(!losses.is_empty());
    }

    #[test]
    fn two_hundred_levels_of_nesting_are_walked_without_recursion() {
        let deep = format!("{}{}", "[".repeat(200_000), "]".repeat(200_000));
        let har = format!(r#"{{"_x":{deep},"log":{{"entries":[{{"_y":{deep}}}]}}}}"#);
        assert_eq!(texts(har.as_bytes()).len(), 1);
    }
}
