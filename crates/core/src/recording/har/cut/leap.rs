//! Finds where entries end by what stands between them.
//!
//! Recorders write the same between all entries: the bracket that ends one, a comma, perhaps white space, and the
//! beginning of the next. In JSON that text can't stand in a string, since its quotation marks would be
//! escaped. But it can stand within an entry, in a list of things that begin as entries do; and an entry may be
//! broken. So what was leapt over is as it seems only if each piece of it is found to be whole.

use std::ops::Range;

use memchr::memmem::Finder;

use super::regain::KEPT;

/// So many entries in a row have to have the same before them until that is relied on.
const STEADY: u32 = if cfg!(fuzzing) { 3 } else { 32 };

/// What stands between entries, as far as it is known.
#[derive(Debug, Default)]
pub(super) struct Leap {
    /// The bracket that ends an entry, and all up to the name of the next one's first member.
    between: Option<Finder<'static>>,
    /// How many entries had that before them.
    count: u32,
    /// Where the last entry ended in the recording.
    end: u64,
}

impl Leap {
    /// Learns from an entry that was found by its brackets; `offset` is its place in the recording, `name` the usual
    /// name of an entry's first member.
    pub(super) fn learn(&mut self, bytes: &[u8], entry: &Range<usize>, offset: u64, name: &[u8]) {
        if self.count >= STEADY {
            return;
        }
        let before = offset.checked_sub(self.end).and_then(|before| usize::try_from(before).ok());
        let before = before.filter(|before| *before < KEPT);
        self.end = offset + entry.len() as u64;
        // A batch may begin behind what would have to be seen.
        let Some(from) = before.and_then(|before| entry.start.checked_sub(before + 1)) else {
            return;
        };
        let between =
            bytes.get(from..entry.end).and_then(|text| between(text, entry.start - from, name));
        match (&self.between, between) {
            (Some(known), Some(between)) if known.needle() == between => self.count += 1,
            (_, between) => {
                self.between = between.map(|text| Finder::new(text).into_owned());
                self.count = 0;
            }
        }
    }

    /// The next entry, if one begins here as usual and what usually ends one comes behind it.
    pub(super) fn next(&self, bytes: &[u8], from: usize) -> Option<Range<usize>> {
        let between = self.between.as_ref().filter(|_| self.count >= STEADY)?;
        let beginning = between.needle().get(1..)?;
        let rest = bytes.get(from..)?;
        if !rest.starts_with(beginning) {
            return None;
        }
        let start = beginning.iter().position(|byte| *byte == b'{')?;
        let end = beginning.len() + between.find(rest.get(beginning.len()..)?)?;
        Some(from + start..from + end + 1)
    }
}

/// What stands between two entries: of the text from the last byte of one, and the place in it where the next starts.
fn between<'t>(text: &'t [u8], start: usize, name: &[u8]) -> Option<&'t [u8]> {
    let (gap, entry) = text.split_at_checked(start)?;
    let (last, gap) = gap.split_first()?;
    let is_gap = |byte: &u8| matches!(byte, b',' | b' ' | b'\t' | b'\r' | b'\n');
    let inner = entry.strip_prefix(b"{")?.trim_ascii_start();
    let is_usual =
        *last == b'}' && gap.iter().all(is_gap) && !name.is_empty() && inner.starts_with(name);
    let length = text.len() - inner.len() + name.len();
    text.get(..length).filter(|_| is_usual)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Learns from so many entries, written so.
    fn learned(text: &[u8], entry: &[u8], count: usize) -> Leap {
        let mut leap = Leap::default();
        let bytes = text.repeat(count);
        let start = text.windows(entry.len()).position(|part| part == entry).unwrap();
        for at in 0..count {
            let start = at * text.len() + start;
            leap.learn(&bytes, &(start..start + entry.len()), start as u64, b"\"a\"");
        }
        leap
    }

    #[test]
    fn an_entry_is_leapt_over_once_many_looked_the_same() {
        let (text, entry) = (b",\n  { \"a\": 1}", b"{ \"a\": 1}");
        let rest = b",\n  { \"a\": [\"},\"]},\n  { \"a\": 2},\n  {";
        assert_eq!(learned(text, entry, 33).next(rest, 0), None);
        let leap = learned(text, entry, 50);
        let first = leap.next(rest, 0).unwrap();
        assert_eq!(rest.get(first.clone()), Some(&b"{ \"a\": [\"},\"]}"[..]));
        // Behind the second, nothing comes that says where it ends.
        assert_eq!(leap.next(rest, first.end), None);
        // Nor is one leapt over that begins otherwise.
        assert_eq!(leap.next(rest, 1), None);
        assert_eq!(leap.next(rest, rest.len() + 1), None);
    }

    #[test]
    fn what_is_unusual_is_not_learned() {
        for (text, entry) in [
            (&b",[\"a\", 1]"[..], &b"[\"a\", 1]"[..]),
            (b",{\"b\": 1}", b"{\"b\": 1}"),
            (b"x{\"a\": 1}", b"{\"a\": 1}"),
        ] {
            assert!(learned(text, entry, 50).between.is_none());
        }
    }
}
