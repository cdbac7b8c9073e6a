//! What is not in the recording, said once each.

use std::collections::BTreeMap;

use faithful_clerk_live::{RelayCounts, RelayNotice};
use faithful_clerk_report::text::counted;

use crate::output::print_error;

/// So many different ones are told; the rest is counted.
const MOST: usize = 20;

/// What was told, and how often it happened.
#[derive(Debug)]
pub(crate) struct Notices {
    told: BTreeMap<RelayNotice, u64>,
    others: u64,
    /// Is everything told at the end, as something else has the terminal meanwhile?
    is_late: bool,
}

impl Notices {
    pub(crate) fn new(is_late: bool) -> Self {
        Self { told: BTreeMap::new(), others: 0, is_late }
    }

    pub(crate) fn enter(&mut self, notice: RelayNotice) {
        if let Some(count) = self.told.get_mut(&notice) {
            *count += 1;
        } else if self.told.len() == MOST {
            self.others += 1;
        } else {
            if !self.is_late {
                print_error(&words(&notice));
            }
            self.told.insert(notice, 1);
        }
    }

    /// What was told so far.
    pub(crate) fn lines(&self) -> Vec<String> {
        self.told.keys().map(words).collect()
    }

    /// Says at the end what happened beside what was recorded.
    pub(crate) fn close(&self, counts: &RelayCounts) {
        for (notice, count) in &self.told {
            let times = if *count > 1 { format!(" ({count} times)") } else { String::new() };
            if self.is_late || *count > 1 {
                print_error(&format!("{}{times}", words(notice)));
            }
        }
        if self.others > 0 {
            let others = counted(self.others, "connection");
            print_error(&format!("not recorded, to or by something else: {others}"));
        }
        let RelayCounts { refused, left, stopped } = *counts;
        if refused > 0 {
            let refused = counted(refused, "request");
            print_error(&format!(
                "requests refused because they are not HTTP/1.1 or can't be forwarded: {refused}"
            ));
        }
        if left > 0 {
            let left = counted(left, "exchange");
            print_error(&format!("requests not recorded because the client disconnected: {left}"));
        }
        if stopped > 0 {
            let were = if stopped == 1 { "was" } else { "were" };
            let stopped = counted(stopped, "exchange");
            print_error(&format!("{stopped} {were} in flight at the end and not recorded"));
        }
    }
}

fn words(notice: &RelayNotice) -> String {
    match notice {
        RelayNotice::Upgrade { protocol, url } => {
            format!("not recorded: what passes after a switch to {protocol}, at {url}")
        }
        RelayNotice::Tunnel { to } => {
            format!("not recorded: what passes through a tunnel to {to}; it is encrypted")
        }
        RelayNotice::Crowd => {
            "400 clients are connected, and no more are let in at once; one that sent nothing is disconnected to let in another".to_owned()
        }
        RelayNotice::OnlyHttp2 { to } => format!(
            "{to} speaks HTTP/2 and not HTTP/1.1, which the recorder needs; let it speak HTTP/1.1, too, or put a proxy in front of it that does"
        ),
    }
}
