//! The walk through a file's brackets and strings, as far as the entries of `log.entries`.

use std::ops::Range;

use memchr::memchr2;

/// Where the walk through the file's brackets and strings stands. It survives from read to read.
#[derive(Debug, Default)]
pub(super) struct Walk {
    /// Brackets open outside of an entry.
    pub(super) depth: u32,
    pub(super) string: Option<Escape>,
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
    pub(super) entry: Option<Entry>,
    /// The brackets that are to close within the entry, the innermost last.
    open: Vec<u8>,
}

#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) enum Escape {
    No,
    /// The next byte is escaped.
    Next,
}

/// An entry that has started and not ended.
#[derive(Debug)]
pub(super) struct Entry {
    pub(super) start: usize,
    /// Its offset in the file, once it was found to be too large.
    pub(super) skipped: Option<u64>,
}

pub(super) enum Step {
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
    pub(super) fn is_untouched(&self) -> bool {
        self.depth == 0 && !self.closed
    }

    /// Walks on to the end of the next entry; `None` at the end of `bytes`.
    pub(super) fn next(&mut self, bytes: &[u8], at: &mut usize) -> Option<Step> {
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
