//! `fclerk`: checks recorded HTTP exchanges of a JSON service against a declared error contract.

#![forbid(unsafe_code)]

mod blanks;
mod child;
mod commands;
mod contracts;
mod exit;
mod findings_log;
mod finish;
mod flags;
mod inputs;
mod ledger_sum;
mod ledgers;
mod output;
mod page_exchanges;
mod prepared_check;
mod recorder;
mod recording_file;
mod recordings;
mod reports;
mod temporary;
mod usage;

use std::process::ExitCode;

use flags::{Command, Flags};

fn main() -> ExitCode {
    let Flags { color, quiet, verbose, command } = usage::parse();
    let settings = flags::OutputSettings::of(color, quiet);
    if verbose {
        output::announce_steps();
    }
    let outcome = match command {
        Command::Check(args) => commands::check::run(&args, &settings),
        Command::Merge(args) => commands::merge::run(&args, &settings),
        Command::Survey(args) => commands::survey::run(&args, &settings),
        Command::Draft(args) => commands::draft::run(&args),
        Command::Show(args) => commands::show::run(&args, &settings),
        Command::Coverage(args) => commands::coverage::run(&args, &settings),
        Command::Compare(args) => commands::compare::run(&args, &settings),
        Command::Probe(args) => commands::probe::run(&args, &settings),
        Command::Record(args) => commands::record::run(&args, &settings),
        Command::Convert(args) => commands::convert::run(&args),
        Command::Scrub(args) => commands::scrub::run(&args, &settings),
        Command::Handbook(args) => commands::handbook::run(&args, &settings),
        Command::Explain(args) => commands::explain::run(&args, &settings),
        Command::Demo(args) => commands::demo::run(&args, &settings),
        Command::Completions(args) => commands::completions::run(&args),
        Command::Manual(args) => commands::manual::run(&args),
    };
    exit::code(outcome)
}
