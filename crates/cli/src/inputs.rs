//! Which recordings a call means: files, folders, standard input.

use std::fs::File;
use std::io::Read;
use std::path::{Path, PathBuf};

use faithful_clerk_core::Files;

/// A recording to read.
#[derive(Debug, PartialEq, Eq)]
pub(crate) enum Input {
    /// Standard input.
    Standard,
    /// A file.
    File(PathBuf),
}

impl Input {
    /// Its name in addresses.
    pub(crate) fn name(&self) -> String {
        match self {
            Self::Standard => "-".to_owned(),
            Self::File(path) => path.display().to_string(),
        }
    }

    /// Its bytes.
    pub(crate) fn open(&self) -> std::io::Result<Box<dyn Read + Send>> {
        Ok(match self {
            Self::Standard => Box::new(std::io::stdin()),
            Self::File(path) => Box::new(File::open(path)?),
        })
    }
}

/// A recording that is read more than once: standard input is put into a file for that.
#[derive(Debug)]
pub(crate) enum Again {
    /// A file.
    File(PathBuf),
    /// What came from standard input; the file goes when this does.
    Kept(tempfile::NamedTempFile),
}

impl Again {
    /// Makes an input one that can be read again.
    pub(crate) fn of(input: &Input) -> std::io::Result<Self> {
        Ok(match input {
            Input::File(path) => Self::File(path.clone()),
            Input::Standard => {
                let mut file = tempfile::NamedTempFile::new()?;
                std::io::copy(&mut std::io::stdin(), &mut file)?;
                Self::Kept(file)
            }
        })
    }

    /// Its bytes, from the start.
    pub(crate) fn open(&self) -> std::io::Result<File> {
        match self {
            Self::File(path) => File::open(path),
            Self::Kept(file) => file.reopen(),
        }
    }
}

/// The files beside a contract.
#[derive(Debug)]
pub(crate) struct Folder {
    /// The contract's folder.
    pub(crate) path: PathBuf,
}

impl Files for Folder {
    fn read(&self, path: &str) -> Result<Vec<u8>, String> {
        std::fs::read(self.path.join(path)).map_err(|error| error.to_string())
    }
}

/// The recordings that the arguments mean, in their order, and what is wrong with the others.
pub(crate) fn inputs(arguments: &[PathBuf]) -> (Vec<Input>, Vec<String>) {
    let (mut inputs, mut wrong) = (Vec::new(), Vec::new());
    for argument in arguments {
        if argument.as_os_str() == "-" {
            if inputs.contains(&Input::Standard) {
                wrong.push("standard input can be read only once".to_owned());
            } else {
                inputs.push(Input::Standard);
            }
            continue;
        }
        match std::fs::metadata(argument) {
            Err(error) => wrong.push(format!("{}: {error}", argument.display())),
            Ok(metadata) if metadata.is_dir() => {
                let mut files = Vec::new();
                walk(argument, &mut files, &mut wrong);
                if files.is_empty() {
                    wrong.push(format!("{}: no .har file in this folder", argument.display()));
                }
                inputs.extend(files.into_iter().map(Input::File));
            }
            Ok(_) => inputs.push(Input::File(argument.clone())),
        }
    }
    (inputs, wrong)
}

/// The `.har` files of a folder and of those in it, by name. Links to folders are not followed, so
/// that the walk comes to an end.
fn walk(folder: &Path, files: &mut Vec<PathBuf>, wrong: &mut Vec<String>) {
    let entries = match std::fs::read_dir(folder) {
        Ok(entries) => entries,
        Err(error) => return wrong.push(format!("{}: {error}", folder.display())),
    };
    let mut paths: Vec<PathBuf> = entries.flatten().map(|entry| entry.path()).collect();
    paths.sort();
    for path in paths {
        let is_link = path.is_symlink();
        if path.is_dir() && !is_link {
            walk(&path, files, wrong);
        } else if path.is_file()
            && path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("har"))
        {
            files.push(path);
        }
    }
}
