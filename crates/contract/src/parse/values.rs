//! Reading TOML values of the kind that is expected, and saying so where they are of another.

use std::ops::Range;

use toml::Spanned;
use toml::de::{DeTable, DeValue};

use crate::diagnostics::Diagnostic;
use crate::nearest::nearest;

pub(super) type Node<'t> = Spanned<DeValue<'t>>;

/// Text with its place, quotes included.
#[derive(Debug, Clone)]
pub(super) struct SpannedText {
    pub(super) text: String,
    pub(super) span: Range<usize>,
}

/// The contract's text, and the mistakes found in it so far.
pub(super) struct Diagnostics<'t> {
    pub(super) text: &'t str,
    pub(super) all: Vec<Diagnostic>,
    /// Does the text fail as TOML already? Then something missing may only be unreadable.
    pub(super) is_broken: bool,
}

impl<'t> Diagnostics<'t> {
    pub(super) fn report(&mut self, diagnostic: Diagnostic) {
        self.all.push(diagnostic);
    }

    /// Something that has to be there is not.
    pub(super) fn missing(&mut self, diagnostic: Diagnostic) {
        if !self.is_broken {
            self.all.push(diagnostic);
        }
    }

    /// Names every key of the table that is not known there.
    pub(super) fn keys(&mut self, table: &DeTable<'t>, owner: &str, known: &[&str]) {
        for key in table.keys() {
            let name = key.get_ref().as_ref();
            if known.contains(&name) {
                continue;
            }
            let diagnostic =
                Diagnostic::new(key.span(), format!("unknown key `{name}` in {owner}"));
            self.report(match nearest(name, known.iter().copied()) {
                Some(near) => diagnostic.label(format!("did you mean `{near}`?")),
                None => diagnostic
                    .label("not known here")
                    .help(format!("{owner} can have {}", listed(known))),
            });
        }
    }

    pub(super) fn table<'n>(&mut self, node: &'n Node<'t>, owner: &str) -> Option<&'n DeTable<'t>> {
        let table = node.get_ref().as_table();
        if table.is_none() {
            self.expected(node, owner, "a table");
        }
        table
    }

    pub(super) fn text(&mut self, node: &Node<'t>, owner: &str) -> Option<SpannedText> {
        match node.get_ref() {
            DeValue::String(text) => {
                Some(SpannedText { text: text.to_string(), span: node.span() })
            }
            _ => {
                self.expected(node, owner, "a quoted string");
                None
            }
        }
    }

    pub(super) fn boolean(&mut self, node: &Node<'t>, owner: &str) -> Option<bool> {
        let value = node.get_ref().as_bool();
        if value.is_none() {
            self.expected(node, owner, "true or false");
        }
        value
    }

    pub(super) fn items<'n>(&mut self, node: &'n Node<'t>, owner: &str) -> &'n [Node<'t>] {
        match node.get_ref() {
            DeValue::Array(items) => items,
            _ => {
                self.expected(node, owner, "a list in `[…]`");
                &[]
            }
        }
    }

    pub(super) fn texts(&mut self, node: &Node<'t>, owner: &str) -> Vec<SpannedText> {
        let items = self.items(node, owner);
        items.iter().filter_map(|item| self.text(item, owner)).collect()
    }

    /// A whole number within a range.
    pub(super) fn whole(
        &mut self,
        node: &Node<'t>,
        owner: &str,
        range: std::ops::RangeInclusive<u16>,
    ) -> Option<u16> {
        let number = match node.get_ref() {
            DeValue::Integer(number) => i64::from_str_radix(number.as_str(), number.radix()).ok(),
            _ => {
                self.expected(node, owner, "a whole number");
                return None;
            }
        };
        let found =
            number.and_then(|number| u16::try_from(number).ok()).filter(|n| range.contains(n));
        if found.is_none() {
            let (least, most) = (range.start(), range.end());
            let diagnostic = Diagnostic::new(node.span(), format!("{owner} is out of range"));
            self.report(if least == most {
                diagnostic.label(format!("{least} is the only one there is"))
            } else {
                diagnostic.label(format!("use a number from {least} to {most}"))
            });
        }
        found
    }

    fn expected(&mut self, node: &Node<'t>, owner: &str, what: &str) {
        let found = match node.get_ref().type_str() {
            "string" => "a string",
            "array" => "an array",
            "table" => "a table",
            "integer" | "float" => "a number",
            "boolean" => "true or false",
            _ => "a date or a time",
        };
        let diagnostic = Diagnostic::new(node.span(), format!("{owner} has to be {what}"));
        self.report(diagnostic.label(format!("this is {found}")));
    }

    /// The place of a part of a quoted text, given in bytes of what the text stands for. With escapes
    /// in it the two can't be matched, and the whole is underlined.
    pub(super) fn within(&self, whole: &SpannedText, part: Range<usize>) -> Range<usize> {
        let start = whole.span.start + 1;
        let inner = start..start + whole.text.len();
        if self.text.get(inner) == Some(whole.text.as_str()) {
            // An empty place, such as the end, is shown by what stands next: the closing quote.
            let end = part.end.max(part.start + 1);
            start + part.start..start + end
        } else {
            whole.span.clone()
        }
    }
}

/// Parses TOML with places, as far as it can be.
pub(super) fn parse(
    text: &str,
    broken: Vec<Diagnostic>,
) -> (Option<Spanned<DeTable<'_>>>, Diagnostics<'_>) {
    let (document, _) = DeTable::parse_recoverable(text);
    let mut desk = Diagnostics { text, is_broken: !broken.is_empty(), all: broken };
    if document.get_ref().is_empty() && !desk.is_broken {
        desk.report(
            Diagnostic::new(0..0, "the contract is empty")
                .help("start with `contract = 1`; `fclerk demo` writes a contract to look at"),
        );
        return (None, desk);
    }
    (Some(document), desk)
}

/// `a`, `b` and `c`.
pub(super) fn listed(names: &[&str]) -> String {
    let quoted: Vec<String> = names.iter().map(|name| format!("`{name}`")).collect();
    match quoted.split_last() {
        None => "nothing".to_owned(),
        Some((last, [])) => last.clone(),
        Some((last, rest)) => format!("{} and {last}", rest.join(", ")),
    }
}
