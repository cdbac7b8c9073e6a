//! What is so now: of each request, the last response. A service that is being mended turns from broken to met.

use std::collections::{BTreeMap, HashMap};
use std::hash::{DefaultHasher, Hash as _, Hasher as _};

use faithful_clerk_contract::EndpointRow;
use faithful_clerk_model::exchange::RequestBody;
use faithful_clerk_model::finding::{Finding, Severity};

use crate::classify::Classified;
use crate::ledger::{Column, LedgerCell};

/// So many different requests are told apart. Beyond, those of a cell are taken for one.
const MOST: usize = 50_000;

/// The last result of each request.
#[derive(Debug, Default)]
pub struct LatestResults {
    requests: HashMap<u64, (EndpointRow, Column, bool)>,
}

impl LatestResults {
    /// Enters an exchange and what was found in it. It takes the place of the same request's last result: the same
    /// method, URL, body and headers that matter.
    pub fn enter(&mut self, classified: &Classified<'_>, findings: &[Finding]) {
        let (row, column) = (classified.row(), classified.grid_situation());
        let is_breach = |finding: &Finding| {
            finding.severity == Severity::Breach
                && classified.contract.waiver_for(finding.clause, &row).is_none()
        };
        let is_broken = findings.iter().any(is_breach);
        let mut key = key(classified, &row);
        if self.requests.len() >= MOST && !self.requests.contains_key(&key) {
            let mut cell = DefaultHasher::new();
            (&row, column).hash(&mut cell);
            key = cell.finish();
        }
        self.requests.insert(key, (row, column, is_broken));
    }

    /// The cells of a grid of what is so now.
    #[must_use]
    pub fn cells(&self) -> BTreeMap<(EndpointRow, Column), LedgerCell> {
        let mut cells: BTreeMap<(EndpointRow, Column), LedgerCell> = BTreeMap::new();
        for (row, column, is_broken) in self.requests.values() {
            let cell = cells.entry((row.clone(), *column)).or_default();
            *(if *is_broken { &mut cell.broken } else { &mut cell.met }) += 1;
        }
        cells
    }

    /// How many requests there are, and how many of them have a breach now.
    #[must_use]
    pub fn counts(&self) -> (usize, usize) {
        let broken = self.requests.values().filter(|(_, _, is_broken)| *is_broken).count();
        (self.requests.len(), broken)
    }
}

fn key(classified: &Classified<'_>, row: &EndpointRow) -> u64 {
    const MATTER: [&str; 6] =
        ["content-type", "accept", "accept-language", "authorization", "if-match", "if-none-match"];
    let request = &classified.exchange.request;
    let mut hasher = DefaultHasher::new();
    (row, &request.method, &request.url).hash(&mut hasher);
    for name in MATTER {
        for value in request.headers.all(name) {
            (name, value).hash(&mut hasher);
        }
    }
    if let RequestBody::Present(content) = &request.body
        && let Ok(bytes) = content.decode()
    {
        bytes.hash(&mut hasher);
    }
    hasher.finish()
}
