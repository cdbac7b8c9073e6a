//! The files that a contract names: a JSON Schema, an OpenAPI description, and what they refer to.

use std::fmt::Debug;

/// Reads the files that a contract names. The core has no file system of its own.
pub trait FileLoader: Debug {
    /// The bytes of a file, by its path as seen from the contract's folder.
    ///
    /// # Errors
    /// Why it can't be read, in few words.
    fn read(&self, path: &str) -> Result<Vec<u8>, String>;
}

/// No files at all, for contracts that stand by themselves.
#[derive(Debug, Clone, Copy, Default)]
pub struct NoFiles;

impl FileLoader for NoFiles {
    fn read(&self, _: &str) -> Result<Vec<u8>, String> {
        Err("this contract was given without its folder".to_owned())
    }
}

/// The path of a file that a reference in another file means: `..` goes up, also above the contract's
/// own folder.
#[must_use]
pub fn join(from: &str, reference: &str) -> String {
    if reference.starts_with('/') {
        return reference.to_owned();
    }
    let folder = from.rsplit_once('/').map_or("", |(folder, _)| folder);
    let mut steps: Vec<&str> = folder.split('/').filter(|step| !step.is_empty()).collect();
    for step in reference.split('/') {
        match step {
            "" | "." => {}
            ".." if steps.last().is_some_and(|last| *last != "..") => {
                steps.pop();
            }
            step => steps.push(step),
        }
    }
    let root = if from.starts_with('/') { "/" } else { "" };
    format!("{root}{}", steps.join("/"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_reference_is_seen_from_the_file_that_it_stands_in() {
        for (from, reference, path) in [
            ("a.json", "b.json", "b.json"),
            ("schemas/a.json", "b.json", "schemas/b.json"),
            ("schemas/a.json", "./x/../b.json", "schemas/b.json"),
            ("schemas/a.json", "../b.json", "b.json"),
            ("a.json", "../../b.json", "../../b.json"),
            ("/etc/a.json", "b.json", "/etc/b.json"),
            ("a.json", "/b.json", "/b.json"),
        ] {
            assert_eq!(join(from, reference), path, "{from} {reference}");
        }
    }
}
