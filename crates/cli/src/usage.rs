//! What is said of a call that clap can't read: what was probably meant.

use clap::Parser as _;
use clap::error::{ContextKind, ContextValue, ErrorKind};

use crate::flags::Flags;

/// Words that other tools have for our commands.
const COMMANDS: [(&str, &str); 16] = [
    ("lint", "check"),
    ("validate", "check"),
    ("verify", "check"),
    ("test", "check"),
    ("judge", "check"),
    ("run", "check"),
    ("report", "check"),
    ("diff", "compare"),
    ("proxy", "record"),
    ("capture", "record"),
    ("init", "draft"),
    ("generate", "draft"),
    ("fuzz", "probe"),
    ("send", "probe"),
    ("docs", "handbook"),
    ("redact", "scrub"),
];

/// Options that are spelled otherwise here.
const OPTIONS: [(&str, &str); 15] = [
    ("--json", "--format json"),
    ("--markdown", "--format markdown"),
    ("--html", "--report html=FILE"),
    ("--junit", "--report junit=FILE"),
    ("--sarif", "--report sarif=FILE"),
    ("--csv", "--report csv=FILE"),
    ("--since", "--baseline LEDGER"),
    ("--against", "--baseline LEDGER"),
    ("--previous", "--baseline LEDGER"),
    ("--severity", "--fail-on SEVERITY"),
    ("--fail-level", "--fail-on SEVERITY"),
    ("--spec", "--openapi FILE"),
    ("--out", "--output FILE"),
    ("--url", "--base-url URL"),
    ("--port", "--listen ADDRESS:PORT"),
];

/// Reads the command line; a call that can't be read ends the program with what was probably meant.
pub(crate) fn parse() -> Flags {
    Flags::try_parse().unwrap_or_else(|mut error| {
        suggest(&mut error);
        error.exit()
    })
}

fn suggest(error: &mut clap::Error) {
    let of = |error: &clap::Error, kind| match error.get(kind) {
        Some(ContextValue::String(text)) => Some(text.clone()),
        _ => None,
    };
    match error.kind() {
        ErrorKind::InvalidSubcommand => {
            let Some(word) = of(error, ContextKind::InvalidSubcommand) else { return };
            if let Some((_, command)) = COMMANDS.iter().find(|(known, _)| *known == word) {
                let suggested = ContextValue::Strings(vec![(*command).to_owned()]);
                error.insert(ContextKind::SuggestedSubcommand, suggested);
            }
        }
        ErrorKind::UnknownArgument => {
            let Some(option) = of(error, ContextKind::InvalidArg) else { return };
            if let Some((_, instead)) = OPTIONS.iter().find(|(known, _)| *known == option) {
                // The usage that clap made up shows the option that it would have suggested.
                error.remove(ContextKind::SuggestedArg);
                error.remove(ContextKind::Usage);
                let text = format!("here it is written `{instead}`, where a command has it");
                error.insert(ContextKind::Suggested, ContextValue::StyledStrs(vec![text.into()]));
            }
        }
        _ => {}
    }
}
