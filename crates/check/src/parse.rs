//! Contracts, parsed with the names of all clauses.

use std::sync::LazyLock;

use faithful_clerk_contract::{ErrorContract, ParsedContract};
use faithful_clerk_schema::{FileLoader, NoFiles};

use crate::clauses::catalogue;

/// The names of all clauses, in the order of the catalogue.
static NAMES: LazyLock<Vec<&'static str>> =
    LazyLock::new(|| catalogue().map(|clause| clause.name).collect());

/// Parses a contract that names no files.
#[must_use]
pub fn parse_contract(text: &str) -> ParsedContract {
    parse_contract_with_files(text, &NoFiles)
}

/// Parses a contract; `files` loads what it names.
#[must_use]
pub fn parse_contract_with_files(text: &str, files: &dyn FileLoader) -> ParsedContract {
    ErrorContract::parse(text, files, &NAMES)
}
