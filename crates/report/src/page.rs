//! A page: what a command has to say, before it is known for whom. The same page becomes text for a
//! terminal and Markdown for a review.
//!
//! Text comes in as it is; it is made harmless when it is drawn, so nobody can forget to.

use serde::Serialize;

use unicode_width::UnicodeWidthStr;

use crate::Theme;
use crate::escape::{code_in, markdown, markdown_in, terminal};
use crate::shape_tree::AnnotatedShape;
use crate::text::wrap::fit;
use crate::theme::{MarkStyle, Tone};

/// A piece of text in one tone.
#[derive(Debug, Clone)]
pub(crate) struct StyledText {
    pub(crate) text: String,
    pub(crate) tone: Tone,
    /// Where it leads, in files that have links.
    pub(crate) link: Option<String>,
}

/// Plain text.
pub(crate) fn plain(text: impl Into<String>) -> StyledText {
    toned(Tone::Plain, text)
}

/// Text in a tone.
pub(crate) fn toned(tone: Tone, text: impl Into<String>) -> StyledText {
    StyledText { text: text.into(), tone, link: None }
}

/// Text that leads somewhere; the link is a relative reference of our own making.
pub(crate) fn linked(text: impl Into<String>, link: impl Into<String>) -> StyledText {
    StyledText { link: Some(link.into()), ..plain(text) }
}

/// A name that stands for itself, such as a member's.
pub(crate) fn code(text: impl Into<String>) -> StyledText {
    toned(Tone::Code, text)
}

/// A line of a tree.
#[derive(Debug, Clone)]
pub(crate) struct TreeLine {
    /// How deep it stands, from 0.
    pub(crate) depth: usize,
    /// What it is called.
    pub(crate) name: String,
    /// What it is.
    pub(crate) is: String,
    /// How often it is there, where that is not always: `, in 3 of 5`.
    pub(crate) share: String,
}

/// A line that stands for itself; where it is wrapped, what follows is moved in as far.
#[derive(Debug, Clone)]
pub(crate) struct PageLine {
    /// How far it is moved in.
    pub(crate) indent: usize,
    /// How much farther what is wrapped is moved in.
    pub(crate) hang: usize,
    /// The text.
    pub(crate) pieces: Vec<StyledText>,
}

/// A part of a page.
#[derive(Debug)]
pub(crate) enum PageBlock {
    Heading(String),
    Label(String),
    Text(Vec<StyledText>),
    Item(Vec<StyledText>),
    /// A part of the item before it.
    Part(Vec<StyledText>),
    Table(Table),
    Shapes(Vec<AnnotatedShape>),
    Lines(Vec<PageLine>),
}

/// A table; a column is as wide as it has to be and the page allows.
#[derive(Debug, Default)]
pub(crate) struct Table {
    heads: Vec<&'static str>,
    pub(crate) rows: Vec<Vec<StyledText>>,
}

impl Table {
    /// A table with these columns; those that start with `#` hold numbers.
    pub(crate) fn new(heads: &[&'static str]) -> Self {
        Self { heads: heads.to_vec(), rows: Vec::new() }
    }

    /// Adds a row.
    pub(crate) fn row(&mut self, row: Vec<StyledText>) {
        self.rows.push(row);
    }

    /// How many columns there are.
    pub(crate) fn width(&self) -> usize {
        self.heads.len()
    }

    /// How wide a column is if nothing in it is broken.
    fn natural(&self, column: usize) -> usize {
        let cells = self.rows.iter().filter_map(|row| row.get(column));
        let widest = cells.map(|cell| terminal(&cell.text).width()).max().unwrap_or_default();
        widest.max(self.head(column).width())
    }

    pub(crate) fn is_number(&self, column: usize) -> bool {
        self.heads.get(column).is_some_and(|head| head.starts_with('#'))
    }

    /// The name of a column.
    pub(crate) fn head(&self, column: usize) -> &str {
        self.heads.get(column).map_or("", |head| head.trim_start_matches('#'))
    }
}

/// What a command has to say.
#[derive(Debug, Default)]
pub(crate) struct Page {
    blocks: Vec<PageBlock>,
}

impl Page {
    pub(crate) fn heading(&mut self, text: impl Into<String>) {
        self.blocks.push(PageBlock::Heading(text.into()));
    }

    /// A line over items that belong to it.
    pub(crate) fn label(&mut self, text: impl Into<String>) {
        self.blocks.push(PageBlock::Label(text.into()));
    }

    pub(crate) fn text(&mut self, pieces: Vec<StyledText>) {
        self.blocks.push(PageBlock::Text(pieces));
    }

    pub(crate) fn item(&mut self, pieces: Vec<StyledText>) {
        self.blocks.push(PageBlock::Item(pieces));
    }

    /// A part of the last item.
    pub(crate) fn part(&mut self, pieces: Vec<StyledText>) {
        self.blocks.push(PageBlock::Part(pieces));
    }

    pub(crate) fn table(&mut self, table: Table) {
        self.blocks.push(PageBlock::Table(table));
    }

    /// Shapes, the usual one first.
    pub(crate) fn shapes(&mut self, shapes: Vec<AnnotatedShape>) {
        self.blocks.push(PageBlock::Shapes(shapes));
    }

    /// Another page behind this one.
    pub(crate) fn append(&mut self, other: Self) {
        self.blocks.extend(other.blocks);
    }

    /// What it consists of, in order.
    pub(crate) fn blocks(&self) -> &[PageBlock] {
        &self.blocks
    }

    pub(crate) fn lines(&mut self, lines: Vec<PageLine>) {
        self.blocks.push(PageBlock::Lines(lines));
    }

    /// For a terminal.
    pub(crate) fn terminal(&self, theme: Theme) -> String {
        let mut text = String::new();
        let mut last: Option<&PageBlock> = None;
        for block in &self.blocks {
            // Items stand close together.
            let close = matches!(
                (last, block),
                (
                    Some(PageBlock::Item(_) | PageBlock::Part(_) | PageBlock::Label(_)),
                    PageBlock::Item(_) | PageBlock::Part(_)
                )
            );
            if last.is_some() && !close {
                text.push('\n');
            }
            last = Some(block);
            match block {
                PageBlock::Heading(heading) => {
                    text.push_str(&format!("{}\n", theme.strong(&terminal(heading))));
                }
                PageBlock::Label(label) => {
                    text.push_str(&format!("  {}\n", theme.strong(&terminal(label))));
                }
                PageBlock::Text(pieces) => {
                    text.push_str(&wrapped(pieces, "", 0, 0, theme));
                }
                PageBlock::Item(pieces) => {
                    let bullet = if theme.marks == MarkStyle::Unicode { "• " } else { "* " };
                    text.push_str(&wrapped(pieces, bullet, 2, 4, theme));
                }
                PageBlock::Part(pieces) => text.push_str(&wrapped(pieces, "", 4, 6, theme)),
                PageBlock::Table(table) => text.push_str(&table_text(table, theme)),
                PageBlock::Shapes(shapes) => {
                    let drawn = shapes.iter().map(|AnnotatedShape { head, tree }| {
                        format!("{}{}", wrapped(head, "", 0, 0, theme), tree_text(tree, theme))
                    });
                    text.push_str(&drawn.collect::<Vec<_>>().join("\n"));
                }
                PageBlock::Lines(lines) => {
                    for line in lines {
                        text.push_str(&line_text(line, theme));
                    }
                }
            }
        }
        match theme.marks {
            MarkStyle::Unicode => text,
            MarkStyle::Ascii => text.replace('→', "->").replace('…', "..."),
        }
    }

    /// As Markdown (CommonMark with tables).
    pub(crate) fn markdown(&self) -> String {
        let mut text = String::new();
        let mut last_was_item = false;
        for block in &self.blocks {
            let is_item = matches!(block, PageBlock::Item(_) | PageBlock::Part(_));
            if !(text.is_empty() || is_item && last_was_item) {
                text.push('\n');
            }
            last_was_item = is_item;
            match block {
                PageBlock::Heading(heading) => {
                    text.push_str(&format!("## {}\n", markdown(heading.trim())));
                }
                PageBlock::Label(label) => {
                    text.push_str(&format!("**{}**\n", markdown(label.trim())));
                }
                PageBlock::Text(pieces) => text.push_str(&format!("{}\n", marked(pieces))),
                PageBlock::Item(pieces) => text.push_str(&format!("- {}\n", marked(pieces))),
                PageBlock::Part(pieces) => text.push_str(&format!("  - {}\n", marked(pieces))),
                PageBlock::Table(table) => {
                    let heads: Vec<&str> =
                        (0..table.heads.len()).map(|at| table.head(at)).collect();
                    let rules: Vec<&str> = (0..table.heads.len())
                        .map(|at| if table.is_number(at) { "---:" } else { "---" })
                        .collect();
                    text.push_str(&format!("| {} |\n|{}|\n", heads.join(" | "), rules.join("|")));
                    for row in &table.rows {
                        let cells: Vec<String> =
                            row.iter().map(|cell| marked_in(cell, true)).collect();
                        text.push_str(&format!("| {} |\n", cells.join(" | ")));
                    }
                }
                PageBlock::Shapes(shapes) => {
                    let drawn = shapes.iter().map(|AnnotatedShape { head, tree }| {
                        let tree = fenced("text", &tree_text(tree, Theme::bare(100)));
                        format!("{}\n\n{tree}", marked(head))
                    });
                    text.push_str(&drawn.collect::<Vec<_>>().join("\n"));
                }
                PageBlock::Lines(lines) => {
                    let lines: Vec<String> =
                        lines.iter().map(|line| line_text(line, Theme::bare(100))).collect();
                    text.push_str(&fenced("text", &lines.concat()));
                }
            }
        }
        text
    }
}

/// A block of code; its fence is longer than any that stands in it.
pub(crate) fn fenced(language: &str, code: &str) -> String {
    let runs = code.split(|c| c != '`').map(str::len).max().unwrap_or_default();
    let fence = "`".repeat(runs.max(2) + 1);
    format!("{fence}{language}\n{code}{fence}\n")
}

fn marked(pieces: &[StyledText]) -> String {
    let marked: String = pieces.iter().map(|piece| marked_in(piece, false)).collect();
    // A line that begins with spaces may be code, or an item of another list.
    marked.trim_start().to_owned()
}

fn marked_in(piece: &StyledText, is_cell: bool) -> String {
    match piece.tone {
        _ if piece.text.is_empty() => String::new(),
        Tone::Code => code_in(&piece.text, is_cell),
        Tone::Strong | Tone::Bad => {
            // Spaces within the marks would make them plain asterisks.
            let bare = piece.text.trim();
            let (before, behind) = piece.text.split_once(bare).unwrap_or_default();
            let space = |text: &str| if text.is_empty() { "" } else { " " };
            format!("{}**{}**{}", space(before), markdown_in(bare, is_cell), space(behind))
        }
        Tone::Plain | Tone::Faint | Tone::Good | Tone::Doubt => match &piece.link {
            Some(link) => format!("[{}]({link})", markdown_in(&piece.text, is_cell)),
            None => markdown_in(&piece.text, is_cell),
        },
    }
}

/// Pieces, wrapped at spaces, the first line behind a bullet.
fn wrapped(
    pieces: &[StyledText],
    bullet: &str,
    first: usize,
    others: usize,
    theme: Theme,
) -> String {
    let width = theme.width.max(others + 20);
    let mut text = format!("{}{bullet}", " ".repeat(first));
    let mut used = first + bullet.width();
    // Spaces wait until it is known whether the word behind them fits into the line.
    let mut gap = 0;
    let mut starts = true;
    for entry in pieces {
        let safe = terminal(&entry.text);
        for (at, word) in safe.split(' ').enumerate() {
            gap += usize::from(at > 0);
            if word.is_empty() {
                continue;
            }
            if used + gap + word.width() > width && gap > 0 && !starts {
                text.push('\n');
                text.push_str(&" ".repeat(others));
                used = others;
            } else {
                text.push_str(&" ".repeat(gap));
                used += gap;
            }
            text.push_str(&theme.tone(entry.tone, word));
            used += word.width();
            (gap, starts) = (0, false);
        }
    }
    text.push('\n');
    text
}

fn line_text(line: &PageLine, theme: Theme) -> String {
    wrapped(&line.pieces, "", line.indent, line.indent + line.hang, theme)
}

/// The glyphs before a line of a tree follow from the depths of the lines behind it.
fn tree_text(branches: &[TreeLine], theme: Theme) -> String {
    let [down, fork, last] = match theme.marks {
        MarkStyle::Unicode => ["│  ", "├─ ", "└─ "],
        MarkStyle::Ascii => ["|  ", "|- ", "`- "],
    };
    let mut lines: Vec<(String, &TreeLine)> = Vec::new();
    for (at, branch) in branches.iter().enumerate() {
        let behind = branches.get(at + 1..).unwrap_or_default();
        // Does another line of that depth follow before one that stands further out?
        let goes_on = |depth: usize| {
            behind.iter().find(|next| next.depth <= depth).is_some_and(|next| next.depth == depth)
        };
        let mut glyphs = String::from("  ");
        for depth in 0..branch.depth {
            glyphs.push_str(if goes_on(depth) { down } else { "   " });
        }
        glyphs.push_str(if goes_on(branch.depth) { fork } else { last });
        lines.push((glyphs, branch));
    }
    let width =
        |(glyphs, branch): &(String, &TreeLine)| glyphs.width() + terminal(&branch.name).width();
    let most = lines.iter().map(width).max().unwrap_or_default().min(theme.width / 2);
    let mut text = String::new();
    for line in &lines {
        let (glyphs, branch) = line;
        let name =
            fit(&terminal(&branch.name), terminal(&branch.name).width().min(60), theme.more());
        let pad = " ".repeat(most.saturating_sub(width(line)) + 2);
        let is = format!("{}{}", terminal(&branch.is), branch.share);
        let drawn = format!("{}{name}", theme.faint(glyphs));
        text.push_str(format!("{drawn}{pad}{}", theme.faint(&is)).trim_end());
        text.push('\n');
    }
    text
}

/// Between two columns.
const GAP: usize = 2;

/// The first column names what the rows below are about. Where the table is too wide with it, it stands in
/// lines of its own.
fn table_text(table: &Table, theme: Theme) -> String {
    let natural: Vec<usize> = (0..table.heads.len()).map(|at| table.natural(at)).collect();
    let whole = natural.iter().sum::<usize>() + GAP * natural.len();
    let heads: Vec<StyledText> =
        (0..table.heads.len()).map(|at| toned(Tone::Faint, table.head(at))).collect();
    let rows = std::iter::once(&heads).chain(&table.rows);
    if whole <= theme.width || natural.len() < 3 {
        let widths = fitted(natural, theme.width);
        return rows.map(|row| row_text(table, row, 0, &widths, 2, theme)).collect();
    }
    let widths = fitted(natural.get(1..).unwrap_or_default().to_vec(), theme.width - 2);
    let mut text = String::new();
    for row in rows {
        if let Some(first) = row.first().filter(|first| !first.text.is_empty()) {
            text.push_str(&wrapped(std::slice::from_ref(first), "", 2, 4, theme));
        }
        let rest = row.get(1..).unwrap_or_default();
        if !rest.is_empty() {
            text.push_str(&row_text(table, rest, 1, &widths, 4, theme));
        }
    }
    text
}

/// The widths of columns, with the widest giving way as long as there is one that can.
fn fitted(mut widths: Vec<usize>, width: usize) -> Vec<usize> {
    let room = width.saturating_sub(2 + GAP * widths.len().saturating_sub(1));
    while widths.iter().sum::<usize>() > room {
        let Some(widest) = widths.iter_mut().max_by_key(|width| **width).filter(|w| **w > 8) else {
            break;
        };
        *widest -= 1;
    }
    widths
}

/// A row, its cells broken into lines; `from` is the column of the first cell.
fn row_text(
    table: &Table,
    row: &[StyledText],
    from: usize,
    widths: &[usize],
    indent: usize,
    theme: Theme,
) -> String {
    let cells: Vec<Vec<String>> =
        row.iter().zip(widths).map(|(cell, width)| broken(&terminal(&cell.text), *width)).collect();
    let height = cells.iter().map(Vec::len).max().unwrap_or_default();
    let mut text = String::new();
    for line in 0..height {
        let mut drawn = " ".repeat(indent);
        for (at, (cell, width)) in cells.iter().zip(widths).enumerate() {
            let part = cell.get(line).map_or("", String::as_str).trim_end();
            let tone = row.get(at).map_or(Tone::Plain, |entry| entry.tone);
            let pad = " ".repeat(width.saturating_sub(part.width()));
            let part = theme.tone(tone, part);
            drawn.push_str(if at == 0 { "" } else { "  " });
            drawn.push_str(&match table.is_number(from + at) {
                true => format!("{pad}{part}"),
                false => format!("{part}{pad}"),
            });
        }
        text.push_str(drawn.trim_end());
        text.push('\n');
    }
    text
}

/// A text in lines of that width, broken at spaces, slashes and hyphens where that can be.
fn broken(text: &str, width: usize) -> Vec<String> {
    let mut lines = vec![String::new()];
    let mut used = 0;
    for word in text.split_inclusive([' ', '/', '-']) {
        let mut word = word.to_owned();
        if used > 0 && used + word.trim_end().width() > width {
            lines.push(String::new());
            used = 0;
        }
        while word.trim_end().width() > width.max(1) {
            let mut head = String::new();
            while head.width() < width && !word.is_empty() {
                head.push(word.remove(0));
            }
            if let Some(line) = lines.last_mut() {
                line.push_str(&head);
            }
            lines.push(String::new());
        }
        if let Some(line) = lines.last_mut() {
            line.push_str(&word);
            used = line.width();
        }
    }
    lines
}

#[cfg(test)]
mod tests {
    use super::*;

    fn page() -> Page {
        let mut page = Page::default();
        page.heading("A *heading*");
        page.text(vec![
            plain("It says "),
            code("x|y"),
            plain(", and \u{1b}[2J more of it than fits in a line."),
        ]);
        let mut table = Table::new(&["endpoint", "#count"]);
        table.row(vec![plain("GET /berths/{id}/a-very-long-name-that-does-not-fit"), plain("12")]);
        page.table(table);
        let branch = |depth, name: &str| TreeLine {
            depth,
            name: name.to_owned(),
            is: "text".to_owned(),
            share: String::new(),
        };
        let tree = vec![branch(0, "a"), branch(1, "b"), branch(1, "c"), branch(0, "d")];
        page.shapes(vec![AnnotatedShape { head: vec![plain("drawn")], tree }]);
        page
    }

    #[test]
    fn a_page_fits_its_width_and_is_harmless() {
        let text = page().terminal(Theme::bare(40));
        assert!(text.lines().all(|line| line.width() <= 40), "{text}");
        assert!(text.contains("\\u{1b}[2J"));
        assert!(
            text.contains("  ├─ a     text\n  │  ├─ b  text\n  │  └─ c  text\n  └─ d     text\n"),
            "{text}"
        );
    }

    #[test]
    fn markdown_is_escaped() {
        let text = page().markdown();
        assert!(text.contains("## A \\*heading\\*\n"), "{text}");
        assert!(text.contains("It says `x|y`, and"), "{text}");
        assert!(text.contains("| endpoint | count |\n|---|---:|\n"), "{text}");
        assert_eq!(fenced("text", "a ``` b\n"), "````text\na ``` b\n````\n");
    }
}

/// A part of a page, before it is drawn.
#[derive(Debug)]
pub(crate) struct PagePart {
    pub(crate) anchor: Option<String>,
    pub(crate) title: Option<String>,
    pub(crate) page: Page,
}

/// What stands around the parts of a page.
#[derive(Debug, Serialize)]
pub(crate) struct PageFrame<'a> {
    pub(crate) title: &'a str,
    pub(crate) service: Option<&'a str>,
    /// Where the first page is, seen from this one; none on the first itself.
    pub(crate) home: Option<String>,
}
