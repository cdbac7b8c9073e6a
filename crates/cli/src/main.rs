//! `fclerk`: checks recorded HTTP exchanges of a JSON service against a declared error contract.

#![forbid(unsafe_code)]

mod commands;
mod contracts;
mod exit;
mod flags;
mod inputs;
mod output;
mod recordings;

use std::process::ExitCode;

use clap::Parser as _;

use flags::{Command, Flags};

fn main() -> ExitCode {
    let Flags { color, command } = Flags::parse();
    let stage = flags::Stage::of(color);
    let outcome = match command {
        Command::Check(call) => commands::check::run(&call, &stage),
        Command::Survey(call) => commands::survey::run(&call, &stage),
        Command::Draft(call) => commands::draft::run(&call, &stage),
        Command::Show(call) => commands::show::run(&call, &stage),
        Command::Coverage(call) => commands::coverage::run(&call, &stage),
        Command::Compare(call) => commands::compare::run(&call, &stage),
        Command::Convert(call) => commands::convert::run(&call),
        Command::Scrub(call) => commands::scrub::run(&call, &stage),
        Command::Explain(call) => commands::explain::run(&call, &stage),
        Command::Demo(call) => commands::demo::run(&call, &stage),
    };
    exit::code(outcome)
}
