//! The text of a document, and what is put into it.

use std::ops::Range;

use serde_json::{Map, Value};

use super::layout::{block, flow, json_lines, line_indent, scalar};
use super::outline::{Content, Entry, Mapping, OutlineNode};
use super::{json, yaml};

/// The text of a document, with the places of its mappings.
#[derive(Debug)]
pub struct DocumentText<'t> {
    text: &'t str,
    root: OutlineNode,
    syntax: Syntax,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Syntax {
    Json,
    Yaml,
}

/// What became of a document's text.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct EditedText {
    /// The text with the changes.
    pub text: String,
    /// Where nothing could be changed, as a path and why not.
    pub left: Vec<(Vec<String>, &'static str)>,
}

/// A change that is to be made.
struct Edit {
    span: Range<usize>,
    text: String,
}

#[derive(Default)]
struct Edits {
    edits: Vec<Edit>,
    left: Vec<(Vec<String>, &'static str)>,
}

const SHARED: &str = "it stands in several places by an anchor";
const OTHER: &str = "it is no mapping";

impl<'t> DocumentText<'t> {
    /// Reads a document for its places.
    ///
    /// # Errors
    /// Why it can't be read.
    pub fn read(text: &'t str) -> Result<Self, String> {
        let is_json = text.trim_start_matches('\u{feff}').trim_start().starts_with(['{', '[']);
        if is_json && let Ok(root) = json::outline(text) {
            return Ok(Self { text, root, syntax: Syntax::Json });
        }
        Ok(Self { text, root: yaml::outline(text)?, syntax: Syntax::Yaml })
    }

    /// The text with more members, each behind those that are there, and with values in the places of others. Members that
    /// are there are kept, and what is to be added to them is added in them.
    #[must_use]
    pub fn edited(
        &self,
        additions: &Map<String, Value>,
        replacements: &[(Vec<String>, Value)],
    ) -> EditedText {
        let mut edits = Edits::default();
        self.add(&self.root, &mut Vec::new(), additions, &mut edits);
        for (path, value) in replacements {
            match self.replacement(path, value) {
                Ok(edit) => edits.edits.push(edit),
                Err(why) => edits.left.push((path.clone(), why)),
            }
        }
        let Edits { mut edits, left } = edits;
        edits.sort_by_key(|edit| edit.span.start);
        let mut text = self.text.to_owned();
        let breaks = if self.text.contains("\r\n") { "\r\n" } else { "\n" };
        // From the end, so that places before stay where they are. What ends in one place ends from the inside.
        for Edit { span, text: new } in edits.into_iter().rev() {
            text.replace_range(span, &new.replace('\n', breaks));
        }
        EditedText { text, left }
    }

    fn add(
        &self,
        node: &OutlineNode,
        path: &mut Vec<String>,
        additions: &Map<String, Value>,
        edits: &mut Edits,
    ) {
        let mapping = match (&node.content, node.is_shared) {
            (Content::Mapping(mapping), false) => mapping,
            (_, true) => return edits.left.push((path.clone(), SHARED)),
            _ => return edits.left.push((path.clone(), OTHER)),
        };
        let mut new = Vec::new();
        for (key, value) in additions {
            path.push(key.clone());
            match (mapping.entry(key), value) {
                (None, _) if mapping.merges() => edits.left.push((path.clone(), SHARED)),
                (None, value) => new.push((key, value)),
                (Some(entry), value) if matches!(entry.value.content, Content::Empty) => {
                    edits.edits.push(self.in_place_of(mapping, entry, value));
                }
                (Some(entry), Value::Object(more)) => self.add(&entry.value, path, more, edits),
                (Some(_), _) => edits.left.push((path.clone(), "it is there already")),
            }
            path.pop();
        }
        if !new.is_empty() {
            edits.edits.push(self.insertion(node, mapping, &new));
        }
    }

    /// New entries behind those of a mapping.
    fn insertion(&self, node: &OutlineNode, mapping: &Mapping, new: &[(&String, &Value)]) -> Edit {
        if mapping.is_flow {
            return self.flow_insertion(node, mapping, new);
        }
        let first = mapping.entries.first().map_or(node.span.start, |entry| entry.key.start);
        let indent = " ".repeat(self.column(first));
        let step = self.step(mapping);
        let end = node.span.end;
        let at = self.text.get(end..).and_then(|rest| rest.find('\n')).map(|to| end + to + 1);
        let mut text = String::new();
        if at.is_none() {
            text.push('\n');
        }
        for (key, value) in new {
            text.push_str(&block(key, value, &indent, &step));
        }
        if at.is_none() {
            text.pop();
        }
        let at = at.unwrap_or(self.text.len());
        Edit { span: at..at, text }
    }

    fn flow_insertion(
        &self,
        node: &OutlineNode,
        mapping: &Mapping,
        new: &[(&String, &Value)],
    ) -> Edit {
        let close = node.span.end.saturating_sub(1);
        let open_line = line_indent(self.text, node.span.start);
        let one = |key: &str, value: &Value, lines: Option<(&str, &str)>| match (self.syntax, lines)
        {
            (Syntax::Json, Some((indent, step))) => json_lines(key, value, indent, step),
            (Syntax::Json, None) => format!("{}:{value}", Value::from(key)),
            (Syntax::Yaml, _) => format!("{}: {}", scalar(key), flow(value)),
        };
        let Some((first, last)) = mapping.entries.first().zip(mapping.entries.last()) else {
            // An empty one, in a document that has lines or has not.
            let span = node.span.start + 1..close;
            if self.syntax == Syntax::Yaml || !self.text.trim().contains('\n') {
                let all: Vec<String> =
                    new.iter().map(|(key, value)| one(key, value, None)).collect();
                return Edit { span, text: all.join(", ") };
            }
            let step = self.usual_step();
            let indent = format!("{open_line}{step}");
            let all = new.iter().map(|(key, value)| one(key, value, Some((&indent, &step))));
            let all: Vec<String> = all.map(|text| format!("\n{indent}{text}")).collect();
            return Edit { span, text: format!("{}\n{open_line}", all.join(",")) };
        };
        let before = self.text.get(node.span.start..first.key.start).unwrap_or_default();
        let end = last.value.span.end.max(last.key.end);
        let rest = self.text.get(end..close).unwrap_or_default();
        // YAML lets a comma stand behind the last one.
        let has_comma = rest.trim_start().starts_with(',');
        let at = end + if has_comma { rest.find(',').unwrap_or_default() + 1 } else { 0 };
        let mut text = String::new();
        for (index, (key, value)) in new.iter().enumerate() {
            if index > 0 || !has_comma {
                text.push(',');
            }
            if before.contains('\n') {
                let indent = line_indent(self.text, last.key.start);
                let step = indent.strip_prefix(open_line).filter(|step| !step.is_empty());
                let step = step.map_or_else(|| self.usual_step(), str::to_owned);
                text.push_str(&format!("\n{indent}{}", one(key, value, Some((indent, &step)))));
            } else {
                let space = if self.syntax == Syntax::Json && !before_has_space(self.text, last) {
                    ""
                } else {
                    " "
                };
                text.push_str(&format!("{space}{}", one(key, value, None)));
            }
        }
        Edit { span: at..at, text }
    }

    /// Another value in the place of one.
    fn replacement(&self, path: &[String], value: &Value) -> Result<Edit, &'static str> {
        let Some((last, above)) = path.split_last() else { return Err(OTHER) };
        let mut node = &self.root;
        for key in above {
            node = match (&node.content, node.is_shared) {
                (_, true) => return Err(SHARED),
                (Content::Mapping(mapping), _) => {
                    mapping.entry(key).map(|entry| &entry.value).ok_or(SHARED)?
                }
                _ => return Err(OTHER),
            };
        }
        match (&node.content, node.is_shared) {
            (_, true) => Err(SHARED),
            (Content::Mapping(mapping), _) => {
                let entry = mapping.entry(last).ok_or(SHARED)?;
                Ok(self.in_place_of(mapping, entry, value))
            }
            _ => Err(OTHER),
        }
    }

    fn in_place_of(&self, mapping: &Mapping, entry: &Entry, value: &Value) -> Edit {
        let behind_key = self.text.get(entry.key.end..).unwrap_or_default();
        let colon = entry.key.end + behind_key.find(':').map_or(0, |at| at + 1);
        let span = match entry.value.content {
            Content::Empty => colon..colon,
            _ => entry.value.span.clone(),
        };
        if mapping.is_flow {
            let text = match self.syntax {
                Syntax::Json => value.to_string(),
                Syntax::Yaml => flow(value),
            };
            let space = if span.start == colon { " " } else { "" };
            return Edit { span, text: format!("{space}{text}") };
        }
        let indent = " ".repeat(self.column(entry.key.start));
        let text = block(&entry.name, value, &indent, &self.step(mapping));
        let text = text.trim_end_matches('\n');
        let key = format!("{indent}{}:", scalar(&entry.name));
        let text = text.strip_prefix(&key).unwrap_or(text).to_owned();
        Edit { span: colon..span.end.max(colon), text }
    }

    /// How far a place is from the start of its line, in characters.
    fn column(&self, at: usize) -> usize {
        let before = self.text.get(..at).unwrap_or_default();
        before.chars().rev().take_while(|c| *c != '\n').count()
    }

    /// How much deeper the entries of a mapping's own mappings stand.
    fn step(&self, mapping: &Mapping) -> String {
        let deeper = mapping.entries.iter().find_map(|entry| match &entry.value.content {
            Content::Mapping(inner) if !inner.is_flow => {
                let inner = self.column(inner.entries.first()?.key.start);
                inner.checked_sub(self.column(entry.key.start)).filter(|step| *step > 0)
            }
            _ => None,
        });
        deeper.map_or_else(|| self.usual_step(), |step| " ".repeat(step))
    }

    /// The same for the document as a whole.
    fn usual_step(&self) -> String {
        let first = self.text.lines().skip(1).map(|line| line_indent(line, 0));
        first
            .map(str::to_owned)
            .find(|indent| !indent.is_empty())
            .unwrap_or_else(|| "  ".to_owned())
    }
}

/// Is there a space between an entry's colon and its value?
fn before_has_space(text: &str, entry: &Entry) -> bool {
    text.get(..entry.value.span.start).is_some_and(|before| before.ends_with(' '))
}
