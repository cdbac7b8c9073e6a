//! The ledgers of a call: in files, folders or standard input, one or many in each, compressed or not.

use std::cell::Cell;
use std::fs::File;
use std::io::{self, BufRead as _, BufReader, Read};
use std::path::{Path, PathBuf};
use std::rc::Rc;

use faithful_clerk_recording::{Source, unpack};
use serde_json::value::RawValue;
use tempfile::NamedTempFile;

use crate::exit::Failure;
use crate::inputs::FileKind;
use crate::temporary::temporary;

/// A ledger that is larger is none of anything that was read in a day.
const LARGEST: u64 = 256 << 20;

/// So many bytes of a ledger show what it is.
const KIND_SHOWS: u64 = 64;

/// Where ledgers are: files, and standard input in one.
#[derive(Debug)]
pub(crate) struct LedgerInputs {
    files: Vec<(String, PathBuf)>,
    /// Standard input, which is read twice as all others.
    _kept: Option<NamedTempFile>,
}

impl LedgerInputs {
    /// What the arguments mean. A folder stands for the files in it, in the order of their names.
    pub(crate) fn of(arguments: &[PathBuf]) -> Result<Self, Failure> {
        let (mut files, mut kept) = (Vec::new(), None);
        for argument in arguments {
            let name = argument.display().to_string();
            let fail = |error: io::Error| Failure::Call(format!("{name}: {error}"));
            if argument.as_os_str() == "-" {
                let mut file = temporary(&tempfile::Builder::new(), None).map_err(fail)?;
                io::copy(&mut io::stdin(), &mut file).map_err(fail)?;
                files.push((name.clone(), file.path().to_owned()));
                kept = Some(file);
            } else if argument.is_dir() {
                let before = files.len();
                walk(argument, &mut files).map_err(fail)?;
                if files.len() == before {
                    return Err(Failure::Call(format!("{name}: no files in this folder")));
                }
            } else {
                files.push((name, argument.clone()));
            }
        }
        Ok(Self { files, _kept: kept })
    }

    /// What the first of them is.
    pub(crate) fn kind(&self) -> Option<FileKind> {
        // What is read of a pipe is gone.
        let (_, path) = self.files.first().filter(|(_, path)| path.is_file())?;
        let is_brotli = path.extension().is_some_and(|ending| ending == "br");
        kind(Source::of(File::open(path).ok()?).brotli(is_brotli))
    }

    /// The files, where they are files of the call.
    pub(crate) fn paths(&self) -> impl Iterator<Item = &Path> {
        self.files.iter().map(|(_, path)| path.as_path())
    }

    /// Gives the text of each ledger, one after the other, with the name of its file. Nothing else is kept of it.
    pub(crate) fn each(
        &self,
        mut look: impl FnMut(&str, &str) -> Result<(), Failure>,
    ) -> Result<(), Failure> {
        for (name, path) in &self.files {
            let fail = |why: String| Failure::Call(format!("can't read the ledger {name}: {why}"));
            let file = File::open(path).map_err(|error| fail(error.to_string()))?;
            let is_brotli = path.extension().is_some_and(|ending| ending == "br");
            let bytes = unpack(Source::of(file).brotli(is_brotli));
            let left = Rc::new(Cell::new(LARGEST));
            let bytes = Bounded { bytes, left: Rc::clone(&left) };
            let reader = serde_json::Deserializer::from_reader(BufReader::new(bytes));
            let mut of_file = 0_u64;
            for ledger in reader.into_iter::<Box<RawValue>>() {
                let ledger = ledger.map_err(|error| fail(error.to_string()))?;
                left.set(LARGEST);
                of_file += 1;
                look(name, ledger.get())?;
            }
            if of_file == 0 {
                return Err(fail("the file is empty".to_owned()));
            }
        }
        Ok(())
    }
}

/// Are the arguments ledgers of checks, and not recordings? The first tells.
pub(crate) fn are_ledgers(arguments: &[PathBuf]) -> bool {
    let Some(first) = arguments.first() else { return false };
    let found = match first.as_os_str() == "-" {
        // What is looked at stays there to be read.
        true => io::stdin().lock().fill_buf().ok().and_then(|start| kind(Source::of(start))),
        false => LedgerInputs::of(std::slice::from_ref(first)).ok().and_then(|one| one.kind()),
    };
    found == Some(FileKind::CheckLedger)
}

/// What bytes are the start of, compressed or not.
fn kind(bytes: Source<'_>) -> Option<FileKind> {
    let mut start = Vec::new();
    // A start that ends within something compressed is enough.
    _ = unpack(bytes).take(KIND_SHOWS).read_to_end(&mut start);
    FileKind::of_bytes(&start)
}

/// Adds the files of a folder and of those in it, but for hidden ones.
fn walk(folder: &Path, files: &mut Vec<(String, PathBuf)>) -> io::Result<()> {
    let mut entries: Vec<_> = std::fs::read_dir(folder)?.collect::<Result<_, _>>()?;
    entries.sort_by_key(std::fs::DirEntry::file_name);
    for entry in entries {
        let (path, kind) = (entry.path(), entry.file_type()?);
        if entry.file_name().to_string_lossy().starts_with('.') {
            continue;
        }
        // A link to a folder may lead back.
        if kind.is_dir() {
            walk(&path, files)?;
        } else if path.is_file() {
            files.push((path.display().to_string(), path));
        }
    }
    Ok(())
}

/// A reader that ends in an error once a ledger has grown too large.
struct Bounded<R> {
    bytes: R,
    left: Rc<Cell<u64>>,
}

impl<R: Read> Read for Bounded<R> {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        let length = self.bytes.read(into)?;
        match self.left.get().checked_sub(length as u64) {
            Some(left) => self.left.set(left),
            None => {
                return Err(io::Error::other(format!("it is larger than {} MiB", LARGEST >> 20)));
            }
        }
        Ok(length)
    }
}
