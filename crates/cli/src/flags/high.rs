//! What follows from the command line and the place we run in. The environment is asked here only.

use std::io::IsTerminal as _;

use faithful_clerk_report::{ColorMode, MarkStyle, Theme};

use super::low::ColorChoice;

/// Where the output goes, and how it is to be drawn there.
#[derive(Debug)]
pub(crate) struct OutputSettings {
    /// How this program is called from a shell.
    pub(crate) program: String,
    /// Are results of checks, surveys and comparisons not wanted on standard output?
    pub(crate) quiet: bool,
    /// For results.
    pub(crate) stdout: Theme,
    /// For messages.
    pub(crate) stderr: Theme,
}

/// Lines are as long as this where nobody says how wide the output is.
const USUAL_WIDTH: usize = 100;

/// Below this nothing can be laid out; above it, lines are too long to read.
const WIDTHS: std::ops::RangeInclusive<usize> = 60..=160;

impl OutputSettings {
    pub(crate) fn of(when: ColorChoice, quiet: bool) -> Self {
        let env = |name: &str| std::env::var(name).ok().filter(|value| !value.is_empty());
        let theme = |is_terminal: bool, measured: Option<usize>| Theme {
            colour: match when {
                ColorChoice::Always => ColorMode::Always,
                ColorChoice::Auto if is_terminal && env("NO_COLOR").is_none() => ColorMode::Always,
                ColorChoice::Auto | ColorChoice::Never => ColorMode::Never,
            },
            marks: marks(is_terminal, env("LC_ALL").or(env("LC_CTYPE")).or(env("LANG")).as_deref()),
            width: env("COLUMNS")
                .and_then(|columns| columns.parse().ok())
                .or(measured)
                .unwrap_or(USUAL_WIDTH)
                .clamp(*WIDTHS.start(), *WIDTHS.end()),
        };
        let width = |size: Option<(terminal_size::Width, terminal_size::Height)>| {
            size.map(|(terminal_size::Width(columns), _)| usize::from(columns))
        };
        let (out, err) = (std::io::stdout(), std::io::stderr());
        Self {
            program: program(),
            quiet,
            stdout: theme(out.is_terminal(), width(terminal_size::terminal_size_of(&out))),
            stderr: theme(err.is_terminal(), width(terminal_size::terminal_size_of(&err))),
        }
    }
}

/// The bare name if the shell would find it, else the path, so that a suggestion can be pasted.
fn program() -> String {
    const NAME: &str = "fclerk";
    let Ok(path) = std::env::current_exe() else { return NAME.to_owned() };
    let is_on_path = std::env::var_os("PATH").is_some_and(|folders| {
        std::env::split_paths(&folders).any(|folder| Some(folder.as_path()) == path.parent())
    });
    if is_on_path { NAME.to_owned() } else { path.display().to_string() }
}

/// A terminal gets marks beyond ASCII if its locale has them; a file always can hold them.
fn marks(is_terminal: bool, locale: Option<&str>) -> MarkStyle {
    let utf8 = locale.is_some_and(|locale| {
        let locale = locale.to_ascii_lowercase();
        locale.contains("utf-8") || locale.contains("utf8")
    });
    if utf8 || !is_terminal { MarkStyle::Unicode } else { MarkStyle::Ascii }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_terminal_without_utf_8_gets_ascii() {
        assert_eq!(marks(true, Some("en_GB.UTF-8")), MarkStyle::Unicode);
        assert_eq!(marks(true, Some("C")), MarkStyle::Ascii);
        assert_eq!(marks(true, None), MarkStyle::Ascii);
        assert_eq!(marks(false, None), MarkStyle::Unicode);
    }
}
