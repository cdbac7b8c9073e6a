//! What is so now: of each request, the last response. While a service is being fixed, its cells turn from broken to met.

use std::collections::{BTreeMap, HashMap};
use std::hash::{DefaultHasher, Hash as _, Hasher as _};

use faithful_clerk_contract::EndpointRow;
use faithful_clerk_model::exchange::RequestBody;
use faithful_clerk_model::finding::{Finding, Severity};

use crate::classify::Classified;
use crate::grid::CellMark;
use crate::ledger::{Column, LedgerCell, why_not_checked};

/// So many different requests are told apart. Beyond, those of a cell are taken for one.
const MOST: usize = 50_000;

/// The last result of each request.
#[derive(Debug, Default)]
pub struct LatestResults {
    requests: HashMap<u64, (EndpointRow, Column, CellMark)>,
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
        let mark = match findings.iter().any(is_breach) {
            true => CellMark::Broken,
            false if why_not_checked(classified).is_some() => CellMark::NotChecked,
            false => CellMark::Met,
        };
        let mut key = key(classified, &row);
        if self.requests.len() >= MOST && !self.requests.contains_key(&key) {
            let mut cell = DefaultHasher::new();
            (&row, column).hash(&mut cell);
            key = cell.finish();
        }
        self.requests.insert(key, (row, column, mark));
    }

    /// The cells of a grid of what is so now.
    #[must_use]
    pub fn cells(&self) -> BTreeMap<(EndpointRow, Column), LedgerCell> {
        let mut cells: BTreeMap<(EndpointRow, Column), LedgerCell> = BTreeMap::new();
        for (row, column, mark) in self.requests.values() {
            let cell = cells.entry((row.clone(), *column)).or_default();
            *match mark {
                CellMark::Broken => &mut cell.broken,
                CellMark::NotChecked => &mut cell.not_checked,
                _ => &mut cell.met,
            } += 1;
        }
        cells
    }

    /// Are there more requests than are told apart?
    #[must_use]
    pub fn is_full(&self) -> bool {
        self.requests.len() >= MOST
    }

    /// How many requests there are, and how many of them have a breach now.
    #[must_use]
    pub fn counts(&self) -> (usize, usize) {
        let broken =
            self.requests.values().filter(|(_, _, mark)| *mark == CellMark::Broken).count();
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
