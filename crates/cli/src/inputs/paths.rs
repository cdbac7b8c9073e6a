//! The recordings that the paths on a command line mean.

use faithful_clerk_recording::Format;
use faithful_clerk_schema::FileLoader;
use std::fs::File;
use std::io::{self, Read as _};
use std::path::{Path, PathBuf};

use super::input::Input;
use super::recognise::FileKind;

/// The files beside a contract.
#[derive(Debug)]
pub(crate) struct ContractFolder {
    /// The contract's folder.
    pub(crate) path: PathBuf,
}

/// No contract, description or schema is larger.
const LARGEST_TEXT: u64 = 64 << 20;

/// Reads a file that is no recording, as far as one can be.
pub(crate) fn read_text_file(path: &Path) -> io::Result<Vec<u8>> {
    let mut bytes = Vec::new();
    File::open(path)?.take(LARGEST_TEXT + 1).read_to_end(&mut bytes)?;
    match bytes.len() as u64 > LARGEST_TEXT {
        true => Err(io::Error::other(format!("it is larger than {} MiB", LARGEST_TEXT >> 20))),
        false => Ok(bytes),
    }
}

impl FileLoader for ContractFolder {
    fn read(&self, path: &str) -> Result<Vec<u8>, String> {
        let path = self.path.join(path);
        // A pipe or a device that a contract names might never end.
        let metadata = std::fs::metadata(&path).map_err(|error| error.to_string())?;
        if !metadata.is_file() {
            return Err("it is not a regular file".to_owned());
        }
        let bytes = read_text_file(&path).map_err(|error| error.to_string())?;
        match FileKind::of_bytes(&bytes).and_then(FileKind::not_a_text) {
            Some(why) => Err(why.to_owned()),
            None => Ok(bytes),
        }
    }
}

/// The recordings that the arguments mean, in their order, and what is wrong with the others. `format` is
/// their form, where the call says one.
pub(crate) fn inputs(arguments: &[PathBuf], format: Option<Format>) -> (Vec<Input>, Vec<String>) {
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
                let mut found = super::walk::FolderContents::default();
                super::walk::walk(argument, format, &mut found);
                if found.inputs.is_empty() && found.wrong.is_empty() {
                    wrong.push(format!("{}: no recordings in this folder", argument.display()));
                }
                inputs.append(&mut found.inputs);
                wrong.append(&mut found.wrong);
            }
            Ok(metadata) if is_device(&metadata) => {
                wrong.push(format!("{}: a device, not a recording", argument.display()));
            }
            Ok(_) => {
                let name = argument.display().to_string();
                let kind = FileKind::of_file(argument);
                match kind.and_then(|kind| kind.not_a_recording(&name)) {
                    Some(why) => wrong.push(why),
                    None => inputs.push(super::input::of_file(argument)),
                }
            }
        }
    }
    (inputs, wrong)
}

/// A device may have no end.
#[cfg(unix)]
fn is_device(metadata: &std::fs::Metadata) -> bool {
    use std::os::unix::fs::FileTypeExt as _;
    let kind = metadata.file_type();
    kind.is_block_device() || kind.is_char_device()
}

#[cfg(not(unix))]
fn is_device(_: &std::fs::Metadata) -> bool {
    false
}
