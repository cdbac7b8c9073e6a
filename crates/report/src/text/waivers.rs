//! The waivers: what each covers, and which of them should go.

use faithful_clerk_check::ledger::{ClauseFindings, StaleWaiver};
use faithful_clerk_contract::Waiver;
use faithful_clerk_model::finding::Severity;

use super::counted;
use super::wrap::wrap;
use crate::escape::terminal;
use crate::{CheckReport, Theme};

pub(super) fn waivers(report: &CheckReport<'_>, theme: Theme) -> String {
    let CheckReport { contract, ledger, .. } = *report;
    if contract.waivers.is_empty() {
        return String::new();
    }
    let mut text = format!("{}\n\n", theme.strong("Waivers"));
    for (at, waiver) in contract.waivers.iter().enumerate() {
        let entries = ledger.waived.get(&at);
        let count = entries.map_or(0, ClauseFindings::count);
        let (weight, says) = match ledger.stale.get(&at) {
            None => (None, format!("{} waived until {}", counted(count, "finding"), waiver.until)),
            Some(StaleWaiver::Expired) => {
                (Some(Severity::Breach), format!("expired on {}, and covers nothing", waiver.until))
            }
            Some(StaleWaiver::Unused) => {
                (Some(Severity::Note), "covers no finding, and can go".to_owned())
            }
        };
        let name = weight.map_or("waived", Severity::name);
        let mark = match weight {
            Some(weight) => theme.weight(weight, &format!("{name:7}")),
            None => theme.faint(&format!("{name:7}")),
        };
        text.push_str(&format!("  {mark} {}\n", theme.strong(waiver.clause)));
        text.push_str(&wrap(&terminal(&sentence(report, waiver, &says)), 10, theme.width));
        let first = entries.iter().flat_map(|entries| entries.kept.values());
        let mut first: Vec<_> = first.flat_map(|entry| &entry.first).collect();
        first.sort();
        if !first.is_empty() {
            let names: Vec<String> =
                first.iter().take(5).map(|address| report.address(**address)).collect();
            let names = terminal(&names.join(" ")).into_owned();
            text.push_str(&theme.faint(&wrap(&names, 10, theme.width)));
        }
        text.push('\n');
    }
    text
}

fn sentence(report: &CheckReport<'_>, waiver: &Waiver, says: &str) -> String {
    let location = match &waiver.row {
        Some(row) => format!("at {}", row.name(report.contract)),
        None => "everywhere".to_owned(),
    };
    format!("Line {}, {location}: {says}; \"{}\"", waiver.line, waiver.reason)
}
