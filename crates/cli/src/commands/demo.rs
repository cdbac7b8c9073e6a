//! `fclerk demo`: a made-up harbour's contract and recordings, and what one would do with them, in order.

use std::fs;
use std::path::Path;
use std::sync::LazyLock;

use faithful_clerk_core::compare::{Between, Plan, Side, compare};
use faithful_clerk_core::survey::Gathered;
use faithful_clerk_core::{Check, Contract, Ledger, Names, Pass, Source};
use faithful_clerk_report::compare::{self as written, Compared};
use faithful_clerk_report::{Report, coverage, survey, text};

use crate::exit::{Failure, Outcome};
use crate::flags::{DemoCall, Stage};
use crate::output::{complain, say, write_new};

/// The files of the demo. They are in the binary, so it needs nothing else.
const FILES: [(&str, &str); 3] = [
    ("error-contract.toml", include_str!("../../demo/error-contract.toml")),
    ("before.har", include_str!("../../demo/before.har")),
    ("after.har", include_str!("../../demo/after.har")),
];

pub(crate) fn run(call: &DemoCall, stage: &Stage) -> Result<Outcome, Failure> {
    if let Some(state) = call.serve {
        return super::serve::run(state, call.port);
    }
    write(&call.into)?;
    let folder = call.into.display().to_string();
    let [(contract_name, text), (_, before), (_, after)] = FILES;
    let reading = Contract::read(text);
    let contract =
        reading.contract.ok_or_else(|| Failure::Call(format!("{contract_name} has mistakes")))?;
    let prose = |words: &str| text::paragraph(words, stage.stdout);
    say(&prose(&format!(
        "Saltmarsh Harbour lets berths. Its service was recorded twice: before its errors were mended, \
         and after. Its contract and both recordings are now in {folder}/. What follows is what one \
         would do with them, in order, in short."
    )))?;
    let lead = Lead { contract: &contract, stage };
    let steps = [
        ("survey before.har", "what do the errors look like today?", lead.survey(before)),
        ("draft before.har", "write down what was seen", prose(DRAFT)),
        ("check before.har", "judge them by the contract", lead.check("before.har", before)),
        ("show before.har#29", "read one of them closely", prose(SHOW)),
        ("coverage before.har", "what has nobody tried yet?", lead.coverage(before)),
        (
            "check after.har",
            "the service was mended: judge it again",
            lead.check("after.har", after),
        ),
        (
            "compare before.har after.har",
            "and no success answer broke?",
            lead.compare(before, after),
        ),
    ];
    for (number, (command, asks, result)) in (1..).zip(&steps) {
        say(&format!("\n── {number}. fclerk {command}: {asks} ──\n\n{result}"))?;
    }
    let commands = steps.iter().map(|(command, ..)| *command);
    say(&suggestions(&stage.program, &folder, commands))?;
    say(&prose(THEN))?;
    Ok(Outcome::Kept)
}

const DRAFT: &str = "It writes a contract that is ready to edit, each line with its evidence, and asks where the \
                     recording contradicts itself. This folder's contract is what came of it in the end.";

const SHOW: &str = "It lays the exchange out, its findings at the lines they concern, and drafts the answer that \
                    was agreed.";

const THEN: &str = "Then change a line of error-contract.toml, and check again. `explain CLAUSE` says what a clause \
                    asks, and why.";

/// What each step shows, in short.
struct Lead<'c> {
    contract: &'c Contract,
    stage: &'c Stage,
}

impl Lead<'_> {
    fn gathered(har: &str, contract: &'static Contract) -> Gathered<'static> {
        let mut sum = Gathered::new(contract);
        Pass::default().in_order(Source::of(har.as_bytes()), 0, &mut sum);
        sum
    }

    fn survey(&self, har: &str) -> String {
        let names = ["before.har".to_owned()];
        let survey = Self::gathered(har, &BARE).conclude();
        survey::overview(&survey, Names(&names), self.stage.stdout)
    }

    fn checked(&self, har: &str) -> Ledger {
        let mut ledger = Check::new(self.contract).recording(Source::of(har.as_bytes()), 0);
        ledger.conclude(self.contract);
        ledger
    }

    fn check(&self, name: &str, har: &str) -> String {
        let (ledger, names) = (self.checked(har), [name.to_owned()]);
        let report = Report::new(&ledger, self.contract, &names);
        // Many findings are for `check` to show, a grid shows them at a glance; a few are shown here.
        match ledger.findings.len() > FEW {
            true => text::overview(&report, self.stage.stdout),
            false => text::without_grid(&report, self.stage.stdout),
        }
    }

    fn coverage(&self, har: &str) -> String {
        let ledger = self.checked(har);
        let report = Report::new(&ledger, self.contract, &[]);
        coverage::overview(&report, self.stage.stdout)
    }

    fn compare(&self, before: &str, after: &str) -> String {
        let sides = [before, after].map(|har| Self::gathered(har, &BARE));
        let plan = Plan::of(sides, Some(self.contract), Between::Times);
        let seen = |har: &str, at: usize| {
            let mut side = Side::new(&plan, at);
            Pass::default().in_order(Source::of(har.as_bytes()), u32::from(at > 0), &mut side);
            side
        };
        let comparison = compare(&plan, seen(before, 0), seen(after, 1));
        let names = ["before.har".to_owned(), "after.har".to_owned()];
        let compared = Compared {
            comparison: &comparison,
            sides: ["before.har", "after.har"],
            names: Names(&names),
            contract: Some("error-contract.toml"),
        };
        written::overview(compared, self.stage.stdout)
    }
}

/// A survey needs no contract.
static BARE: LazyLock<Contract> = LazyLock::new(Contract::default);

/// So many findings are read at a glance.
const FEW: usize = 3;

/// The same in full, in a shell.
fn suggestions<'s>(program: &str, folder: &str, commands: impl Iterator<Item = &'s str>) -> String {
    let mut text = format!("\nThe same in full:\n  cd {folder}\n");
    for command in commands {
        text.push_str(&format!("  {program} {command}\n"));
    }
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
