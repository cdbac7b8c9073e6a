//! A page's blocks, as the templates want them.

use serde::Serialize;

use crate::drawn::{Differs, DrawnShape, beside};
use crate::page::{Block, Branch, Line, Page, Piece, Table, plain, toned};
use crate::theme::Tone;

/// A piece of text and the class of its look.
#[derive(Debug, Clone, Serialize)]
pub(super) struct Span {
    text: String,
    class: &'static str,
    link: Option<String>,
}

/// A block; `kind` says which of the others is filled.
#[derive(Debug, Default, Serialize)]
pub(super) struct Shown {
    kind: &'static str,
    #[serde(skip_serializing_if = "String::is_empty")]
    id: String,
    spans: Vec<Span>,
    items: Vec<Vec<Span>>,
    lines: Vec<ShownLine>,
    heads: Vec<Head>,
    rows: Vec<Vec<Span>>,
    shapes: Vec<Shape>,
}

#[derive(Debug, Clone, Serialize)]
pub(super) struct ShownLine {
    indent: usize,
    spans: Vec<Span>,
    /// Is it a remark of ours under a line, and no line of the message?
    is_note: bool,
}

#[derive(Debug, Serialize)]
struct Head {
    text: String,
    is_number: bool,
}

/// A shape beside others.
#[derive(Debug, Clone, Serialize)]
pub(super) struct Shape {
    pub(super) head: Vec<Span>,
    pub(super) lines: Vec<Member>,
}

#[derive(Debug, Clone, Serialize)]
pub(super) struct Member {
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

pub(super) fn spans(pieces: &[Piece]) -> Vec<Span> {
    let span = |piece: &Piece| Span {
        text: piece.text.clone(),
        class: class(piece.tone),
        link: piece.link.clone(),
    };
    pieces.iter().map(span).collect()
}

pub(super) fn lines(lines: &[Line]) -> Vec<ShownLine> {
    let line = |line: &Line| {
        let mut spans = spans(&line.pieces);
        // A note has a look of its own here, and needs no arrow to the line above.
        let note = spans.first().and_then(|span| span.text.strip_prefix("^ ")).map(str::to_owned);
        let is_note = note.is_some();
        if let (Some(first), Some(text)) = (spans.first_mut(), note) {
            first.text = text;
        }
        ShownLine { indent: line.indent.min(40), spans, is_note }
    };
    lines.iter().map(line).collect()
}

/// All blocks of a page; items that follow one another are one list.
pub(super) fn of(page: &Page) -> Vec<Shown> {
    let mut blocks: Vec<Shown> = Vec::new();
    let mut headings = 0;
    for block in page.blocks() {
        let shown = match block {
            Block::Heading(text) => {
                headings += 1;
                let spans = spans(&[plain(text.as_str())]);
                Shown { kind: "heading", id: format!("part-{headings}"), spans, ..Shown::default() }
            }
            Block::Label(text) => {
                let spans = spans(&[toned(Tone::Strong, text.as_str())]);
                Shown { kind: "text", spans, ..Shown::default() }
            }
            Block::Text(pieces) => Shown { kind: "text", spans: spans(pieces), ..Shown::default() },
            Block::Item(pieces) => {
                if let Some(list) = blocks.last_mut().filter(|last| last.kind == "list") {
                    list.items.push(spans(pieces));
                    continue;
                }
                Shown { kind: "list", items: vec![spans(pieces)], ..Shown::default() }
            }
            Block::Table(table) => self::table(table),
            Block::Shapes(shapes) => {
                Shown { kind: "shapes", shapes: side_by_side(shapes), ..Shown::default() }
            }
            Block::Lines(of) => Shown { kind: "lines", lines: lines(of), ..Shown::default() },
        };
        blocks.push(shown);
    }
    blocks
}

/// Blocks that stand within a part: nothing links to their headings.
pub(super) fn within(page: &Page) -> Vec<Shown> {
    let mut blocks = of(page);
    blocks.iter_mut().for_each(|block| block.id.clear());
    blocks
}

/// Sets the anchors of headings apart where a page has several parts.
pub(super) fn prefix_ids(blocks: &mut [Shown], part: usize) {
    for block in blocks.iter_mut().filter(|block| part > 0 && !block.id.is_empty()) {
        block.id = format!("{}-{}", block.id, part + 1);
    }
}

fn table(table: &Table) -> Shown {
    let head = |at| Head { text: table.head(at).to_owned(), is_number: table.is_number(at) };
    let heads = (0..table.width()).map(head).collect();
    let rows = table.rows.iter().map(|row| spans(row)).collect();
    Shown { kind: "table", heads, rows, ..Shown::default() }
}

/// Shapes beside one another, with what differs from the first.
pub(super) fn side_by_side(shapes: &[DrawnShape]) -> Vec<Shape> {
    let usual = shapes.first().map(|first| first.tree.as_slice()).unwrap_or_default();
    let shape = |shape: &DrawnShape| Shape {
        head: spans(&shape.head),
        lines: beside(usual, &shape.tree).iter().map(member).collect(),
    };
    shapes.iter().map(shape).collect()
}

fn member((differs, branch): &(Differs, Branch)) -> Member {
    let (differs, mark) = match differs {
        Differs::No => ("", ""),
        Differs::Added => ("added", "+"),
        Differs::Missing => ("missing", "−"),
        Differs::Kind => ("other", "≠"),
    };
    let (name, is) = (branch.name.clone(), branch.is.clone());
    Member { depth: branch.depth.min(20), name, is, differs, mark }
}
