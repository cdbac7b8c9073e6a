//! `fclerk`: checks recorded HTTP exchanges of a JSON service against a declared error contract.

#![forbid(unsafe_code)]

mod commands;
mod contracts;
mod exit;
mod finish;
mod flags;
mod inputs;
mod output;
mod page_exchanges;
mod recording_file;
mod recordings;
mod reports;

use std::process::ExitCode;

use clap::Parser as _;

use flags::{Command, Flags};

fn main() -> ExitCode {
    let Flags { color, quiet, verbose, command } = Flags::parse();
    let stage = flags::OutputSettings::of(color, quiet);
    if verbose {
        output::announce_steps();
    }
    let outcome = match command {
        Command::Check(call) => commands::check::run(&call, &stage),
        Command::Merge(call) => commands::merge::run(&call, &stage),
        Command::Survey(call) => commands::survey::run(&call, &stage),
        Command::Draft(call) => commands::draft::run(&call, &stage),
        Command::Show(call) => commands::show::run(&call, &stage),
        Command::Coverage(call) => commands::coverage::run(&call, &stage),
        Command::Compare(call) => commands::compare::run(&call, &stage),
        Command::Probe(call) => commands::probe::run(&call, &stage),
        Command::Record(call) => commands::record::run(&call, &stage),
        Command::Convert(call) => commands::convert::run(&call),
        Command::Scrub(call) => commands::scrub::run(&call, &stage),
        Command::Handbook(call) => commands::handbook::run(&call, &stage),
        Command::Explain(call) => commands::explain::run(&call, &stage),
        Command::Demo(call) => commands::demo::run(&call, &stage),
        Command::Completions(call) => commands::completions::run(&call),
        Command::Manual(call) => commands::manual::run(&call),
    };
    exit::code(outcome)
}
