//! `fclerk completions`: what a shell needs to complete a call.

use clap::CommandFactory as _;

use crate::exit::{Failure, Outcome};
use crate::flags::{CompletionsCall, Flags};
use crate::output::say_bytes;

pub(crate) fn run(call: &CompletionsCall) -> Result<Outcome, Failure> {
    let mut script = Vec::new();
    clap_complete::generate(call.shell, &mut Flags::command(), "fclerk", &mut script);
    say_bytes(&script)?;
    Ok(Outcome::Kept)
}
