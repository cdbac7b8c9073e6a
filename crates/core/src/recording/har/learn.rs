//! The layout of an entry, taken from one that was read.

use std::ops::Range;

use super::entry::Entry;
use super::layout::{Has, Piece, Side, Slot, Value};
use super::quick;
use super::walk::Walk;
use crate::headers::{Headers, NameKind};

/// A layout has no more values than this.
const MOST_VALUES: usize = 400;

/// Of the text between values, a layout has no more than this.
const LONGEST: usize = 16 << 10;

/// Takes an entry apart into what stands between its values, and what these are.
pub(super) struct Learning<'t> {
    text: &'t str,
    /// Where values stand that are asked for: strings by their first byte behind the quotation mark.
    slots: Vec<(usize, Slot)>,
    /// Where names of header fields stand, and whose they are.
    names: Vec<(usize, Side)>,
    /// Where objects and lists stand that nobody looks into, in their order.
    skipped: Vec<Range<usize>>,
    pieces: Vec<Piece>,
    /// What stands between values begins here.
    from: usize,
    length: usize,
    /// The name that a header field's value is awaited for.
    name: Option<(Range<usize>, Side)>,
}

impl<'t> Learning<'t> {
    pub(super) fn of(text: &'t str, entry: &Entry<'_>) -> Option<Vec<Piece>> {
        let mut learning = Self {
            text,
            slots: Vec::new(),
            names: Vec::new(),
            skipped: quick::skipped(text)?,
            pieces: Vec::new(),
            from: 0,
            length: 0,
            name: None,
        };
        learning.roles(entry)?;
        learning.walk()?;
        let response = entry.response.as_ref();
        let post_data = entry.request.post_data.as_ref();
        let has = Has {
            response: response.is_some(),
            post_data: post_data.is_some(),
            params: post_data.is_some_and(|data| data.params),
            content: response.is_some_and(|response| response.content.is_some()),
        };
        learning.piece(text.len(), Value::End(has))?;
        Some(learning.pieces)
    }

    /// Where a text stands that was borrowed from the entry.
    fn place(&self, part: &str) -> Option<usize> {
        let at = (part.as_ptr() as usize).checked_sub(self.text.as_ptr() as usize)?;
        (self.text.get(at..at + part.len())? == part).then_some(at)
    }

    fn role(&mut self, part: Option<&str>, slot: Slot) -> Option<()> {
        if let Some(part) = part {
            let at = self.place(part)?;
            // A literal begins with its quotation mark; words are not learned.
            let inner = match part.as_bytes().first() {
                Some(b'"') => at + 1,
                Some(b't' | b'f' | b'n') => return None,
                _ => at,
            };
            self.slots.push((inner, slot));
        }
        Some(())
    }

    /// The same for a text without its quotation marks.
    fn text_role(&mut self, part: Option<&str>, slot: Slot) -> Option<()> {
        if let Some(part) = part {
            let at = self.place(part)?;
            self.slots.push((at, slot));
        }
        Some(())
    }

    fn roles(&mut self, entry: &Entry<'_>) -> Option<()> {
        let Entry { request, response, time, timings } = entry;
        self.text_role(Some(&request.method), Slot::Method)?;
        self.text_role(Some(&request.url), Slot::Url)?;
        self.role(request.body_size.map(|raw| raw.0), Slot::RequestSize)?;
        if let Some(data) = &request.post_data {
            self.text_role(data.mime_type.as_ref().map(|text| &*text.0), Slot::PostMime)?;
            self.role(data.text.map(|raw| raw.0), Slot::PostText)?;
            self.text_role(data.encoding.as_ref().map(|text| &*text.0), Slot::PostEncoding)?;
        }
        self.fields(&request.headers, Side::Request)?;
        if let Some(response) = response {
            // A status that is text is looked at more closely than a layout does.
            if response.status.0.starts_with('"') {
                return None;
            }
            self.role(Some(response.status.0), Slot::Status)?;
            self.role(response.body_size.map(|raw| raw.0), Slot::AnswerSize)?;
            self.role(response.error.map(|raw| raw.0), Slot::Error)?;
            if let Some(content) = &response.content {
                self.text_role(content.mime_type.as_ref().map(|text| &*text.0), Slot::Mime)?;
                self.role(content.size.map(|raw| raw.0), Slot::Size)?;
                self.role(content.text.map(|raw| raw.0), Slot::Text)?;
                self.text_role(content.encoding.as_ref().map(|text| &*text.0), Slot::Encoding)?;
            }
            self.fields(&response.headers, Side::Answer)?;
        }
        self.role(time.map(|raw| raw.0), Slot::Time)?;
        self.role(timings.map(|raw| raw.0), Slot::Timings)?;
        Some(())
    }

    fn fields(&mut self, headers: &Headers<'_>, side: Side) -> Option<()> {
        for (name, _) in headers.iter() {
            let at = self.place(name)?;
            self.names.push((at, side));
        }
        // Each is looked for again, so a message of a million fields would take for ever.
        (self.names.len() <= MOST_VALUES).then_some(())
    }

    /// Goes from value to value.
    fn walk(&mut self) -> Option<()> {
        let mut walk = Walk::of(self.text);
        while let Some(byte) = self.text.as_bytes().get(walk.at).copied() {
            let start = walk.at;
            match byte {
                b'"' => {
                    walk.at += 1;
                    walk.rest_of_string()?;
                    let inner = start + 1..walk.at;
                    self.string(inner, walk.is_before_colon())?;
                }
                b'{' | b'[' if self.is_skipped(start) => {
                    walk.whole()?;
                    self.piece(start, Value::Whole(self.slot(start)))?;
                    self.from = walk.at;
                }
                b'-' | b'0'..=b'9' => {
                    walk.number()?;
                    let slot = self.slot(start);
                    self.piece(start, Value::Number(slot))?;
                    self.from = walk.at;
                }
                _ => walk.at += 1,
            }
        }
        Some(())
    }

    fn string(&mut self, inner: Range<usize>, is_member: bool) -> Option<()> {
        if is_member {
            return Some(());
        }
        let name = self.names.iter().find(|(at, _)| *at == inner.start);
        if let Some((_, side)) = name {
            self.name = Some((inner, *side));
            return Some(());
        }
        let value = match &self.name {
            Some((name, side)) => Value::Field(*side, NameKind::of(self.text.get(name.clone())?)),
            None => Value::Text(self.slot(inner.start)),
        };
        self.piece(inner.start, value)?;
        self.from = inner.end;
        Some(())
    }

    fn is_skipped(&self, at: usize) -> bool {
        self.skipped.binary_search_by_key(&at, |skipped| skipped.start).is_ok()
    }

    fn slot(&self, at: usize) -> Slot {
        let found = self.slots.iter().find(|(place, _)| *place == at);
        found.map_or(Slot::Other, |(_, slot)| *slot)
    }

    /// Ends a text with the value that stands behind it.
    fn piece(&mut self, to: usize, value: Value) -> Option<()> {
        let here = self.from..to;
        self.length += here.len();
        if self.pieces.len() >= MOST_VALUES || self.length > LONGEST {
            return None;
        }
        let place = |at: usize| u32::try_from(at.checked_sub(here.start)?).ok();
        let name = match self.name.take() {
            // A field whose name and value are further apart is not as usual.
            Some((name, _)) => place(name.start)?..place(name.end)?,
            None => 0..0,
        };
        self.pieces.push(Piece { text: here, name, value });
        Some(())
    }
}
