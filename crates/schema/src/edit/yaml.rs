//! The outline of a YAML document.

use std::ops::Range;

use saphyr_parser::{Event, Parser, ScalarStyle, Span};

use super::outline::{Content, Entry, Mapping, OutlineNode};

/// As deep as YAML is read.
const MOST_NESTED: usize = 127;

/// The outline of a text's first document.
///
/// # Errors
/// What is wrong, with line and column.
pub(super) fn outline(text: &str) -> Result<OutlineNode, String> {
    let places = BytePlaces::of(text);
    let mut reader = OutlineReader { text, places, open: Vec::new(), whole: None };
    for event in Parser::new_from_str(text) {
        let (event, span) = event.map_err(|error| error.to_string())?;
        if matches!(event, Event::DocumentEnd) {
            break;
        }
        reader.event(&event, span)?;
    }
    reader.whole.ok_or_else(|| "it is empty".to_owned())
}

/// The bytes at which characters stand.
enum BytePlaces {
    /// Each character is a byte.
    Same,
    Bytes(Vec<usize>),
}

impl BytePlaces {
    fn of(text: &str) -> Self {
        if text.is_ascii() {
            return Self::Same;
        }
        let bytes = text.char_indices().map(|(at, _)| at).chain([text.len()]);
        Self::Bytes(bytes.collect())
    }

    fn byte(&self, character: usize) -> usize {
        match self {
            Self::Same => character,
            Self::Bytes(bytes) => bytes.get(character).or(bytes.last()).copied().unwrap_or(0),
        }
    }
}

struct OutlineReader<'t> {
    text: &'t str,
    places: BytePlaces,
    open: Vec<OpenNode>,
    whole: Option<OutlineNode>,
}

/// A list or a mapping that has not ended yet.
struct OpenNode {
    start: usize,
    is_shared: bool,
    is_flow: bool,
    /// Behind what was read of it last.
    end: usize,
    /// None for a list.
    mapping: Option<Mapping>,
    /// The key whose value comes next.
    key: Option<(String, Range<usize>)>,
}

impl OutlineReader<'_> {
    fn event(&mut self, event: &Event<'_>, span: Span) -> Result<(), String> {
        let span = self.places.byte(span.start.index())..self.places.byte(span.end.index());
        match event {
            Event::Scalar(text, style, anchor, _) => {
                let is_empty = text.is_empty() && *style == ScalarStyle::Plain;
                let span = match style {
                    ScalarStyle::Literal | ScalarStyle::Folded => self.block_scalar(span),
                    _ => span,
                };
                let content = if is_empty { Content::Empty } else { Content::Other };
                let node = OutlineNode { span, content, is_shared: *anchor > 0 };
                self.add(node, Some(text.as_ref()))
            }
            Event::Alias(_) => {
                self.add(OutlineNode { span, content: Content::Other, is_shared: true }, None)
            }
            Event::SequenceStart(anchor, _) => self.begin(span.start, *anchor, None),
            Event::MappingStart(anchor, _) => {
                self.begin(span.start, *anchor, Some(Mapping::default()))
            }
            Event::SequenceEnd | Event::MappingEnd => {
                let Some(open) = self.open.pop() else { return Ok(()) };
                let end = if open.is_flow { self.flow_end(span) } else { open.end };
                let is_flow = open.is_flow;
                let content = match open.mapping {
                    Some(mapping) => Content::Mapping(Mapping { is_flow, ..mapping }),
                    None => Content::Other,
                };
                self.add(
                    OutlineNode { span: open.start..end, content, is_shared: open.is_shared },
                    None,
                )
            }
            _ => Ok(()),
        }
    }

    fn begin(
        &mut self,
        start: usize,
        anchor: usize,
        mapping: Option<Mapping>,
    ) -> Result<(), String> {
        if self.open.len() >= MOST_NESTED {
            return Err(format!("nested more than {MOST_NESTED} levels deep"));
        }
        let is_flow = self.text.get(start..).is_some_and(|rest| rest.starts_with(['{', '[']));
        let is_shared = anchor > 0;
        self.open.push(OpenNode { start, is_shared, is_flow, end: start, mapping, key: None });
        Ok(())
    }

    /// A value that has ended; `text` is a scalar's, which may be a key.
    fn add(&mut self, node: OutlineNode, text: Option<&str>) -> Result<(), String> {
        let Some(open) = self.open.last_mut() else {
            self.whole = Some(node);
            return Ok(());
        };
        let Some(mapping) = &mut open.mapping else {
            open.end = open.end.max(node.span.end);
            return Ok(());
        };
        match open.key.take() {
            None => {
                let name = text.ok_or("a key that is not a plain scalar")?.to_owned();
                open.end = open.end.max(node.span.end);
                open.key = Some((name, node.span));
            }
            Some((name, key)) => {
                let is_empty = matches!(node.content, Content::Empty);
                let span = if is_empty { key.end..key.end } else { node.span.clone() };
                // Behind the colon, where there is no value.
                let behind = self.text.get(key.end..).and_then(|rest| rest.find(':'));
                let end = if is_empty { key.end + behind.map_or(0, |at| at + 1) } else { span.end };
                open.end = open.end.max(end);
                mapping.entries.push(Entry { name, key, value: OutlineNode { span, ..node } });
            }
        }
        Ok(())
    }

    /// A block scalar to the end of its last line that counts.
    fn block_scalar(&self, span: Range<usize>) -> Range<usize> {
        let before = self.text.get(..span.start).unwrap_or_default();
        let text = self.text.get(span.clone()).unwrap_or_default();
        // `|+` keeps the blank lines at its end.
        let kept = match before.trim_end().ends_with('+') {
            true => text.rsplit_once('\n').map_or(text, |(kept, _)| kept.trim_end_matches('\r')),
            false => text.trim_end(),
        };
        span.start..span.start + kept.len()
    }

    /// Where a flow collection ends whose last token stands here: behind a comma there may be more than that.
    fn flow_end(&self, span: Range<usize>) -> usize {
        let mut rest = self.text.get(span.start..).unwrap_or_default();
        loop {
            rest = rest.trim_start_matches(|c: char| c == ',' || c.is_whitespace());
            match rest.strip_prefix('#') {
                Some(comment) => rest = comment.split_once('\n').map_or("", |(_, rest)| rest),
                None if rest.starts_with(['}', ']']) => return self.text.len() - rest.len() + 1,
                None => return span.end,
            }
        }
    }
}
