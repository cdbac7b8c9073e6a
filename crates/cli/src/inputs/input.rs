//! One recording of a call.

use std::fs::File;
use std::path::{Path, PathBuf};

use faithful_clerk_recording::Source;
use indicatif::ProgressBar;

/// What names a file of requests, and what names the file of their responses.
const REQUEST: &str = ".request.";
const RESPONSE: &str = ".response.";

/// A recording to read.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum Input {
    /// Standard input.
    Standard,
    /// A file.
    File(PathBuf),
    /// Two files, HTTP requests in one and their responses in the other.
    Pair(PathBuf, PathBuf),
}

/// What a file means: itself, or a pair that it is the one half of.
pub(super) fn of_file(path: &Path) -> Input {
    if let Some(responses) = partner(path, REQUEST, RESPONSE) {
        return Input::Pair(path.to_owned(), responses);
    }
    match partner(path, RESPONSE, REQUEST) {
        Some(requests) => Input::Pair(requests, path.to_owned()),
        None => Input::File(path.to_owned()),
    }
}

impl Input {
    /// What an argument means that is no folder.
    pub(crate) fn of(argument: &Path) -> Self {
        if argument.as_os_str() == "-" { Self::Standard } else { of_file(argument) }
    }

    /// The files that it consists of, each by itself.
    pub(crate) fn each(self) -> Vec<Self> {
        match self {
            Self::Pair(requests, responses) => vec![Self::File(requests), Self::File(responses)],
            input => vec![input],
        }
    }

    /// Its name in addresses; a pair has that of its requests.
    pub(crate) fn name(&self) -> String {
        match self {
            Self::Standard => "-".to_owned(),
            Self::File(path) | Self::Pair(path, _) => path.display().to_string(),
        }
    }

    /// How large it is, where that is known.
    pub(crate) fn size(&self) -> Option<u64> {
        match self {
            Self::Standard => None,
            Self::File(path) | Self::Pair(path, _) => {
                std::fs::metadata(path).ok().map(|metadata| metadata.len())
            }
        }
    }

    /// Its bytes; the bar shows how many were read.
    pub(crate) fn open(&self, bar: &ProgressBar) -> std::io::Result<Source<'static>> {
        Ok(match self {
            Self::Standard => Source::of(bar.wrap_read(std::io::stdin())),
            Self::File(path) => {
                Source::of(bar.wrap_read(File::open(path)?)).brotli(is_brotli(path))
            }
            Self::Pair(requests, responses) => {
                Source::pair(bar.wrap_read(File::open(requests)?), File::open(responses)?)
                    .brotli(is_brotli(requests))
            }
        })
    }
}

/// Brotli has no mark of its own; a name has to say it.
fn is_brotli(path: &Path) -> bool {
    path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("br"))
}

/// The file of responses that belongs to a file of requests, or the other way round: in the same folder,
/// with the same name up to the word.
fn partner(path: &Path, word: &str, other: &str) -> Option<PathBuf> {
    let name = path.file_name()?.to_str()?;
    let stem = name.find(word).and_then(|at| name.get(..at))?;
    let folder = match path.parent() {
        Some(folder) if !folder.as_os_str().is_empty() => folder,
        _ => Path::new("."),
    };
    let mut found: Vec<_> = std::fs::read_dir(folder)
        .ok()?
        .flatten()
        .map(|entry| entry.file_name())
        .filter(|name| {
            let rest = name.to_str().and_then(|name| name.strip_prefix(stem));
            rest.is_some_and(|rest| rest.starts_with(other))
        })
        .collect();
    found.sort();
    Some(path.with_file_name(found.into_iter().next()?))
}
