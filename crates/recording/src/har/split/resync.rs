//! Finds the way back behind a broken entry: where the next one starts.
//!
//! Recorders write the members of each entry in one order, so an entry starts with `{` and the name that
//! the first entry started with. Within a JSON string its quotes would be escaped, so what is found is
//! no text of somebody's.

use memchr::memmem;

/// Before any entry was read: the name that most recorders begin with.
const USUAL: &[u8] = b"\"startedDateTime\"";

/// Names of first members are not longer than this, nor is the white space before them.
pub(super) const KEPT: usize = 256;

/// The name of an entry's first member, in quotes.
pub(super) fn first_member(entry: &[u8]) -> Option<Vec<u8>> {
    let inner = entry.strip_prefix(b"{")?.trim_ascii_start();
    let name = inner.strip_prefix(b"\"")?;
    let length = name.iter().take(KEPT / 2).position(|byte| matches!(byte, b'"' | b'\\'))?;
    if name.get(length) != Some(&b'"') {
        return None;
    }
    inner.get(..length + 2).map(<[u8]>::to_vec)
}

/// The place of the next `{` behind which that name stands.
pub(super) fn find_start(bytes: &[u8], from: usize, name: &[u8]) -> Option<usize> {
    let name = if name.is_empty() { USUAL } else { name };
    let rest = bytes.get(from..)?;
    memmem::find_iter(rest, name).find_map(|at| {
        let before = rest.get(..at)?.trim_ascii_end();
        (before.last() == Some(&b'{')).then(|| from + before.len() - 1)
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_start_is_a_bracket_with_the_name_behind_it() {
        let name = first_member(b"{\n  \"time\": 1}").unwrap();
        assert_eq!(name, b"\"time\"");
        let bytes = br#""time", {"x":"{\"time\"", "time":1}, {  "time":2}"#;
        assert_eq!(
            find_start(bytes, 0, &name).map(|at| &bytes[at..]),
            Some(&br#"{  "time":2}"#[..])
        );
        assert_eq!(find_start(bytes, bytes.len(), &name), None);
        assert_eq!(first_member(b"{}"), None);
        assert_eq!(first_member(b"17"), None);
    }
}
