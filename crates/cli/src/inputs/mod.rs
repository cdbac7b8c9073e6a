//! Which recordings a call means: files, pairs of files, folders, standard input.

mod again;
mod input;
mod paths;
mod recognise;
mod walk;

pub(crate) use again::RereadableInput;
pub(crate) use input::Input;
pub(crate) use paths::{ContractFolder, inputs, read_text_file};
pub(crate) use recognise::FileKind;
