//! Diagnostics of a contract: what is wrong, where, and what would be right.

use std::ops::Range;

/// Something in a contract's text that a person has to look at.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Diagnostic {
    /// Does it keep the contract from being used?
    pub severity: DiagnosticSeverity,
    /// What is wrong, in one line.
    pub message: String,
    /// The text to underline, in bytes.
    pub span: Range<usize>,
    /// What to write at the underlined text.
    pub label: String,
    /// What would be right.
    pub help: Option<String>,
    /// Another place that belongs to it, such as the first of two declarations.
    pub also: Option<(Range<usize>, String)>,
}

/// The severity of a diagnostic.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum DiagnosticSeverity {
    /// The contract can't be used.
    Error,
    /// The contract can be used, and probably says something else than was meant.
    Warning,
}

impl Diagnostic {
    pub(super) fn new(span: Range<usize>, message: impl Into<String>) -> Self {
        Self {
            severity: DiagnosticSeverity::Error,
            message: message.into(),
            span,
            label: String::new(),
            help: None,
            also: None,
        }
    }

    pub(super) fn warning(span: Range<usize>, message: impl Into<String>) -> Self {
        Self { severity: DiagnosticSeverity::Warning, ..Self::new(span, message) }
    }

    pub(super) fn label(mut self, label: impl Into<String>) -> Self {
        self.label = label.into();
        self
    }

    pub(super) fn help(mut self, help: impl Into<String>) -> Self {
        self.help = Some(help.into());
        self
    }

    pub(super) fn also(mut self, span: Range<usize>, label: impl Into<String>) -> Self {
        self.also = Some((span, label.into()));
        self
    }

    /// The line and column where it starts, both from 1; columns count characters.
    #[must_use]
    pub fn line_and_column(&self, text: &str) -> (usize, usize) {
        let before = text.get(..self.span.start.min(text.len())).unwrap_or_default();
        let line_start = before.rfind('\n').map_or(0, |at| at + 1);
        let line = before.bytes().filter(|byte| *byte == b'\n').count() + 1;
        (line, before.get(line_start..).unwrap_or_default().chars().count() + 1)
    }
}
