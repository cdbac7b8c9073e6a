//! Which contract a call means, and how it is read.

use std::path::Path;

use faithful_clerk_core::Contract;
use faithful_clerk_report::{Theme, diagnostics};

use crate::exit::Failure;
use crate::inputs::Folder;
use crate::output::show;

/// Reads a contract; its mistakes and notices are shown.
pub(crate) fn contract(path: &Path, theme: Theme) -> Result<Contract, Failure> {
    let name = path.display().to_string();
    let bytes = std::fs::read(path).map_err(|error| {
        let hint = "`fclerk demo` writes one to look at, `fclerk draft` one from recordings, \
                    `--contract FILE` names another";
        Failure::Call(format!("the contract {name} can't be read: {error} ({hint})"))
    })?;
    let text = String::from_utf8(bytes).map_err(|error| {
        let at = error.utf8_error().valid_up_to();
        Failure::Call(format!("the contract {name} is not UTF-8 at byte {at}"))
    })?;
    read(&name, &text, path, theme)
}

/// The contract that a call names, or the usual one where it is there.
pub(crate) fn contract_if_any(
    path: Option<&Path>,
    theme: Theme,
) -> Result<Option<Contract>, Failure> {
    let usual = Path::new("error-contract.toml");
    let path = path.or_else(|| usual.is_file().then_some(usual));
    path.map(|path| contract(path, theme)).transpose()
}

/// A contract that says no more than that these are the endpoints.
pub(crate) fn description(path: &Path, theme: Theme) -> Result<Contract, Failure> {
    let file = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
    let text = format!("contract = 1\nopenapi = {}\n", faithful_clerk_core::draft::quoted(&file));
    read(&path.display().to_string(), &text, path, theme)
}

fn read(name: &str, text: &str, path: &Path, theme: Theme) -> Result<Contract, Failure> {
    let folder = path.parent().unwrap_or(Path::new("")).to_owned();
    let reading = Contract::read_with(text, &Folder { path: folder });
    show(&diagnostics::mistakes(name, text, &reading.mistakes, theme));
    let mut contract = reading.contract.ok_or(Failure::Said)?;
    contract.set_today(today());
    Ok(contract)
}

/// The day by the system's own clock and time zone.
fn today() -> jiff::civil::Date {
    jiff::Zoned::now().date()
}
