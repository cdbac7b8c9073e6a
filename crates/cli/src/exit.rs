//! The exit codes, and what leads to each.

use std::process::ExitCode;

use crate::output::print_error;

/// How a command ended that could be carried out.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Completion {
    /// Every clause was kept, warnings and notes allowed; or there was nothing to check.
    Kept,
    /// At least one breach.
    Broken,
    /// A recording could not be read to its end; what was read is reported.
    NotAllRead,
    /// Something in the call was wrong, and has been said; the rest was done.
    CallWrong,
    /// A command that was run ended with that code, and there is nothing to add to it.
    OfCommand(u8),
}

/// Why a command could not be carried out.
#[derive(Debug)]
pub(crate) enum Failure {
    /// The call is wrong; the text says how.
    Call(String),
    /// The call or the contract is wrong, and that has been said.
    Said,
    /// A result could not be written.
    Output(std::io::Error),
}

/// The code: 0 kept, 1 breaches, 2 call or contract wrong, 3 not all read. 2 wins over 3 over 1.
pub(crate) fn code(outcome: Result<Completion, Failure>) -> ExitCode {
    ExitCode::from(match outcome {
        Ok(Completion::Kept) => 0,
        Ok(Completion::Broken) => 1,
        Ok(Completion::CallWrong) | Err(Failure::Said) => 2,
        Ok(Completion::NotAllRead) => 3,
        Ok(Completion::OfCommand(code)) => code,
        Err(Failure::Call(message)) => {
            print_error(&message);
            2
        }
        Err(Failure::Output(error)) => {
            print_error(&format!("the result could not be written: {error}"));
            2
        }
    })
}
