//! `fclerk demo`: a made-up harbour's contract and recordings, and what a check says of them.

use std::fs;
use std::path::Path;

use faithful_clerk_core::{Check, Contract};
use faithful_clerk_report::{Report, text};

use crate::exit::{Failure, Outcome};
use crate::flags::{DemoCall, Stage};
use crate::output::{complain, say, write_new};

/// The files of the demo. They are in the binary, so it needs nothing else.
const FILES: [(&str, &str); 3] = [
    ("error-contract.toml", include_str!("../../demo/error-contract.toml")),
    ("before.har", include_str!("../../demo/before.har")),
    ("after.har", include_str!("../../demo/after.har")),
];

/// So many findings are read at a glance.
const FEW: usize = 3;

pub(crate) fn run(call: &DemoCall, stage: &Stage) -> Result<Outcome, Failure> {
    write(&call.into)?;
    let folder = call.into.display();
    let [(contract, text), ..] = FILES;
    let reading = Contract::read(text);
    let contract =
        reading.contract.ok_or_else(|| Failure::Call(format!("{contract} has mistakes")))?;
    say(&format!(
        "Saltmarsh Harbour lets berths. Its service was recorded twice: before its errors were mended, \
         and after.\nIts contract and both recordings are now in {folder}/.\n"
    ))?;
    for (name, har) in FILES.iter().skip(1) {
        let names = [format!("{folder}/{name}")];
        let mut ledger = Check::new(&contract).har(har.as_bytes(), 0);
        ledger.conclude(&contract);
        let report = Report { ledger: &ledger, contract: &contract, recordings: &names };
        // Many findings are for `check` to show; a few are shown here.
        let result = if ledger.findings.len() > FEW {
            text::overview(&report, stage.stdout)
        } else {
            text::check(&report, stage.stdout)
        };
        say(&format!("\n── {name} ──\n\n{result}"))?;
    }
    say(&suggestions(&stage.program, &folder.to_string()))?;
    Ok(Outcome::Kept)
}

/// What to try next, each with what it shows.
fn suggestions(program: &str, folder: &str) -> String {
    let mut text = format!("\nTry next:\n  cd {folder}\n");
    for (call, shows) in [
        ("check before.har", "every finding: where, what was agreed, what was seen"),
        ("check after.har", "what is still wrong after the mending"),
        ("explain situation.refused", "what a clause asks, why, and how to mend"),
        ("check --format json before.har", "the same for programs"),
    ] {
        text.push_str(&format!("  {program} {call:32} {shows}\n"));
    }
    text.push_str("Then change a line of error-contract.toml, and check again.\n");
    text
}

/// Writes the files, each whole or not at all. A file that was changed is not written over.
fn write(folder: &Path) -> Result<(), Failure> {
    let fail = |path: &Path, error: &std::io::Error| {
        Failure::Call(format!("{} can't be written: {error}", path.display()))
    };
    fs::create_dir_all(folder).map_err(|error| fail(folder, &error))?;
    let mut kept = Vec::new();
    for (name, text) in FILES {
        let path = folder.join(name);
        match fs::read(&path) {
            Ok(there) if there == text.as_bytes() => {}
            Ok(_) => kept.push(path),
            Err(_) => write_new(&path, text)?,
        }
    }
    for path in kept {
        complain(&format!("{} was changed since, and is left as it is", path.display()));
    }
    Ok(())
}
