//! Which contract a call means, and how it is read.

use std::path::{Path, PathBuf};

use faithful_clerk_contract::{ErrorContract, ParsedContract};
use faithful_clerk_report::{Theme, diagnostics};

use crate::exit::Failure;
use crate::inputs::{ContractFolder, FileKind, read_text_file};
use crate::output::{print_error, show};

/// A contract, and where it was found.
#[derive(Debug)]
pub(crate) struct LoadedContract {
    pub(crate) contract: ErrorContract,
    pub(crate) path: PathBuf,
}

impl LoadedContract {
    /// Its path, as it was given.
    pub(crate) fn name(&self) -> String {
        self.path.display().to_string()
    }
}

/// What a contract is called where nobody says otherwise.
const USUAL: &str = "error-contract.toml";

/// So many folders up, the usual contract is looked for.
const HIGHEST: usize = 64;

/// The usual contract: here, or in the nearest folder above, up to the top of a repository. Above, folders that
/// anybody may write into are passed over, so that nobody else's contract is taken for one's own.
fn usual() -> Option<PathBuf> {
    let here = std::env::current_dir().ok()?;
    for (up, folder) in here.ancestors().take(HIGHEST).enumerate() {
        if folder.join(USUAL).is_file() && (up == 0 || !is_open_to_all(folder)) {
            let mut path: PathBuf = std::iter::repeat_n("..", up).collect();
            path.push(USUAL);
            return Some(path);
        }
        if folder.join(".git").exists() {
            return None;
        }
    }
    None
}

#[cfg(unix)]
fn is_open_to_all(folder: &Path) -> bool {
    use std::os::unix::fs::PermissionsExt as _;
    const OTHERS_WRITE: u32 = 0o002;
    folder.metadata().is_ok_and(|metadata| metadata.permissions().mode() & OTHERS_WRITE != 0)
}

#[cfg(not(unix))]
fn is_open_to_all(_: &Path) -> bool {
    false
}

/// Reads the contract that a call names, or the usual one; its mistakes and notices are shown.
pub(crate) fn contract(path: Option<&Path>, theme: Theme) -> Result<LoadedContract, Failure> {
    let found = path.map(Path::to_owned).or_else(usual);
    let path = found.unwrap_or_else(|| PathBuf::from(USUAL));
    let name = path.display().to_string();
    let bytes = read_text_file(&path).map_err(|error| {
        let hint = "name one with `--contract FILE`, draft one from recordings with `fclerk draft`, or get an example with `fclerk demo`";
        Failure::Call(format!("can't read the contract {name}: {error} ({hint})"))
    })?;
    if let Some(why) = FileKind::of_bytes(&bytes).and_then(|kind| kind.not_a_contract(&name)) {
        return Err(Failure::Call(why));
    }
    let text = String::from_utf8(bytes).map_err(|error| {
        let at = error.utf8_error().valid_up_to();
        Failure::Call(format!("the contract {name} is not UTF-8 at byte {at}"))
    })?;
    let contract = read(&name, &text, &path, theme)?;
    let endpoints = contract.endpoints.len();
    crate::output::step(format_args!("contract read: {name}, endpoints: {endpoints}"));
    Ok(LoadedContract { contract, path })
}

/// Reads the contract that a call names, or the description that stands in its place, or the usual contract.
pub(crate) fn contract_or_description(
    path: Option<&Path>,
    openapi: Option<&Path>,
    theme: Theme,
) -> Result<LoadedContract, Failure> {
    match openapi {
        Some(openapi) => {
            let (contract, path) = (description(openapi)?, openapi.to_owned());
            Ok(LoadedContract { contract, path })
        }
        None => contract(path, theme),
    }
}

/// The contract that a call names, or the usual one where there is one.
pub(crate) fn contract_if_any(
    path: Option<&Path>,
    theme: Theme,
) -> Result<Option<LoadedContract>, Failure> {
    let path = path.map(Path::to_owned).or_else(usual);
    path.map(|path| contract(Some(&path), theme)).transpose()
}

/// A contract that says no more than that these are the endpoints.
pub(crate) fn description(path: &Path) -> Result<ErrorContract, Failure> {
    let name = path.display();
    // What is wrong with the file itself is told of the option; there is no line of a contract to show.
    std::fs::File::open(path).map_err(|error| {
        Failure::Call(format!("can't read the OpenAPI description {name}: {error}"))
    })?;
    let file = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
    let text = format!("contract = 1\nopenapi = {}\n", faithful_clerk_contract::quoted(&file));
    let parsed = parsed(&text, path);
    for diagnostic in &parsed.diagnostics {
        let label = &diagnostic.label;
        let why = if label.is_empty() { String::new() } else { format!(": {label}") };
        let help = diagnostic.help.iter().map(|help| format!(" ({help})"));
        print_error(&format!("{name}: {}{why}{}", diagnostic.message, help.collect::<String>()));
    }
    let mut contract = parsed.contract.ok_or(Failure::Said)?;
    contract.set_today(today());
    Ok(contract)
}

fn read(name: &str, text: &str, path: &Path, theme: Theme) -> Result<ErrorContract, Failure> {
    let parsed = parsed(text, path);
    show(&diagnostics::mistakes(name, text, &parsed.diagnostics, theme));
    let mut contract = parsed.contract.ok_or(Failure::Said)?;
    contract.set_today(today());
    Ok(contract)
}

/// A drafted contract, which is to stand at `path`.
pub(crate) fn drafted(text: &str, path: &Path) -> Option<ErrorContract> {
    let mut contract = parsed(text, path).contract?;
    contract.set_today(today());
    Some(contract)
}

/// Parses a contract whose files are beside `path`.
fn parsed(text: &str, path: &Path) -> ParsedContract {
    let folder = path.parent().unwrap_or(Path::new("")).to_owned();
    let parsed =
        faithful_clerk_check::parse_contract_with_files(text, &ContractFolder { path: folder });
    // They are there until the program ends: to take a large description apart takes as long as to read it, for nothing.
    if let Some(contract) = &parsed.contract {
        std::mem::forget(std::sync::Arc::clone(&contract.documents));
    }
    parsed
}

/// The day by the system's clock, in UTC, so that it is the same on all machines.
pub(crate) fn today() -> jiff::civil::Date {
    jiff::Timestamp::now().to_zoned(jiff::tz::TimeZone::UTC).date()
}
