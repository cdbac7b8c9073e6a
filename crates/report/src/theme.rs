//! Colours and marks.

use anstyle::{AnsiColor, Style};
use faithful_clerk_core::{Mark, Weight};

/// Is colour used?
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Colour {
    /// Yes.
    Always,
    /// No: every style is plain.
    Never,
}

/// With which characters are marks and lines drawn?
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Marks {
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

impl From<&Mark> for Tone {
    fn from(mark: &Mark) -> Self {
        match mark {
            Mark::Kept => Self::Good,
            Mark::Broken => Self::Bad,
            Mark::Unjudged => Self::Doubt,
            Mark::NotTried => Self::Faint,
            Mark::NotApplicable => Self::Plain,
        }
    }
}

/// How text is drawn, and how wide.
#[derive(Debug, Clone, Copy)]
pub struct Theme {
    /// Colour or none.
    pub colour: Colour,
    /// The marks.
    pub marks: Marks,
    /// The width in columns.
    pub width: usize,
}

impl Theme {
    /// Without colour, for files and tests.
    #[must_use]
    pub fn bare(width: usize) -> Self {
        Self { colour: Colour::Never, marks: Marks::Unicode, width }
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
            Colour::Always if !text.is_empty() => format!("{style}{text}{style:#}"),
            Colour::Always | Colour::Never => text.to_owned(),
        }
    }

    pub(crate) fn strong(self, text: &str) -> String {
        self.paint(Style::new().bold(), text)
    }

    pub(crate) fn faint(self, text: &str) -> String {
        self.paint(Style::new().dimmed(), text)
    }

    /// The weight's word in its colour.
    pub(crate) fn weight(self, weight: Weight, text: &str) -> String {
        let style = match weight {
            Weight::Breach => AnsiColor::Red.on_default().bold(),
            Weight::Lapse => AnsiColor::Yellow.on_default().bold(),
            Weight::Remark => AnsiColor::Cyan.on_default(),
        };
        self.paint(style, text)
    }

    /// The mark of a cell.
    pub(crate) fn mark(self, mark: Mark) -> String {
        let text = self.mark_text(mark);
        match mark {
            Mark::Kept => self.paint(AnsiColor::Green.on_default(), text),
            Mark::Broken => self.paint(AnsiColor::Red.on_default().bold(), text),
            Mark::Unjudged => self.paint(AnsiColor::Yellow.on_default(), text),
            Mark::NotTried => self.faint(text),
            Mark::NotApplicable => text.to_owned(),
        }
    }

    /// The mark without colour; each differs from the others by form.
    pub(crate) fn mark_text(self, mark: Mark) -> &'static str {
        match (self.marks, mark) {
            (Marks::Unicode, Mark::Kept) => "✓",
            (Marks::Unicode, Mark::Broken) => "✗",
            (Marks::Unicode, Mark::NotTried) => "·",
            (Marks::Ascii, Mark::Kept) => "+",
            (Marks::Ascii, Mark::Broken) => "X",
            (Marks::Ascii, Mark::NotTried) => ".",
            (_, Mark::Unjudged) => "?",
            (_, Mark::NotApplicable) => " ",
        }
    }

    /// The line from a column's name down to the column.
    pub(crate) fn line(self) -> &'static str {
        match self.marks {
            Marks::Unicode => "│",
            Marks::Ascii => "|",
        }
    }

    /// What stands for text that is left out.
    pub(crate) fn more(self) -> &'static str {
        match self.marks {
            Marks::Unicode => "…",
            Marks::Ascii => "~",
        }
    }
}
