//! A recording that is read more than once: standard input is put into a file for that.

use faithful_clerk_recording::Source;
use indicatif::ProgressBar;

use super::Input;
use crate::temporary::temporary;

/// A recording that can be read again.
#[derive(Debug)]
pub(crate) enum RereadableInput {
    /// As it is.
    Input(Input),
    /// What came from standard input; the file goes when this does.
    Kept(tempfile::NamedTempFile),
}

impl RereadableInput {
    /// Makes an input one that can be read again.
    pub(crate) fn of(input: &Input) -> std::io::Result<Self> {
        Ok(match input {
            Input::File(_) | Input::Pair(..) => Self::Input(input.clone()),
            Input::Standard => {
                let mut file = temporary(&tempfile::Builder::new(), None)?;
                std::io::copy(&mut std::io::stdin(), &mut file)?;
                Self::Kept(file)
            }
        })
    }

    /// How large it is, where that is known.
    pub(crate) fn size(&self) -> Option<u64> {
        match self {
            Self::Input(input) => input.size(),
            Self::Kept(file) => file.as_file().metadata().ok().map(|metadata| metadata.len()),
        }
    }

    /// Its bytes, from the start.
    pub(crate) fn open(&self, bar: &ProgressBar) -> std::io::Result<Source<'static>> {
        match self {
            Self::Input(input) => input.open(bar),
            Self::Kept(file) => Ok(Source::of(bar.wrap_read(file.reopen()?))),
        }
    }
}
