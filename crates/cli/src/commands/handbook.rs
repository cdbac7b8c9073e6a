//! `fclerk handbook`: the contract as documentation.

use std::path::Path;

use faithful_clerk_insight::handbook::{Handbook, merged_description};
use faithful_clerk_insight::review::disagreements;
use faithful_clerk_report::contract as report;
use faithful_clerk_report::handbook::files;

use crate::contracts::{contract, contract_or_description, description};
use crate::exit::{Completion, Failure};
use crate::finish::failed_page;
use crate::flags::{HandbookArgs, OutputSettings};
use crate::output::{print_error, print_result, print_unless_quiet, write_new, write_over};

/// What tells that a folder is a handbook's.
const MARK: &str = "openapi-components.json";

pub(crate) fn run(args: &HandbookArgs, settings: &OutputSettings) -> Result<Completion, Failure> {
    if let Some(openapi) = &args.openapi
        && is_description(&args.output)
    {
        return merge(args, openapi, settings);
    }
    if args.contract.is_some() && args.openapi.is_some() {
        let why = "--openapi stands in the place of --contract; to write the description with the contract's faults in it, give --output a new name that ends in .yaml or .json";
        return Err(Failure::Call(why.to_owned()));
    }
    let expected = contract_or_description(
        args.contract.as_deref(),
        args.openapi.as_deref(),
        settings.stderr,
    )?;
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

/// Is this the name of a description, and not of a folder?
fn is_description(path: &Path) -> bool {
    let extension = path.extension().and_then(std::ffi::OsStr::to_str).unwrap_or_default();
    ["json", "yaml", "yml"].iter().any(|known| extension.eq_ignore_ascii_case(known))
}

/// Writes the description with the contract's faults in it.
fn merge(
    args: &HandbookArgs,
    openapi: &Path,
    settings: &OutputSettings,
) -> Result<Completion, Failure> {
    let agreed = contract(args.contract.as_deref(), settings.stderr)?;
    let described = description(openapi)?;
    let name = openapi.display();
    let text = std::fs::read_to_string(openapi).map_err(|error| {
        Failure::Call(format!("can't read the OpenAPI description {name}: {error}"))
    })?;
    let merged = merged_description(&agreed.contract, &described, &text)
        .map_err(|why| Failure::Call(format!("{name}: {why}")))?;
    write_new(&args.output, &merged.text)?;
    let written = args.output.display().to_string();
    print_unless_quiet(&report::merged(&merged, &written, settings.stdout), settings)?;
    // Read again, as whoever uses it does.
    let found = disagreements(&agreed.contract, &description(&args.output)?);
    let names = (agreed.name(), written);
    let told = report::disagreements(&found, (&names.0, &names.1), settings.stdout);
    print_unless_quiet(&format!("\n{told}"), settings)?;
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
