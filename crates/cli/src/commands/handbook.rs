//! `fclerk handbook`: the contract as documentation.

use std::path::Path;

use faithful_clerk_insight::handbook::Handbook;
use faithful_clerk_report::handbook::files;

use crate::contracts::contract;
use crate::exit::{Completion, Failure};
use crate::finish::failed_page;
use crate::flags::{HandbookArgs, OutputSettings};
use crate::output::{print_error, print_result, write_over};

/// What tells that a folder is a handbook's.
const MARK: &str = "openapi-components.json";

pub(crate) fn run(args: &HandbookArgs, settings: &OutputSettings) -> Result<Completion, Failure> {
    let expected = contract(args.contract.as_deref(), settings.stderr)?;
    let folder = &args.output;
    is_free(folder)?;
    for chapter in Handbook::of(&expected.contract).chapters {
        let type_uri = chapter.fault.type_uri.as_deref().unwrap_or_default();
        if chapter.page.is_some_and(|page| !page.is_at_its_uri) {
            print_error(&format!(
                "{type_uri} has no path that a file could have; its page is in types/"
            ));
        }
    }
    let files = files(&expected.contract).map_err(failed_page)?;
    let count = files.len();
    for file in files {
        let path = folder.join(&file.path);
        let parent = path.parent().unwrap_or(folder);
        std::fs::create_dir_all(parent).map_err(|error| {
            Failure::Call(format!("can't create {}: {error}", parent.display()))
        })?;
        write_over(&path, &file.text)?;
    }
    print_result(&format!("{count} files are in {}\n", folder.display()))?;
    Ok(Completion::Kept)
}

/// Nobody's files are written over.
fn is_free(folder: &Path) -> Result<(), Failure> {
    match std::fs::read_dir(folder) {
        Ok(mut entries) => {
            let is_free = entries.next().is_none() || folder.join(MARK).is_file();
            let message = format!("{} contains other files; nothing was written", folder.display());
            if is_free { Ok(()) } else { Err(Failure::Call(message)) }
        }
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => Ok(()),
        Err(error) => Err(Failure::Call(format!("{}: {error}", folder.display()))),
    }
}
