//! Reads the recordings once more, for the exchanges that a page shows.

use std::collections::BTreeSet;

use faithful_clerk_check::classify::Classification;
use faithful_clerk_check::classify::{Credentials, classify};
use faithful_clerk_check::clauses::check_exchange;
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_model::address::Address;
use faithful_clerk_model::exchange::Exchange;
use faithful_clerk_recording::{ReadOptions, Traversal, Unreadable, Visitor};
use faithful_clerk_report::CheckReport;
use faithful_clerk_report::html::{Exhibit, ROOM, wanted};
use faithful_clerk_report::show::{ContractView, ExchangeView};
use faithful_clerk_scrub::secrets_in;

use crate::exit::Failure;
use crate::recordings::RecordingInputs;

/// The exchanges that a page of this check shows, laid out. One that is not there any more is left out.
pub(crate) fn exhibits(
    report: &CheckReport<'_>,
    recordings: &RecordingInputs,
    opening: &ReadOptions,
) -> Result<Vec<Exhibit>, Failure> {
    let wanted = wanted(report);
    let traversal = Traversal { options: opening.clone(), ..Traversal::default() };
    let mut exhibits = Vec::new();
    let mut room = ROOM;
    let files: BTreeSet<u32> = wanted.iter().map(|address| address.recording).collect();
    for recording in files {
        let Some(source) = recordings.again(recording) else { continue };
        let without = report.ledger.without_credentials.contains(&recording);
        let mut laying = ExhibitCollector {
            contract: report.contract,
            credentials: if without { Credentials::NotRecorded } else { Credentials::Recorded },
            name: report.recording(recording),
            left: wanted.iter().filter(|of| of.recording == recording).copied().collect(),
            exhibits: &mut exhibits,
            room: &mut room,
        };
        traversal.visit_in_order(source, recording, &mut laying);
    }
    Ok(exhibits)
}

struct ExhibitCollector<'e> {
    contract: &'e ErrorContract,
    credentials: Credentials,
    name: &'e str,
    left: BTreeSet<Address>,
    exhibits: &'e mut Vec<Exhibit>,
    /// How much text there is room for; beyond that, exchanges are left out.
    room: &'e mut usize,
}

impl Visitor for ExhibitCollector<'_> {
    fn exchange(&mut self, exchange: &Exchange<'_>) {
        if !self.left.remove(&exchange.address) {
            return;
        }
        let secrets = secrets_in(exchange, &self.contract.secret);
        let hide = |text: String| crate::commands::show::without(text, &secrets);
        let known = match classify(exchange, self.contract, self.credentials) {
            Classification::Excluded(reason) => ContractView::Excluded(reason),
            Classification::Classified(classified) => {
                let result = check_exchange(&classified);
                ContractView::Checked(classified, result.findings)
            }
        };
        let address = format!("{}#{}", self.name, exchange.address.number);
        let exhibit = Exhibit::of(&ExchangeView { address, exchange, known }, &hide);
        match self.room.checked_sub(exhibit.size) {
            Some(left) => {
                *self.room = left;
                self.exhibits.push(exhibit);
            }
            None => *self.room = 0,
        }
    }

    fn on_unreadable(&mut self, _: Unreadable) {}

    fn is_done(&self) -> bool {
        self.left.is_empty() || *self.room == 0
    }
}
