//! A page's blocks, as the templates want them.

use serde::Serialize;

use crate::page::{Page, PageBlock, PageLine, StyledText, Table, TreeLine, plain, toned};
use crate::shape_tree::{AnnotatedShape, LineDifference, beside};
use crate::theme::Tone;

/// A piece of text and the class of its look.
#[derive(Debug, Clone, Serialize)]
pub(super) struct HtmlSpan {
    text: String,
    class: &'static str,
    link: Option<String>,
}

/// A block; `kind` says which of the others is filled.
#[derive(Debug, Default, Serialize)]
pub(super) struct HtmlBlock {
    kind: &'static str,
    id: String,
    spans: Vec<HtmlSpan>,
    items: Vec<Vec<HtmlSpan>>,
    lines: Vec<HtmlLine>,
    heads: Vec<TableHead>,
    rows: Vec<Vec<HtmlSpan>>,
    shapes: Vec<HtmlShape>,
}

#[derive(Debug, Clone, Serialize)]
pub(super) struct HtmlLine {
    indent: usize,
    spans: Vec<HtmlSpan>,
    /// Is it a note of ours under a line, and no line of the message?
    is_note: bool,
    /// Is it a part of the note above, behind its label?
    is_part: bool,
}

#[derive(Debug, Serialize)]
struct TableHead {
    text: String,
    is_number: bool,
}

/// A shape beside others.
#[derive(Debug, Clone, Serialize)]
pub(super) struct HtmlShape {
    pub(super) head: Vec<HtmlSpan>,
    pub(super) lines: Vec<HtmlMember>,
}

#[derive(Debug, Clone, Serialize)]
pub(super) struct HtmlMember {
    depth: usize,
    name: String,
    is: String,
    /// How it differs from the usual shape, in a word, and as a mark.
    differs: &'static str,
    mark: &'static str,
}

fn class(tone: Tone) -> &'static str {
    match tone {
        Tone::Plain => "",
        Tone::Strong => "strong",
        Tone::Faint => "faint",
        Tone::Code => "code",
        Tone::Good => "good",
        Tone::Bad => "bad",
        Tone::Doubt => "doubt",
    }
}

pub(super) fn spans(pieces: &[StyledText]) -> Vec<HtmlSpan> {
    let span = |entry: &StyledText| HtmlSpan {
        text: entry.text.clone(),
        class: class(entry.tone),
        link: entry.link.clone(),
    };
    pieces.iter().map(span).collect()
}

pub(super) fn lines(lines: &[PageLine]) -> Vec<HtmlLine> {
    let line = |line: &PageLine| {
        let mut spans = spans(&line.pieces);
        // A note has a look of its own here, and needs no arrow to the line above.
        let note = spans.first().and_then(|span| span.text.strip_prefix("^ ")).map(str::to_owned);
        let (is_note, is_part) = (note.is_some(), line.hang > 0);
        if let (Some(first), Some(text)) = (spans.first_mut(), note) {
            first.text = text;
        }
        HtmlLine { indent: line.indent.min(40), spans, is_note, is_part }
    };
    lines.iter().map(line).collect()
}

/// All blocks of a page; items that follow one another are one list.
pub(super) fn of(page: &Page) -> Vec<HtmlBlock> {
    let mut blocks: Vec<HtmlBlock> = Vec::new();
    let mut headings = 0;
    for block in page.blocks() {
        let shown = match block {
            PageBlock::Heading(text) => {
                headings += 1;
                let spans = spans(&[plain(text.as_str())]);
                HtmlBlock {
                    kind: "heading",
                    id: format!("part-{headings}"),
                    spans,
                    ..HtmlBlock::default()
                }
            }
            PageBlock::Label(text) => {
                let spans = spans(&[toned(Tone::Strong, text.as_str())]);
                HtmlBlock { kind: "text", spans, ..HtmlBlock::default() }
            }
            PageBlock::Text(pieces) => {
                HtmlBlock { kind: "text", spans: spans(pieces), ..HtmlBlock::default() }
            }
            PageBlock::Item(pieces) | PageBlock::Part(pieces) => {
                if let Some(list) = blocks.last_mut().filter(|last| last.kind == "list") {
                    list.items.push(spans(pieces));
                    continue;
                }
                HtmlBlock { kind: "list", items: vec![spans(pieces)], ..HtmlBlock::default() }
            }
            PageBlock::Table(table) => self::table(table),
            PageBlock::Shapes(shapes) => {
                HtmlBlock { kind: "shapes", shapes: side_by_side(shapes), ..HtmlBlock::default() }
            }
            PageBlock::Lines(of) => {
                HtmlBlock { kind: "lines", lines: lines(of), ..HtmlBlock::default() }
            }
        };
        blocks.push(shown);
    }
    blocks
}

/// Blocks that stand within a part: nothing links to their headings.
pub(super) fn within(page: &Page) -> Vec<HtmlBlock> {
    let mut blocks = of(page);
    blocks.iter_mut().for_each(|block| block.id.clear());
    blocks
}

/// Sets the anchors of headings apart where a page has several parts.
pub(super) fn prefix_ids(blocks: &mut [HtmlBlock], part: usize) {
    for block in blocks.iter_mut().filter(|block| part > 0 && !block.id.is_empty()) {
        block.id = format!("{}-{}", block.id, part + 1);
    }
}

fn table(table: &Table) -> HtmlBlock {
    let head = |at| TableHead { text: table.head(at).to_owned(), is_number: table.is_number(at) };
    let heads = (0..table.width()).map(head).collect();
    let rows = table.rows.iter().map(|row| spans(row)).collect();
    HtmlBlock { kind: "table", heads, rows, ..HtmlBlock::default() }
}

/// Shapes beside one another, with what differs from the first.
pub(super) fn side_by_side(shapes: &[AnnotatedShape]) -> Vec<HtmlShape> {
    let usual = shapes.first().map(|first| first.tree.as_slice()).unwrap_or_default();
    let shape = |shape: &AnnotatedShape| HtmlShape {
        head: spans(&shape.head),
        lines: beside(usual, &shape.tree).iter().map(member).collect(),
    };
    shapes.iter().map(shape).collect()
}

fn member((differs, branch): &(LineDifference, TreeLine)) -> HtmlMember {
    let (differs, mark) = match differs {
        LineDifference::No => ("", ""),
        LineDifference::Added => ("added", "+"),
        LineDifference::Missing => ("missing", "−"),
        LineDifference::OtherType => ("other", "≠"),
    };
    let (name, is) = (branch.name.clone(), format!("{}{}", branch.is, branch.share));
    HtmlMember { depth: branch.depth.min(20), name, is, differs, mark }
}
