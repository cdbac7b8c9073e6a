//! `fclerk completions`: what a shell needs to complete a call.

use clap::CommandFactory as _;

use crate::exit::{Completion, Failure};
use crate::flags::{CompletionsArgs, Flags};
use crate::output::say_bytes;

pub(crate) fn run(call: &CompletionsArgs) -> Result<Completion, Failure> {
    let mut script = Vec::new();
    clap_complete::generate(call.shell, &mut Flags::command(), "fclerk", &mut script);
    say_bytes(&script)?;
    Ok(Completion::Kept)
}
