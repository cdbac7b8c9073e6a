//! Values that are the same in entry after entry: what a client always sends, and a service always answers.
//!
//! While a layout is new, the values of some entries are looked at. Nodes in a row whose values were always the same are put
//! together into a run: one text, with the values in it. An entry in which such a value is another all the same is read
//! node by node.

use std::ops::Range;

use super::layout::{Looking, NONE, Node, Value};

/// So many entries are looked at before it is settled what stays the same. A fuzzer has few.
const ENTRIES: u32 = if cfg!(fuzzing) { 3 } else { 32 };

/// A node that was seen less often says nothing.
const OFTEN: u32 = if cfg!(fuzzing) { 1 } else { 4 };

/// A value that is longer than this is none that stays the same.
const LONGEST: usize = 300;

/// A run is no longer than this: one byte that differs sends all of it back to be read node by node.
const LONGEST_RUN: usize = 1000;

/// All runs together, and all values that are compared, hold little more than this: nobody's recording makes them grow.
const MOST_HELD: usize = 256 << 10;

/// Some nodes in a row whose values stay the same.
#[derive(Debug)]
pub(super) struct Run {
    /// From the first byte of the first node's text to the last value, and the byte behind that: it shows that the value
    /// ends there.
    pub(super) text: Box<[u8]>,
    /// The values that are asked for.
    pub(super) parts: Box<[Part]>,
    /// The first of the nodes that can come next.
    pub(super) next: u32,
}

impl Run {
    /// How much of an entry it stands for.
    #[inline]
    pub(super) fn length(&self) -> usize {
        self.text.len() - 1
    }
}

/// A value in a run. All places are counted from where the run begins.
#[derive(Debug)]
pub(super) struct Part {
    pub(super) kind: Value,
    /// The name of the header field, if the value is one's.
    pub(super) name: Range<u32>,
    pub(super) value: Range<u32>,
    /// Has it no escapes, if it is text?
    pub(super) is_plain: bool,
}

/// Finds out which values stay the same.
#[derive(Debug, Default)]
pub(super) struct Settling {
    /// Of each node.
    values: Vec<Seen>,
    /// How many bytes they hold.
    held: usize,
    looked_at: u32,
}

/// What was seen of a node's value.
#[derive(Debug, Default, Clone)]
struct Seen {
    times: u32,
    varies: bool,
    /// The value, and the byte behind it.
    value: Vec<u8>,
}

/// One entry that is looked at.
pub(super) struct Look<'s, 't> {
    settling: &'s mut Settling,
    text: &'t [u8],
}

impl Looking for Look<'_, '_> {
    fn takes_runs(&self) -> bool {
        false
    }

    fn value(&mut self, node: u32, place: Range<usize>) {
        let node = node as usize;
        if self.settling.values.len() <= node {
            self.settling.values.resize(node + 1, Seen::default());
        }
        let Some(seen) = self.settling.values.get_mut(node) else { return };
        let value = self.text.get(place.start..=place.end).unwrap_or_default();
        if seen.times == 0 && value.len() <= LONGEST && self.settling.held < MOST_HELD {
            self.settling.held += value.len();
            seen.value = value.to_vec();
        }
        seen.varies |= value != seen.value;
        seen.times += 1;
    }
}

impl Settling {
    /// Is it known what stays the same?
    #[inline]
    pub(super) fn is_over(&self) -> bool {
        self.looked_at >= ENTRIES
    }

    /// There are new nodes.
    pub(super) fn begin_anew(&mut self) {
        self.looked_at = 0;
    }

    pub(super) fn look<'s, 't>(&'s mut self, text: &'t str) -> Look<'s, 't> {
        Look { settling: self, text: text.as_bytes() }
    }

    /// An entry was looked at.
    pub(super) fn end(&mut self, was_read: bool) {
        self.looked_at += u32::from(was_read);
    }

    /// The value of a node, if it stays the same, and the byte behind it.
    fn steady(&self, node: usize) -> Option<&[u8]> {
        let seen = self.values.get(node)?;
        (seen.times >= OFTEN && !seen.varies && !seen.value.is_empty()).then_some(&seen.value)
    }

    /// Puts nodes together whose values stay the same: each run with the node that it begins at. What was seen is forgotten.
    pub(super) fn settle<'n>(
        &mut self,
        nodes: &'n [Node],
        between: impl Fn(&'n Node) -> &'n [u8],
    ) -> Vec<(usize, Run)> {
        let (mut runs, mut held) = (Vec::new(), 0);
        for start in 0..nodes.len() {
            let Some(run) = self.run(start, nodes, &between) else { continue };
            held += run.text.len();
            if held > MOST_HELD {
                break;
            }
            runs.push((start, run));
        }
        (self.values, self.held) = (Vec::new(), 0);
        runs
    }

    /// The run that begins at a node, if one does.
    fn run<'n>(
        &self,
        start: usize,
        nodes: &'n [Node],
        between: &impl Fn(&'n Node) -> &'n [u8],
    ) -> Option<Run> {
        let (mut text, mut parts) = (Vec::new(), Vec::new());
        let (mut here, mut count) = (start, 0);
        let mut behind = 0;
        while let (Some(node), Some(value)) = (nodes.get(here), self.steady(here)) {
            let (last, value) = value.split_last()?;
            if text.len() + between(node).len() + value.len() > LONGEST_RUN {
                break;
            }
            let place = |at: usize| u32::try_from(text.len() + at).unwrap_or(NONE);
            let inside = |at: u32| place(at as usize);
            let length = between(node).len();
            if node.value.is_asked_for() {
                parts.push(Part {
                    kind: node.value,
                    name: inside(node.name.start)..inside(node.name.end),
                    value: place(length)..place(length + value.len()),
                    is_plain: !value.contains(&b'\\'),
                });
            }
            text.extend_from_slice(between(node));
            text.extend_from_slice(value);
            (here, count, behind) = (node.next as usize, count + 1, *last);
        }
        text.push(behind);
        let next = u32::try_from(here).ok()?;
        (count > 0).then(|| Run { text: text.into(), parts: parts.into(), next })
    }
}
