//! Finds the recordings of a folder.

use std::fs::File;
use std::path::{Path, PathBuf};

use faithful_clerk_recording::{Format, Source, recognise};

use super::Input;
use super::input::of_file;

/// Folders within folders are followed no deeper than this.
const DEEPEST: usize = 64;

/// What was found in a folder.
#[derive(Debug, Default)]
pub(super) struct FolderContents {
    pub(super) inputs: Vec<Input>,
    pub(super) wrong: Vec<String>,
}

/// The recordings of a folder and of those in it, by name. What is a recording is told by content; a file
/// that is called `.har` is taken for one in any case, and if the call says the form, every file is.
/// Hidden files are left out, and links to folders are not followed, so that the walk comes to an end.
pub(super) fn walk(folder: &Path, format: Option<Format>, found: &mut FolderContents) {
    deeper(folder, format, found, DEEPEST);
}

fn deeper(folder: &Path, format: Option<Format>, found: &mut FolderContents, left: usize) {
    let entries = match std::fs::read_dir(folder) {
        Ok(entries) if left > 0 => entries,
        Ok(_) => return found.wrong.push(format!("{}: too deep", folder.display())),
        Err(error) => return found.wrong.push(format!("{}: {error}", folder.display())),
    };
    let mut paths: Vec<PathBuf> = entries.flatten().map(|entry| entry.path()).collect();
    paths.sort();
    for path in paths {
        let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
        if name.starts_with('.') {
            continue;
        }
        if path.is_dir() && !path.is_symlink() {
            deeper(&path, format, found, left - 1);
        } else if path.is_file() {
            match of_file(&path) {
                // The file of the requests brings that of the responses with it.
                Input::Pair(requests, _) if requests != path => {}
                pair @ Input::Pair(..) => found.inputs.push(pair),
                input if format.is_some() || name.to_ascii_lowercase().ends_with(".har") => {
                    found.inputs.push(input);
                }
                input => match is_recording(&path) {
                    Ok(true) => found.inputs.push(input),
                    Ok(false) => {}
                    Err(error) => found.wrong.push(format!("{}: {error}", path.display())),
                },
            }
        }
    }
}

fn is_recording(path: &Path) -> std::io::Result<bool> {
    let is_brotli = path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("br"));
    Ok(recognise(Source::of(File::open(path)?).brotli(is_brotli)).is_some())
}
