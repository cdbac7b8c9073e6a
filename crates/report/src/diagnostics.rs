//! Draws the mistakes of a contract: file, line, column, the text underlined, what would be right.

use annotate_snippets::renderer::DecorStyle;
use annotate_snippets::{AnnotationKind, Group, Level, Renderer, Snippet};
use std::ops::Range;

use faithful_clerk_contract::{Diagnostic, DiagnosticSeverity};

use crate::escape::terminal;
use crate::{ColorMode, MarkStyle, Theme};

/// So many mistakes are drawn, the errors before the warnings; nobody reads more at once.
const MOST_DRAWN: usize = 200;

/// All mistakes, each with its picture, in the order of the text, and a line that counts them.
#[must_use]
pub fn mistakes(path: &str, text: &str, mistakes: &[Diagnostic], theme: Theme) -> String {
    let renderer = match theme.colour {
        ColorMode::Always => Renderer::styled(),
        ColorMode::Never => Renderer::plain(),
    };
    let decor = match theme.marks {
        MarkStyle::Unicode => DecorStyle::Unicode,
        MarkStyle::Ascii => DecorStyle::Ascii,
    };
    let renderer = renderer.decor_style(decor).term_width(theme.width);
    // One byte for one byte, so that places stay: what is harmful to a terminal becomes a blank.
    let safe: String = text.chars().map(harmless).collect();
    let source = SourceLines::of(&safe);
    let path = terminal(path);
    let mut drawn = String::new();
    let errors = mistakes.iter().filter(|one| one.severity == DiagnosticSeverity::Error).count();
    let is_drawn =
        |one: &&Diagnostic| errors < MOST_DRAWN || one.severity == DiagnosticSeverity::Error;
    for diagnostic in mistakes.iter().filter(is_drawn).take(MOST_DRAWN) {
        drawn.push_str(&renderer.render(&groups(&path, &source, diagnostic)));
        drawn.push_str("\n\n");
    }
    if mistakes.len() > MOST_DRAWN {
        drawn.push_str(&format!("{} more are not shown\n", mistakes.len() - MOST_DRAWN));
    }
    drawn.push_str(&sum(&path, mistakes));
    drawn
}

/// A text by its lines: the renderer gets those that it shows, since it goes over all that it gets.
struct SourceLines<'t> {
    text: &'t str,
    starts: Vec<usize>,
}

impl<'t> SourceLines<'t> {
    fn of(text: &'t str) -> Self {
        let starts = text.match_indices('\n').map(|(at, _)| at + 1);
        Self { text, starts: std::iter::once(0).chain(starts).collect() }
    }

    /// The lines that a range touches: the number of the first, where that starts, and their text.
    fn around(&self, range: &Range<usize>) -> (usize, usize, &'t str) {
        let line = self.starts.partition_point(|start| *start <= range.start);
        let start = line.checked_sub(1).and_then(|at| self.starts.get(at)).copied().unwrap_or(0);
        let behind = self.starts.partition_point(|start| *start <= range.end);
        let end = self.starts.get(behind).copied().unwrap_or(self.text.len());
        (line.max(1), start, self.text.get(start..end).unwrap_or_default())
    }
}

fn groups<'m>(
    path: &'m str,
    source: &SourceLines<'m>,
    diagnostic: &'m Diagnostic,
) -> Vec<Group<'m>> {
    let text = source.text;
    let Diagnostic { severity: gravity, message, span, label, help, also } = diagnostic;
    let level = match gravity {
        DiagnosticSeverity::Error => Level::ERROR.with_name("error"),
        DiagnosticSeverity::Warning => Level::WARNING.with_name("warning"),
    };
    let within = |span: &Range<usize>| {
        let end = span.end.min(text.len());
        let mut start = span.start.min(end);
        let mut end = end;
        while !text.is_char_boundary(start) {
            start -= 1;
        }
        while !text.is_char_boundary(end) {
            end += 1;
        }
        start..end
    };
    let all = also.iter().map(|(span, _)| span).chain([span]).map(&within);
    let whole = all.reduce(|one, other| one.start.min(other.start)..one.end.max(other.end));
    let (line, start, shown) = source.around(&whole.unwrap_or_default());
    let within = |span: &Range<usize>| {
        let span = within(span);
        span.start - start..span.end - start
    };
    let primary = AnnotationKind::Primary.span(within(span)).label(terminal(label));
    let mut snippet = Snippet::source(shown).line_start(line).path(path).annotation(primary);
    if let Some((span, label)) = also {
        snippet =
            snippet.annotation(AnnotationKind::Context.span(within(span)).label(terminal(label)));
    }
    let mut group = level.primary_title(terminal(message)).element(snippet);
    if let Some(help) = help {
        // A help may have several lines, and names from the contract in them.
        let lines: Vec<_> = help.lines().map(terminal).collect();
        group = group.element(Level::HELP.message(lines.join("\n")));
    }
    vec![group]
}

fn sum(path: &str, diagnostics: &[Diagnostic]) -> String {
    let grave = diagnostics.iter().filter(|m| m.severity == DiagnosticSeverity::Error).count();
    let counted = |count: usize, word: &str| match count {
        1 => format!("1 {word}"),
        count => format!("{count} {word}s"),
    };
    let notices = diagnostics.len() - grave;
    match (grave, notices) {
        (0, 0) => String::new(),
        (0, notices) => format!("{path}: {}\n", counted(notices, "warning")),
        (grave, 0) => format!("{path}: {}\n", counted(grave, "error")),
        (grave, notices) => {
            format!("{path}: {}, {}\n", counted(grave, "error"), counted(notices, "warning"))
        }
    }
}

/// A character that a terminal may be given, as long in bytes as the one it stands for.
fn harmless(c: char) -> char {
    if matches!(c, ' '..='~' | '\n' | '\t' | '\r') {
        return c;
    }
    let escaped = terminal(c.encode_utf8(&mut [0; 4])) != c.to_string();
    match (escaped, c.len_utf8()) {
        (false, _) => c,
        (true, 1) => ' ',
        (true, 2) => '\u{a0}',
        (true, 3) => '\u{fffd}',
        // Nothing harmful is as long as that.
        (true, _) => c,
    }
}
