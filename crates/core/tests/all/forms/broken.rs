//! The corpus cut at every byte, and broken in the middle: what can be read is, and the rest is named.

use super::corpus::{Tied, entries, expected, records};
use super::look::{lines, seen};
use super::whole::{forms, gzip};

const MARKS: [&str; 4] = ["(no response)", "(cut)", "(not kept)", "(not recorded)"];

fn says_so(line: &str) -> bool {
    MARKS.iter().any(|mark| line.contains(mark))
}

/// Nothing is made up: what was read of a cut recording is what stands there, or less of it.
fn is_part_of(line: &str, whole: &str) -> bool {
    let end = MARKS.iter().filter_map(|mark| line.find(mark)).min();
    let start = line.get(..end.unwrap_or(line.len())).unwrap_or_default();
    line == whole || (end.is_some() && whole.starts_with(start))
}

#[test]
fn cut_at_any_byte_nothing_is_made_up_and_nothing_whole_is_lost() {
    let all = expected();
    for (name, bytes) in forms() {
        let mut most = 0;
        for end in 0..bytes.len() {
            let seen = seen(&bytes[..end], 4096, 1);
            let read = lines(&seen);
            for line in &read {
                let number: usize = line.split_once(' ').unwrap().0.parse().unwrap();
                assert!(is_part_of(line, &all[number - 1]), "{name} cut at {end}: {line}");
            }
            let whole = read.iter().filter(|line| all.contains(line)).count();
            assert!(
                whole >= most || name.contains("gzip") || name.contains("zstd"),
                "{name} cut at {end}: {read:?}"
            );
            most = most.max(whole);
            let is_told = !seen.unreadable.is_empty() || read.iter().any(|line| says_so(line));
            // An archive, lines and messages may end behind any whole one.
            let may_end = ["lines", "HTTP", "WARC"].iter().any(|form| name.contains(form));
            assert!(is_told || may_end || whole == all.len(), "{name} cut at {end}: {seen:?}");
        }
    }
}

/// A byte broken anywhere costs no more than the exchange that it stands in, or the one behind it.
#[test]
fn broken_in_the_middle_the_others_are_read() {
    let all = expected();
    let members: Vec<Vec<u8>> =
        records(Tied::ByName).iter().map(|record| gzip(record.as_bytes())).collect();
    for broken in 1..members.len() {
        let mut packed = members.clone();
        let middle = packed[broken].len() / 2;
        packed[broken][middle] ^= 0xff;
        let seen = seen(&packed.concat(), usize::MAX, 1);
        let found = lines(&seen);
        let bodies: Vec<&str> = found.iter().map(|line| line.split_once(' ').unwrap().1).collect();
        let missed =
            all.iter().filter(|line| !bodies.contains(&line.split_once(' ').unwrap().1)).count();
        assert!(missed <= 1 && !seen.unreadable.is_empty(), "{broken}: {seen:?}");
    }
    for at in 0..5 {
        let mut lines_of = entries(false);
        lines_of[at].truncate(100);
        let seen = seen(lines_of.join("\n").as_bytes(), 7, 1);
        assert_eq!((seen.lines.len(), seen.unreadable.len()), (4, 1), "{seen:?}");
        assert_eq!(seen.unreadable[0].number, Some(at as u64 + 1));
    }
}

#[test]
fn what_is_no_recording_says_what_it_is() {
    for (bytes, words) in [
        (&b"<html></html>"[..], "begins with `<html></html`"),
        (b"[]", "begins with `[]`"),
        (b"\x1f\x8b\x08\x00", "reading failed"),
        (b"\xff\xfe{\x00", "this is not a recording"),
        (b"WARC/1.0\r\n\r\n", "no Content-Length"),
        (b"HTTP/1.1 200 OK\r\n\r\n{}", "a response without a request"),
        (b"{\"request\": 1}", "invalid type"),
    ] {
        let seen = seen(bytes, 3, 1);
        assert_eq!(seen.lines, []);
        assert!(
            seen.unreadable.iter().any(|unreadable| unreadable.reason.contains(words)),
            "{seen:?}"
        );
    }
}
