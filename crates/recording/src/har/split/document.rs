//! Scans a file's brackets and strings for the entries of `log.entries`.

use std::ops::Range;

use memchr::memchr2;

use faithful_clerk_model::json::scan::{BracketScan, ScanState, scan_brackets};

/// Where the scan through the file's brackets and strings stands. It goes on from read to read.
#[derive(Debug, Default)]
pub(super) struct DocumentScanner {
    /// Brackets open outside of an entry.
    pub(super) depth: u32,
    pub(super) string: Option<NextByte>,
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
    pub(super) found_entries: bool,
    /// The document is closed.
    closed: bool,
    pub(super) entry: Option<OpenEntry>,
    /// The entry is an object or a list, as opposed to a word, a number or a string.
    is_bracketed: bool,
    /// Where the scan through such an entry stands.
    open: ScanState,
}

#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) enum NextByte {
    Plain,
    Escaped,
}

/// An entry that has started and not ended.
#[derive(Debug)]
pub(super) struct OpenEntry {
    pub(super) start: usize,
    /// Its offset in the file, once it was found to be too large.
    pub(super) skipped: Option<u64>,
}

pub(super) enum Event {
    /// An entry.
    Entry(Range<usize>),
    /// The end of an entry that was too large.
    TooLarge { offset: u64 },
    /// A bracket closes none that is open.
    Mismatch,
    /// Something that is no entry stands between two of them.
    Stray,
    /// The file is no JSON, or no HAR.
    Invalid(usize, &'static str),
}

/// Member names of interest are `log` and `entries`.
const LONGEST_WORD: usize = 8;

impl DocumentScanner {
    pub(super) fn is_untouched(&self) -> bool {
        self.depth == 0 && !self.closed
    }

    /// Scans on to the end of the next entry; `None` at the end of `bytes`.
    pub(super) fn next(&mut self, bytes: &[u8], at: &mut usize) -> Option<Event> {
        loop {
            if self.entry.is_some() {
                return self.in_entry(bytes, at);
            }
            if let Some(next) = self.string {
                self.in_string(bytes, at, next)?;
                continue;
            }
            let byte = *bytes.get(*at)?;
            if let Some(event) = self.outside(byte, *at) {
                return Some(event);
            }
            if self.entry.is_none() {
                *at += 1;
            }
        }
    }

    /// Runs to the end of the entry; `None` if it does not end in `bytes`.
    fn in_entry(&mut self, bytes: &[u8], at: &mut usize) -> Option<Event> {
        if !self.is_bracketed {
            return self.in_bare_entry(bytes, at);
        }
        match scan_brackets(bytes, *at, &mut self.open) {
            BracketScan::Closed(end) => {
                *at = end;
                self.entry_ends(end)
            }
            BracketScan::Mismatch(mismatch) => {
                *at = mismatch;
                Some(Event::Mismatch)
            }
            BracketScan::Incomplete => {
                *at = bytes.len();
                None
            }
        }
    }

    /// The same, of one that is a word, a number or a string: no entry, but to be named as one.
    fn in_bare_entry(&mut self, bytes: &[u8], at: &mut usize) -> Option<Event> {
        if let Some(next) = self.string {
            self.in_string(bytes, at, next)?;
            return self.entry_ends(*at);
        }
        let rest = bytes.get(*at..)?;
        let Some(mark) = rest.iter().position(|byte| b"\"{[}],".contains(byte)) else {
            *at = bytes.len();
            return None;
        };
        *at += mark;
        let starts = self.entry.as_ref().is_some_and(|entry| entry.start == *at);
        if starts && rest.get(mark) == Some(&b'"') {
            *at += 1;
            self.string = Some(NextByte::Plain);
            return self.in_bare_entry(bytes, at);
        }
        self.entry_ends(*at)
    }

    /// One byte outside of entries and strings.
    fn outside(&mut self, byte: u8, at: usize) -> Option<Event> {
        match byte {
            b' ' | b'\t' | b'\r' | b'\n' => {}
            _ if self.closed => {
                return Some(Event::Invalid(at, "there is something after the end of the JSON"));
            }
            _ if self.depth == 0 && byte != b'{' => {
                return Some(Event::Invalid(at, "this is not HAR: it does not start with `{`"));
            }
            b',' if self.in_list => {}
            b']' if self.in_list => {
                self.in_list = false;
                self.depth -= 1;
            }
            b'}' | b':' if self.in_list => return Some(Event::Stray),
            // The list was closed by a bracket too many: an entry stands where a name has to.
            b'{' if self.depth == 2 && self.in_log && self.found_entries && !self.at_value => {
                self.in_list = true;
                self.depth = 3;
                return Some(Event::Stray);
            }
            _ if self.in_list => {
                self.is_bracketed = matches!(byte, b'{' | b'[');
                self.open.reset();
                self.entry = Some(OpenEntry { start: at, skipped: None });
            }
            b'"' => {
                self.word.clear();
                self.string = Some(NextByte::Plain);
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
    fn in_string(&mut self, bytes: &[u8], at: &mut usize, next: NextByte) -> Option<()> {
        if next == NextByte::Escaped {
            bytes.get(*at)?;
            *at += 1;
            self.string = Some(NextByte::Plain);
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
                        self.string = Some(NextByte::Escaped);
                        return None;
                    }
                }
            }
        }
    }

    fn entry_ends(&mut self, end: usize) -> Option<Event> {
        let entry = self.entry.take()?;
        Some(match entry.skipped {
            Some(offset) => Event::TooLarge { offset },
            None => Event::Entry(entry.start..end),
        })
    }
}
