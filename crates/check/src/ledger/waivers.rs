//! Waivers for what is broken today, so that an old service can be held to its contract from the first day.

use std::collections::BTreeSet;

use jiff::civil::Date;

use super::{EndpointRow, Ledger};
use crate::gate::Gate;
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_contract::quoted;

/// What a contract needs so that nothing of a ledger that was concluded fails any more: a waiver for each
/// clause and endpoint, as TOML to be appended to it. `None` where nothing fails.
#[must_use]
pub fn waivers(
    contract: &ErrorContract,
    ledger: &Ledger,
    gate: &Gate<'_>,
    until: Date,
    reason: &str,
) -> Option<String> {
    let mut failing: BTreeSet<(&EndpointRow, &str)> = BTreeSet::new();
    for ((row, clause), entries) in &ledger.findings {
        let name = row.name(contract);
        let more = entries.more.keys().any(|severity| {
            *severity <= gate.fail_on && !gate.is_more_known(&name, clause, *severity)
        });
        if more || entries.kept.keys().any(|key| gate.fails(&name, key)) {
            failing.insert((row, clause));
        }
    }
    if failing.is_empty() {
        return None;
    }
    let mut text =
        String::from("# Append these to the contract. Remove each one when it is fixed.\n");
    for (row, clause) in failing {
        text.push_str(&format!(
            "\n[[waiver]]\nclause = {}\nendpoint = {}\nreason = {}\nuntil = {until}\n",
            quoted(clause),
            quoted(&row.name(contract)),
            quoted(reason),
        ));
    }
    Some(text)
}
