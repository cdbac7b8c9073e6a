//! `fclerk completions`: what a shell needs to complete a call.

use clap::CommandFactory as _;

use crate::exit::{Completion, Failure};
use crate::flags::{CompletionsArgs, Flags};
use crate::output::print_bytes;

pub(crate) fn run(args: &CompletionsArgs) -> Result<Completion, Failure> {
    let mut script = Vec::new();
    clap_complete::generate(args.shell, &mut Flags::command(), "fclerk", &mut script);
    print_bytes(&script)?;
    Ok(Completion::Kept)
}
