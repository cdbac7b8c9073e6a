//! Command lines, right and wrong.

use super::*;
use clap::CommandFactory as _;
use clap::error::ErrorKind;

#[test]
fn the_definition_is_sound() {
    Flags::command().debug_assert();
}

#[test]
fn command_lines_that_are_right() {
    for line in [
        "fclerk check a.har",
        "fclerk check --contract c.toml --format json a.har b.har folder -",
        "fclerk --color never check -",
        "fclerk check - --color always --threads 2",
        "fclerk check --recorded-in development=a.har --recorded-in production=b.har",
        "fclerk survey a.har",
        "fclerk survey --contract c.toml --format markdown a.har -",
        "fclerk survey --openapi api.yaml --threads 2 folder",
        "fclerk draft a.har --output c.toml",
        "fclerk draft --openapi api.yaml --format json -",
        "fclerk show a.har#1",
        "fclerk show -#7 --raw",
        "fclerk show --contract c.toml --format json a#b.har#12",
        "fclerk coverage --at-least 80 a.har",
        "fclerk coverage --contract c.toml --format markdown a.har",
        "fclerk compare a.har b.har",
        "fclerk compare --between environments --format json - b",
        "fclerk compare --between callers --contract c.toml a.har b.har",
        "fclerk convert --to warc a.har --output b.warc.gz",
        "fclerk convert --to jsonl --from http folder -",
        "fclerk scrub a.har",
        "fclerk scrub --contract c.toml --output out --key-env KEY a.har b.har",
        "fclerk check --report html=a.html --report ledger=b.json a.har",
        "fclerk check --fail-on note --baseline old.json --allow-unreadable a.har",
        "fclerk check --write-waivers w.toml --until 2027-05-31 --reason old a.har",
        "fclerk merge --quiet --report junit=x.xml a.json b.json",
        "fclerk survey --report html=a.html -v a.har",
        "fclerk completions fish",
        "fclerk manual",
        "fclerk probe --dry-run --only berths --skip null",
        "fclerk probe --base-url http://127.0.0.1:7878/v1 --allow-writes --set berth_id=A-3",
        "fclerk handbook --contract c.toml --output pages",
        "fclerk check --all --max-exchange 16 a.har",
        "fclerk explain",
        "fclerk explain --format markdown",
        "fclerk explain problem.status-agrees",
        "fclerk demo --output x",
    ] {
        assert!(Flags::try_parse_from(line.split(' ')).is_ok(), "{line}");
    }
}

#[test]
fn command_lines_that_are_wrong() {
    for (line, kind) in [
        ("fclerk", ErrorKind::DisplayHelpOnMissingArgumentOrSubcommand),
        ("fclerk chek", ErrorKind::InvalidSubcommand),
        ("fclerk check", ErrorKind::MissingRequiredArgument),
        ("fclerk check --format xml a", ErrorKind::InvalidValue),
        ("fclerk check --report html a", ErrorKind::ValueValidation),
        ("fclerk check --report json= a", ErrorKind::ValueValidation),
        ("fclerk check --ledger --quiet a", ErrorKind::ArgumentConflict),
        ("fclerk check --first 0 a", ErrorKind::ValueValidation),
        ("fclerk check --name a --part-of b c", ErrorKind::ArgumentConflict),
        ("fclerk check --report sarf=x a", ErrorKind::ValueValidation),
        ("fclerk survey --report junit=x a", ErrorKind::ValueValidation),
        ("fclerk check --fail-on error a", ErrorKind::InvalidValue),
        ("fclerk check --write-waivers w --until 2027-05-31 a", ErrorKind::MissingRequiredArgument),
        ("fclerk check --until 2027-05-31 a", ErrorKind::MissingRequiredArgument),
        ("fclerk check --write-waivers w --until soon --reason x a", ErrorKind::ValueValidation),
        ("fclerk merge", ErrorKind::MissingRequiredArgument),
        ("fclerk -q -v check a", ErrorKind::ArgumentConflict),
        ("fclerk completions tcsh", ErrorKind::InvalidValue),
        ("fclerk check --threads 0 a", ErrorKind::ValueValidation),
        ("fclerk check --recorded-in a.har", ErrorKind::ValueValidation),
        ("fclerk survey", ErrorKind::MissingRequiredArgument),
        ("fclerk survey --contract a --openapi b c", ErrorKind::ArgumentConflict),
        ("fclerk survey --format toml a", ErrorKind::InvalidValue),
        ("fclerk draft --output", ErrorKind::InvalidValue),
        ("fclerk show a.har", ErrorKind::ValueValidation),
        ("fclerk show a.har#0", ErrorKind::ValueValidation),
        ("fclerk show a.har#-1", ErrorKind::ValueValidation),
        ("fclerk show #1", ErrorKind::ValueValidation),
        ("fclerk show --raw --format json a#1", ErrorKind::ArgumentConflict),
        ("fclerk coverage --at-least 101 a", ErrorKind::ValueValidation),
        ("fclerk coverage --at-least -1 a", ErrorKind::UnknownArgument),
        ("fclerk compare a.har", ErrorKind::MissingRequiredArgument),
        ("fclerk compare a b c", ErrorKind::UnknownArgument),
        ("fclerk compare --between versions,callers a b", ErrorKind::InvalidValue),
        ("fclerk convert a.har", ErrorKind::MissingRequiredArgument),
        ("fclerk convert --to xml a.har", ErrorKind::InvalidValue),
        ("fclerk convert --all --to har a.har", ErrorKind::UnknownArgument),
        ("fclerk check --from csv a.har", ErrorKind::InvalidValue),
        ("fclerk check --max-exchange 0 a.har", ErrorKind::ValueValidation),
        ("fclerk scrub", ErrorKind::MissingRequiredArgument),
        ("fclerk explain x.y --format markdown", ErrorKind::ArgumentConflict),
        ("fclerk check --strict a", ErrorKind::UnknownArgument),
    ] {
        let error = Flags::try_parse_from(line.split(' ')).unwrap_err();
        assert_eq!(error.kind(), kind, "{line}");
    }
}
