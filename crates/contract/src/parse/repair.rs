//! Takes out of a text what keeps it from being TOML, so that the rest can be read.

use std::ops::Range;

use toml::de::DeTable;

use crate::diagnostics::Diagnostic;

/// So many broken lines are told; a text with more is no contract.
const MOST: usize = 50;

/// The text with every broken line blanked, and what was wrong there.
///
/// The parser leaves out whole tables behind some mistakes; without the line it reads on, and no other
/// mistake is missed. Lengths stay, so places do.
pub(super) fn without_broken_lines(text: &str) -> (String, Vec<Diagnostic>) {
    let mut clean = text.to_owned();
    let mut diagnostics: Vec<Diagnostic> = Vec::new();
    while diagnostics.len() < MOST {
        let Err(error) = DeTable::parse(&clean) else { break };
        let span = error.span().unwrap_or(0..0);
        let line = line_at(&clean, span.start);
        let broken = clean.get(line.clone()).unwrap_or_default().to_owned();
        // An empty place, such as the end of a line, is shown by what stands before it.
        let span = if span.is_empty() { line.start.min(span.start)..line.end } else { span };
        diagnostics.push(told(&error, span, &broken, &clean));
        if broken.trim().is_empty() {
            // It is not this line; what follows can't be read.
            break;
        }
        let end = if broken.trim_start().starts_with('[') {
            next_table(&clean, line.end)
        } else {
            line.end
        };
        blank(&mut clean, line.start..end);
    }
    (clean, diagnostics)
}

fn told(error: &toml::de::Error, span: Range<usize>, line: &str, text: &str) -> Diagnostic {
    let is_endpoint = line.trim_start().starts_with("[endpoint.") && !line.contains('"');
    match error.message() {
        "duplicate key" => {
            let diagnostic = Diagnostic::new(span.clone(), "this is declared twice");
            match first_declaration(text, &span, line) {
                Some(first) => diagnostic.also(first, "first declared here"),
                None => diagnostic,
            }
        }
        _ if is_endpoint => Diagnostic::new(span, "the name of an endpoint has to be quoted")
            .help("write it as in [endpoint.\"GET /berths/{id}\"]"),
        message => Diagnostic::new(span, format!("not TOML: {}", message.replace('\n', ", "))),
    }
}

/// The same table or key on an earlier line, where it stands as it does the second time; a key in the same table.
fn first_declaration(text: &str, second: &Range<usize>, line: &str) -> Option<Range<usize>> {
    let before = text.get(..line_at(text, second.start).start)?;
    let word = |line: &str| {
        let line = line.trim();
        let end =
            if line.starts_with('[') { line.rfind(']').map(|at| at + 1) } else { line.find('=') };
        end.and_then(|end| line.get(..end)).map(|word| word.trim_end().to_owned())
    };
    let declared = word(line)?;
    let is_key = !declared.starts_with('[');
    let mut at = before.len();
    for earlier in before.split_inclusive('\n').rev() {
        at -= earlier.len();
        if word(earlier).as_ref() == Some(&declared) {
            let start = at + (earlier.len() - earlier.trim_start().len());
            return Some(start..start + declared.len());
        }
        // The table of a key begins here.
        if is_key && earlier.trim_start().starts_with('[') {
            return None;
        }
    }
    None
}

/// The line that holds a place, without its end.
fn line_at(text: &str, at: usize) -> Range<usize> {
    let start = text.get(..at).and_then(|before| before.rfind('\n')).map_or(0, |at| at + 1);
    let rest = text.get(start..).unwrap_or_default();
    start..start + rest.find('\n').unwrap_or(rest.len())
}

/// Where the next table starts: what stands before it belongs to the table whose head is broken.
fn next_table(text: &str, from: usize) -> usize {
    let rest = text.get(from..).unwrap_or_default();
    rest.find("\n[").map_or(text.len(), |at| from + at)
}

/// Blanks bytes, but for line ends.
fn blank(text: &mut String, range: Range<usize>) {
    let blanks: String = text
        .get(range.clone())
        .unwrap_or_default()
        .chars()
        .flat_map(|c| std::iter::repeat_n(if c == '\n' { c } else { ' ' }, c.len_utf8()))
        .collect();
    text.replace_range(range, &blanks);
}
