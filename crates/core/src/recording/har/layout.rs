//! Layouts that were learned from entries before.
//!
//! A recorder writes the same members in the same order, entry after entry; what differs are the values. So an entry that
//! was read the quick way leaves its layout behind: what stands between the values, to the byte, and what each value is.
//! The next entry of that layout is read by comparing what is between its values and taking those that are asked for.
//! Layouts share their beginnings, as a tree, so it takes one walk whatever layout it is.
//!
//! Between the values, an entry of a known layout is the same text as one that was read before. So what comes of it is
//! what the quick way would have read. Where values are the same in entry after entry, too, one comparison does for all of
//! them (`steady`).

use std::ops::Range;

use super::entry::Entry;
use super::learn::Learning;
use super::steady::{Run, Settling};
use super::taken::Taken;
use super::walk::Walk;
use crate::headers::NameKind;

/// So many layouts are learned; a recorder has one for each set of header fields.
const MOST_LAYOUTS: usize = 64;

/// The layouts that are known.
///
/// A layout is a chain of nodes; those that begin alike share their first nodes. Nodes of a chain and their texts stand one
/// behind the other, so that going along them is reading on.
#[derive(Debug)]
pub(in crate::recording) struct Layouts {
    nodes: Vec<Node>,
    texts: Vec<u8>,
    /// The first of the nodes that an entry can begin with.
    first: u32,
    count: usize,
    /// Nodes whose values stay the same.
    runs: Vec<Run>,
    settling: Settling,
}

/// No node, or no run.
pub(super) const NONE: u32 = u32::MAX;

/// Some text, and the value behind it.
#[derive(Debug)]
pub(super) struct Node {
    /// Where its text begins, and how long it is.
    text: u32,
    length: u32,
    /// The name of a header field in the text, if the value is one's.
    pub(super) name: Range<u32>,
    pub(super) value: Value,
    /// The first of the nodes that can come next, and the next of those that can stand here.
    pub(super) next: u32,
    beside: u32,
    /// The run that begins here.
    run: u32,
}

/// The same while it is learned.
#[derive(Debug, Clone)]
pub(super) struct Piece {
    pub(super) text: Range<usize>,
    pub(super) name: Range<u32>,
    pub(super) value: Value,
}

impl Default for Layouts {
    fn default() -> Self {
        Self {
            nodes: Vec::new(),
            texts: Vec::new(),
            first: NONE,
            count: 0,
            runs: Vec::new(),
            settling: Settling::default(),
        }
    }
}

/// The value behind a text.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Value {
    /// A header field's.
    Field(Side, NameKind),
    Text(Slot),
    Number(Slot),
    /// An object or a list, as it stands there.
    Whole(Slot),
    /// None: here the entry ends.
    End(Has),
}

impl Value {
    pub(super) fn is_asked_for(self) -> bool {
        !matches!(
            self,
            Self::Text(Slot::Other) | Self::Number(Slot::Other) | Self::Whole(Slot::Other)
        )
    }
}

/// Whose header field a value belongs to.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Side {
    Request,
    Answer,
}

/// What a value is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Slot {
    /// Nothing that anybody asks for.
    Other,
    Method,
    Url,
    RequestSize,
    PostMime,
    PostText,
    PostEncoding,
    Status,
    AnswerSize,
    Mime,
    Size,
    Text,
    Encoding,
    Error,
    Time,
    Timings,
}

/// What an entry has, whatever the values in it are.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Has {
    pub(super) response: bool,
    pub(super) post_data: bool,
    pub(super) params: bool,
    pub(super) content: bool,
}

impl Layouts {
    /// Reads an entry, if its layout is known. `string` is one of its strings of which the end is known.
    pub(super) fn read<'a>(&mut self, text: &'a str, string: Range<usize>) -> Option<Entry<'a>> {
        if self.settling.is_over() {
            return self.walk(text, string, &mut Settled);
        }
        let mut settling = std::mem::take(&mut self.settling);
        let entry = self.walk(text, string, &mut settling.look(text));
        settling.end(entry.is_some());
        if settling.is_over() {
            self.settle(&mut settling);
        }
        self.settling = settling;
        entry
    }

    fn walk<'a>(
        &self,
        text: &'a str,
        string: Range<usize>,
        looking: &mut impl Looking,
    ) -> Option<Entry<'a>> {
        let mut walk = Walk::knowing(text, string);
        let mut taken = Taken::new();
        let mut next = self.first;
        loop {
            let (at, node) = (walk.at, self.nodes.get(next as usize)?);
            if let Some(run) = self.runs.get(node.run as usize)
                && looking.takes_runs()
                && walk.has(&run.text)
            {
                for part in &run.parts {
                    taken.part(text, at, part)?;
                }
                walk.at = at + run.length();
                next = run.next;
                continue;
            }
            let start = node.text as usize;
            let between = self.texts.get(start..start + node.length as usize)?;
            let value = if walk.has(between) {
                walk.at = at + between.len();
                match node.value {
                    Value::Number(slot) => walk.number().map(|number| taken.raw(slot, number)),
                    Value::Whole(slot) => walk.whole().map(|whole| taken.raw(slot, whole)),
                    Value::Text(slot) => walk.rest_of_string().map(|text| taken.text(slot, text)),
                    Value::Field(side, kind) => walk
                        .rest_of_string()
                        .map(|value| taken.field(side, kind, text, at, &node.name, value)),
                    Value::End(has) if walk.at == text.len() => return taken.entry(has),
                    Value::End(_) => None,
                }
            } else {
                None
            };
            let Some(value) = value else {
                walk.at = at;
                next = node.beside;
                continue;
            };
            // A value that can't be taken is for others to read.
            value?;
            looking.value(next, at + between.len()..walk.at);
            next = node.next;
        }
    }

    /// Takes in what stays the same.
    fn settle(&mut self, settling: &mut Settling) {
        let runs = settling.settle(&self.nodes, |node| self.between(node));
        self.runs.clear();
        for (start, run) in runs {
            if let Some(node) = self.nodes.get_mut(start) {
                node.run = place(self.runs.len());
                self.runs.push(run);
            }
        }
    }

    fn between(&self, node: &Node) -> &[u8] {
        let start = node.text as usize;
        self.texts.get(start..start + node.length as usize).unwrap_or_default()
    }

    /// Learns the layout of an entry that was read the quick way, if it is one that can be learned.
    pub(super) fn learn(&mut self, text: &str, entry: &Entry<'_>) {
        if self.count >= MOST_LAYOUTS {
            return;
        }
        self.count += 1;
        let Some(layout) = Learning::of(text, entry) else { return };
        // It is only known if it reads what was read.
        let mut alone = Self::default();
        alone.add(text, &layout);
        if alone.walk(text, 0..0, &mut Settled).as_ref() == Some(entry) {
            self.add(text, &layout);
            self.settling.begin_anew();
            self.nodes.iter_mut().for_each(|node| node.run = NONE);
        }
    }

    fn add(&mut self, text: &str, layout: &[Piece]) {
        let mut above = NONE;
        for piece in layout {
            let between = text.as_bytes().get(piece.text.clone()).unwrap_or_default();
            above = match self.known(above, between, piece) {
                Ok(known) => known,
                Err(last) => self.new_node(above, last, between, piece),
            };
        }
    }

    fn of(&self, node: u32) -> Option<&Node> {
        self.nodes.get(node as usize)
    }

    /// The node below another that is the same; else the last of those that are there.
    fn known(&self, above: u32, between: &[u8], piece: &Piece) -> Result<u32, u32> {
        let mut here = self.of(above).map_or(self.first, |above| above.next);
        if above != NONE && here == NONE {
            return Err(NONE);
        }
        let mut last = NONE;
        while let Some(node) = self.of(here) {
            let is_same = self.between(node) == between
                && (&node.name, node.value) == (&piece.name, piece.value);
            if is_same {
                return Ok(here);
            }
            (last, here) = (here, node.beside);
        }
        Err(last)
    }

    fn new_node(&mut self, above: u32, last: u32, between: &[u8], piece: &Piece) -> u32 {
        let Piece { text: _, name, value } = piece.clone();
        let (new, start) = (place(self.nodes.len()), place(self.texts.len()));
        self.texts.extend_from_slice(between);
        let (text, length) = (start, place(between.len()));
        let node = Node { text, length, name, value, next: NONE, beside: NONE, run: NONE };
        self.nodes.push(node);
        if let Some(last) = self.nodes.get_mut(last as usize) {
            last.beside = new;
        } else if let Some(above) = self.nodes.get_mut(above as usize) {
            above.next = new;
        } else {
            self.first = new;
        }
        new
    }
}

/// Limits on layouts keep all places in them far below 32 bits.
fn place(length: usize) -> u32 {
    u32::try_from(length).unwrap_or(NONE)
}

/// What is done on the way besides reading.
pub(super) trait Looking {
    /// May runs be taken in one step?
    fn takes_runs(&self) -> bool;
    /// Looks at the value of a node.
    fn value(&mut self, node: u32, place: Range<usize>);
}

/// Nothing more is to be learned of values.
struct Settled;

impl Looking for Settled {
    #[inline]
    fn takes_runs(&self) -> bool {
        true
    }

    #[inline]
    fn value(&mut self, _: u32, _: Range<usize>) {}
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::recording::har::quick;
    use proptest::prelude::*;

    const ENTRY: &str = r#"{"startedDateTime":"2027-03-08T09:01:03.000Z","time":12.5,"request":{"method":"POST","url":"https://h.example/x?a=1","httpVersion":"HTTP/1.1","cookies":[{"name":"c","value":"d"}],"headers":[{"name":"Host","value":"h.example"},{"name":"Content-Type","value":"application/json"}],"queryString":[{"name":"a","value":"1"}],"headersSize":40,"postData":{"mimeType":"application/json","text":"{\"a\": 1}","params":[]},"bodySize":8},"response":{"status":422,"statusText":"No","headers":[{"name":"ETag","value":"\"x\""},{"name":"Content-Type","value":"application/json"}],"cookies":[],"content":{"size":2,"mimeType":"application/json","text":"{}"},"redirectURL":"","headersSize":-1,"bodySize":2,"_error":"odd"},"cache":{},"timings":{"send":0,"wait":3.25,"receive":1},"_private":[true,null,{"x":"y"}]}"#;

    fn learned(texts: &[&str]) -> Layouts {
        let mut layouts = Layouts::default();
        for text in texts {
            layouts.learn(text, &quick::entry(text).unwrap());
        }
        layouts
    }

    #[test]
    fn what_was_learned_reads_other_values() {
        let pretty = ENTRY.replace(",\"", ",\n  \"").replace(':', ": ");
        let get = r#"{"request":{"method":"GET","url":"/","headers":[]},"response":null,"time":1}"#;
        let mut layouts = learned(&[ENTRY, &pretty, get]);
        for (text, old, new) in [
            (ENTRY, "2027-03-08T09:01:03.000Z", "x"),
            (ENTRY, "12.5", "-1"),
            (ENTRY, "POST", "PUT"),
            (ENTRY, "h.example/x", "h.example\\/y\\u00e9"),
            (ENTRY, "\"value\":\"h.example\"", "\"value\":\"\""),
            (ENTRY, r#"{\"a\": 1}"#, ""),
            (ENTRY, "422", "201"),
            (ENTRY, "\"size\":2", "\"size\":123456"),
            (ENTRY, "3.25", "0"),
            (ENTRY, "odd", "\\\\"),
            (ENTRY, r#""cookies":[]"#, r#""cookies":[{"name":"]"}]"#),
            (ENTRY, r#"{"name":"a","value":"1"}"#, r#"{"name":"a","value":"1"},{}"#),
            (ENTRY, "[true,null", "[null,{}"),
            (ENTRY, r#""send":0"#, r#""send":{}"#),
            (&pretty, "\"wait\": 3.25", "\"wait\": [\n]"),
            (&pretty, "422", "500"),
            (get, "GET", "HEAD"),
        ] {
            let other = text.replace(old, new);
            assert_ne!(other, text);
            let quick = quick::entry(&other);
            assert!(quick.is_some(), "{other}");
            assert_eq!(layouts.read(&other, 0..0), quick, "{other}");
        }
    }

    /// Layouts for which it is settled that only the status differs.
    fn settled() -> Layouts {
        let mut layouts = learned(&[ENTRY]);
        for status in 400..450 {
            let other = ENTRY.replace("422", &status.to_string());
            assert_eq!(layouts.read(&other, 0..0), quick::entry(&other));
        }
        assert!(!layouts.runs.is_empty());
        layouts
    }

    /// As many layouts as are learned, each with as many and as long values as can be.
    #[test]
    fn what_stays_the_same_is_held_within_bounds() {
        let field =
            |name: usize| format!(r#"{{"name":"{name:03}","value":"{}"}}"#, "v".repeat(290));
        let entry = |first: usize| {
            let fields: Vec<String> = (0..300).map(|at| field(first * 300 + at)).collect();
            format!(
                r#"{{"request":{{"method":"GET","url":"/","headers":[{}]}},"response":null}}"#,
                fields.join(",")
            )
        };
        let mut layouts = Layouts::default();
        let entries: Vec<String> = (0..MOST_LAYOUTS).map(entry).collect();
        entries.iter().for_each(|text| layouts.learn(text, &quick::entry(text).unwrap()));
        for text in entries.iter().cycle().take(40 * MOST_LAYOUTS) {
            assert_eq!(layouts.read(text, 0..0), quick::entry(text));
        }
        let held: usize = layouts.runs.iter().map(|run| run.text.len()).sum();
        assert!((1..=256 << 10).contains(&held), "{held}");
    }

    #[test]
    fn where_values_stay_the_same_others_are_read_all_the_same() {
        let mut layouts = settled();
        for (old, new) in [
            ("422", "500"),
            ("h.example\"},", "h.example.org\"},"),
            ("h.example\"},", "h\"},"),
            ("h.example\"},", "\"},"),
            ("\"value\":\"h.example", "\"value\":\"h.\\u0065xample"),
            ("12.5", "12.55"),
            ("12.5", "12"),
            ("\"wait\":3.25", "\"wait\":4"),
            ("\"cookies\":[]", "\"cookies\":[[]]"),
            ("\"cache\":{}", "\"cache\":[{}]"),
            (r#"\"x\""#, r#"\"y\""#),
            (r#"{\"a\": 1}"#, r#"{\"a\": 1} "#),
            ("\"headersSize\":-1", "\"headersSize\":-12"),
            ("\"size\":2", "\"size\":22"),
        ] {
            let other = ENTRY.replace(old, new);
            assert_ne!(other, ENTRY);
            let quick = quick::entry(&other);
            assert!(quick.is_some(), "{other}");
            assert_eq!(layouts.read(&other, 0..0), quick, "{other}");
        }
    }

    #[test]
    fn another_layout_is_not_taken_for_a_known_one() {
        let mut layouts = learned(&[ENTRY]);
        for (old, new) in [
            ("\"cookies\":[]", "\"cookies\":null"),
            ("\"time\":12.5", "\"time\":\"12.5\""),
            ("\"time\":12.5", "\"time\":null"),
            ("\"time\":12.5", "\"time\":01"),
            ("\"name\":\"Host\"", "\"name\":\"Hosts\""),
            ("\"cache\":{}", "\"cache\":{"),
            ("\"params\":[]", "\"params\":[{}]"),
            ("\"status\":422", "\"status\":-"),
            ("{\"x\":\"y\"}]}", "{\"x\":\"y\"}]} "),
            ("{\"x\":\"y\"}]}", "{\"x\":\"y\"}]"),
        ] {
            let other = ENTRY.replace(old, new);
            assert_ne!(other, ENTRY);
            assert!(layouts.read(&other, 0..0).is_none(), "{other}");
        }
    }

    #[test]
    fn what_is_unusual_is_not_learned() {
        for (old, new) in [
            ("\"status\":422", "\"status\":\"422\""),
            ("\"POST\"", "\"PO\\u0053T\""),
            (
                "{\"name\":\"Host\",\"value\":\"h.example\"}",
                "{\"value\":\"h.example\",\"name\":\"Host\"}",
            ),
            (
                "{\"name\":\"Host\",\"value\":\"h.example\"}",
                "{\"name\":\"Host\",\"c\":\"\",\"value\":\"v\"}",
            ),
            ("{\"name\":\"Host\",\"value\":\"h.example\"}", "{\"name\":\"Host\"}"),
            ("\"timings\":{\"send\":0,\"wait\":3.25,\"receive\":1}", "\"timings\":true"),
        ] {
            let odd = ENTRY.replace(old, new);
            assert_ne!(odd, ENTRY);
            let layouts = learned(&[&odd]);
            assert!(layouts.nodes.is_empty(), "{odd}");
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(2000))]

        /// A byte more, less or other: a known layout reads what the quick way reads, or nothing.
        #[test]
        fn it_reads_what_the_quick_way_reads(
            at in 0..ENTRY.len(),
            byte in prop::sample::select(b"{}[]\",:0a-.en \\".to_vec()),
            how in 0..3,
            is_settled in any::<bool>(),
        ) {
            let mut layouts = if is_settled { settled() } else { learned(&[ENTRY]) };
            let mut bytes = ENTRY.as_bytes().to_vec();
            match how {
                0 => bytes[at] = byte,
                1 => bytes.insert(at, byte),
                _ => _ = bytes.remove(at),
            }
            let text = String::from_utf8(bytes).unwrap();
            if let Some(entry) = layouts.read(&text, 0..0) {
                prop_assert_eq!(Some(entry), quick::entry(&text), "{}", text);
            }
        }
    }
}
