//! Colours and marks.

use anstyle::{AnsiColor, Style};
use faithful_clerk_check::grid::CellMark;
use faithful_clerk_model::finding::Severity;

/// Is colour used?
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ColorMode {
    /// Yes.
    Always,
    /// No: every style is plain.
    Never,
}

/// With which characters are marks and lines drawn?
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum MarkStyle {
    /// Beyond ASCII.
    Unicode,
    /// ASCII alone.
    Ascii,
}

/// What a piece of text is, by which it gets its look.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Tone {
    Plain,
    Strong,
    Faint,
    /// A name that stands for itself.
    Code,
    /// As it should be.
    Good,
    /// Not as it should be.
    Bad,
    /// To be looked at.
    Doubt,
}

impl From<&CellMark> for Tone {
    fn from(mark: &CellMark) -> Self {
        match mark {
            CellMark::Met => Self::Good,
            CellMark::Broken => Self::Bad,
            CellMark::NotChecked => Self::Doubt,
            CellMark::NotCovered => Self::Faint,
            CellMark::NotApplicable => Self::Plain,
        }
    }
}

/// How text is drawn, and how wide.
#[derive(Debug, Clone, Copy)]
pub struct Theme {
    /// Colour or none.
    pub colour: ColorMode,
    /// The marks.
    pub marks: MarkStyle,
    /// The width in columns.
    pub width: usize,
}

impl Theme {
    /// Without colour, for files and tests.
    #[must_use]
    pub fn bare(width: usize) -> Self {
        Self { colour: ColorMode::Never, marks: MarkStyle::Unicode, width }
    }

    pub(crate) fn tone(self, tone: Tone, text: &str) -> String {
        let style = match tone {
            Tone::Plain => return text.to_owned(),
            Tone::Strong => Style::new().bold(),
            Tone::Faint => Style::new().dimmed(),
            Tone::Code => AnsiColor::Cyan.on_default(),
            Tone::Good => AnsiColor::Green.on_default(),
            Tone::Bad => AnsiColor::Red.on_default().bold(),
            Tone::Doubt => AnsiColor::Yellow.on_default(),
        };
        self.paint(style, text)
    }

    pub(crate) fn paint(self, style: Style, text: &str) -> String {
        match self.colour {
            ColorMode::Always if !text.is_empty() => format!("{style}{text}{style:#}"),
            ColorMode::Always | ColorMode::Never => text.to_owned(),
        }
    }

    pub(crate) fn strong(self, text: &str) -> String {
        self.paint(Style::new().bold(), text)
    }

    pub(crate) fn faint(self, text: &str) -> String {
        self.paint(Style::new().dimmed(), text)
    }

    /// The severity's word in its colour.
    pub(crate) fn weight(self, weight: Severity, text: &str) -> String {
        let style = match weight {
            Severity::Breach => AnsiColor::Red.on_default().bold(),
            Severity::Warning => AnsiColor::Yellow.on_default().bold(),
            Severity::Note => AnsiColor::Cyan.on_default(),
        };
        self.paint(style, text)
    }

    /// The mark of a cell.
    pub(crate) fn mark(self, mark: CellMark) -> String {
        let text = self.mark_text(mark);
        match mark {
            CellMark::Met => self.paint(AnsiColor::Green.on_default(), text),
            CellMark::Broken => self.paint(AnsiColor::Red.on_default().bold(), text),
            CellMark::NotChecked => self.paint(AnsiColor::Yellow.on_default(), text),
            CellMark::NotCovered => self.faint(text),
            CellMark::NotApplicable => text.to_owned(),
        }
    }

    /// The mark without colour; each differs from the others by form.
    pub(crate) fn mark_text(self, mark: CellMark) -> &'static str {
        match (self.marks, mark) {
            (MarkStyle::Unicode, CellMark::Met) => "✓",
            (MarkStyle::Unicode, CellMark::Broken) => "✗",
            (MarkStyle::Unicode, CellMark::NotCovered) => "·",
            (MarkStyle::Ascii, CellMark::Met) => "+",
            (MarkStyle::Ascii, CellMark::Broken) => "X",
            (MarkStyle::Ascii, CellMark::NotCovered) => ".",
            (_, CellMark::NotChecked) => "?",
            (_, CellMark::NotApplicable) => " ",
        }
    }

    /// The line from a column's name down to the column.
    pub(crate) fn line(self) -> &'static str {
        match self.marks {
            MarkStyle::Unicode => "│",
            MarkStyle::Ascii => "|",
        }
    }

    /// What stands for text that is left out.
    pub(crate) fn more(self) -> &'static str {
        match self.marks {
            MarkStyle::Unicode => "…",
            MarkStyle::Ascii => "~",
        }
    }
}
