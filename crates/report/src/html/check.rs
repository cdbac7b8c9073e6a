//! The page of a check: the grid, the findings, the exchanges.

use std::borrow::Cow;
use std::collections::{BTreeMap, BTreeSet};

use faithful_clerk_check::clauses::Clause;
use faithful_clerk_check::clauses::clause;
use faithful_clerk_check::grid::{CellMark, Grid};
use faithful_clerk_check::ledger::{Column, EndpointRow, LedgerCell, StaleWaiver, column_name};
use faithful_clerk_model::address::Address;
use faithful_clerk_model::finding::Severity;
use minijinja::Error;

use super::blocks::{HtmlShape, side_by_side};
use super::exhibit::Exhibit;
use super::model::{
    CellPanel, CheckPage, ExchangeLink, GridCell, HtmlClause, HtmlExchange, HtmlFinding,
    HtmlGridRow, HtmlGroup, HtmlWaiver,
};
use crate::groups::{FindingGroup, ListedFinding, folded_groups};
use crate::page::plain;
use crate::shape_tree::AnnotatedShape;
use crate::text::{bounds, counted, gate_words, left_out_rows, reasons, sum_words};
use crate::{CheckReport, Theme};

/// So many findings are laid out, the worst of each endpoint first.
const MOST_FINDINGS: usize = 10_000;

/// So many recordings are named.
const MOST_NAMES: usize = 50;

/// Beyond so many findings, endpoints are folded up.
const MANY: usize = 60;

/// A check as a page for a browser. The exhibits are those of [`super::wanted`] that could be read.
///
/// # Errors
/// Only if our own template is wrong.
pub fn check(report: &CheckReport<'_>, exhibits: &[Exhibit]) -> Result<String, Error> {
    let shown: BTreeMap<Address, &Exhibit> =
        exhibits.iter().map(|exhibit| (exhibit.address, exhibit)).collect();
    let desk = CheckPageBuilder { report, shown };
    let groups = folded_groups(report);
    let grid = Grid::of(report.contract, report.ledger);
    let ids: BTreeMap<&EndpointRow, String> = groups
        .iter()
        .enumerate()
        .filter_map(|(at, group)| Some((group.row?, format!("endpoint-{}", at + 1))))
        .collect();
    let heads: Vec<&str> = grid.columns.iter().map(|column| column_name(*column)).collect();
    let (rows, panels) = desk.grid(&grid, &ids);
    let shown = desk.groups(&groups, &ids);
    let left_out: u64 = groups.iter().map(|group| group.new.len() as u64).sum::<u64>()
        - shown.iter().map(|group| group.findings.len() as u64).sum::<u64>();
    let title = report.contract.service.as_deref().unwrap_or("Error contract");
    let passing = report.gate.passing(report.contract, report.ledger);
    let is_broken = passing.failing > 0;
    let is_gated = report.baseline.is_some() || report.gate.fail_on != Severity::Breach;
    let is_whole = report.ledger.unreadable.count == 0;
    let verdict = match (is_broken, is_gated) {
        (false, _) if report.ledger.checked == 0 => "Nothing was checked",
        (true, true) => "The gate fails",
        (true, false) => "The contract is broken",
        (false, true) if is_whole => "The gate passes",
        (false, true) => "The gate passes in what could be read",
        (false, false) if is_whole => "The contract is met",
        (false, false) => "The contract is met in what could be read",
    };
    let page = CheckPage {
        title,
        verdict,
        is_broken,
        // Green is what was looked at, all of it.
        is_met: !is_broken && is_whole && report.ledger.checked > 0,
        sum: sum_words(report),
        gate: gate_words(report),
        recordings: report.recordings.iter().take(MOST_NAMES).map(String::as_str).collect(),
        recordings_more: report.recordings.len().saturating_sub(MOST_NAMES),
        heads,
        rows_left_out: match grid.shown_rows(report.grid_rows).1 {
            0 => None,
            count => Some(left_out_rows(count)),
        },
        rows,
        panels,
        groups: shown,
        left_out,
        clause_names: groups.iter().flat_map(FindingGroup::clauses).collect(),
        exchanges: desk.exchanges(),
        clauses: clauses(report),
        waivers: waivers(report),
        excluded: told(&report.ledger.excluded),
        not_checked: told(&report.ledger.not_checked),
        bounds: bounds(report),
        without_credentials: report
            .ledger
            .without_credentials
            .iter()
            .map(|at| report.recording(*at))
            .collect(),
        unreadable: report
            .ledger
            .unreadable
            .first
            .iter()
            .map(|unreadable| unreadable.told(report.names()))
            .collect(),
        unreadable_count: report.ledger.unreadable.count,
    };
    super::render("check.html", &page)
}

fn told(of: &BTreeMap<Cow<'static, str>, u64>) -> Option<String> {
    (!of.is_empty()).then(|| reasons(of))
}

/// What the parts of the page are made from.
struct CheckPageBuilder<'p, 'r> {
    report: &'p CheckReport<'r>,
    shown: BTreeMap<Address, &'p Exhibit>,
}

impl<'p> CheckPageBuilder<'p, '_> {
    fn link(&self, address: Address, is_broken: bool) -> ExchangeLink<'p> {
        let exhibit = self.shown.get(&address);
        ExchangeLink {
            address: self.report.address(address),
            id: exhibit.map(|_| anchor(address)),
            line: exhibit.map(|exhibit| exhibit.line.as_str()),
            status: exhibit.and_then(|exhibit| exhibit.status),
            is_broken,
        }
    }

    fn grid(
        &self,
        grid: &Grid,
        ids: &BTreeMap<&EndpointRow, String>,
    ) -> (Vec<HtmlGridRow>, Vec<CellPanel<'p>>) {
        let theme = Theme::bare(100);
        let mut panels = Vec::new();
        let mut rows = Vec::new();
        let (shown_rows, _) = grid.shown_rows(self.report.grid_rows);
        for (at, (row, cells)) in shown_rows.into_iter().enumerate() {
            let name = row.name(self.report.contract);
            let mut shown = Vec::new();
            for (column, (mark, cell)) in grid.columns.iter().zip(cells) {
                let class = match mark {
                    CellMark::Met => "met",
                    CellMark::Broken => "broken",
                    CellMark::NotChecked => "not-checked",
                    CellMark::NotCovered => "untried",
                    CellMark::NotApplicable => "none",
                };
                let total = cell.met + cell.broken + cell.not_checked;
                let words = words(*mark, cell, total);
                let id = (total > 0).then(|| format!("cell-{}-{}", at + 1, shown.len() + 1));
                if let Some(id) = &id {
                    panels.push(self.panel(id, &name, *column, &words, cell));
                }
                shown.push(GridCell { class, mark: theme.mark_text(*mark), words, id });
            }
            rows.push(HtmlGridRow { id: ids.get(row).cloned(), name, cells: shown });
        }
        (rows, panels)
    }

    fn panel(
        &self,
        id: &str,
        endpoint: &str,
        column: Column,
        words: &str,
        cell: &LedgerCell,
    ) -> CellPanel<'p> {
        let all: BTreeSet<Address> = cell.first_broken.union(&cell.first).copied().collect();
        let mut addresses: Vec<Address> = all.into_iter().collect();
        addresses.sort_by_key(|address| (!cell.first_broken.contains(address), *address));
        let total = cell.met + cell.broken + cell.not_checked;
        CellPanel {
            id: id.to_owned(),
            endpoint: endpoint.to_owned(),
            situation: column_name(column),
            words: words.to_owned(),
            more: total.saturating_sub(addresses.len() as u64),
            exchanges: addresses
                .into_iter()
                .map(|address| self.link(address, cell.first_broken.contains(&address)))
                .collect(),
        }
    }

    fn groups(
        &self,
        groups: &'p [FindingGroup<'_>],
        ids: &BTreeMap<&EndpointRow, String>,
    ) -> Vec<HtmlGroup<'p>> {
        let total: usize = groups.iter().map(|group| group.new.len()).sum();
        let mut seen: BTreeMap<&str, usize> = BTreeMap::new();
        let mut left = MOST_FINDINGS;
        let mut shown = Vec::new();
        for (at, group) in groups.iter().enumerate() {
            let counts: Vec<String> = group
                .severities
                .iter()
                .map(|(severity, count)| counted(*count, severity.name()))
                .collect();
            let findings: Vec<_> =
                group.new.iter().take(left).map(|of| self.finding(of, &mut seen)).collect();
            left -= findings.len();
            shown.push(HtmlGroup {
                id: group
                    .row
                    .and_then(|row| ids.get(row))
                    .cloned()
                    .unwrap_or_else(|| "several".to_owned()),
                name: group.name.clone(),
                counts: counts.join(", "),
                is_open: total <= MANY || at == 0,
                findings,
                more: group.more.values().sum(),
                known: group.known_count,
            });
        }
        shown
    }

    fn finding(
        &self,
        of: &'p ListedFinding<'_>,
        seen: &mut BTreeMap<&'p str, usize>,
    ) -> HtmlFinding<'p> {
        let (key, entry) = (of.key, &of.entry);
        // Two findings that differ in recorded text alone have one fingerprint.
        let again = seen.entry(&of.fingerprint).or_default();
        *again += 1;
        let id = match *again {
            1 => format!("finding-{}", of.fingerprint),
            again => format!("finding-{}-{again}", of.fingerprint),
        };
        let text = of.text(self.report);
        HtmlFinding {
            id,
            clause: key.clause,
            severity: key.severity.name(),
            mark: match key.severity {
                Severity::Breach => "✗",
                Severity::Warning => "▲",
                Severity::Note => "●",
            },
            location: text.location,
            endpoints: of.endpoints,
            parts: text.parts.into_iter().map(|part| (part.label, part.text)).collect(),
            not_checked: text.not_checked,
            conforming: key.conforming.map(|address| self.link(address, false)),
            exchanges: entry.first.iter().map(|address| self.link(*address, true)).collect(),
            more: entry.count.saturating_sub(entry.first.len() as u64),
            shapes: self.shapes(of),
        }
    }

    /// The body as it is where it is as declared, and as it is here.
    fn shapes(&self, of: &ListedFinding<'_>) -> Vec<HtmlShape> {
        if !of.key.clause.starts_with("shape.") {
            return Vec::new();
        }
        let drawn = |address: Address, says: &str| {
            let tree = self.shown.get(&address)?.tree.clone()?;
            let head = vec![plain(format!("{says} {}", self.report.address(address)))];
            Some(AnnotatedShape { head, tree })
        };
        let usual = of.key.conforming.and_then(|address| drawn(address, "as expected, in"));
        let here = of.entry.first.first().and_then(|address| drawn(*address, "here, in"));
        match (usual, here) {
            (Some(usual), Some(here)) => side_by_side(&[usual, here]),
            _ => Vec::new(),
        }
    }

    fn exchanges(&self) -> Vec<HtmlExchange<'p>> {
        let exchange = |(address, exhibit): (&Address, &&'p Exhibit)| HtmlExchange {
            id: anchor(*address),
            address: self.report.address(*address),
            line: &exhibit.line,
            findings: match exhibit.findings {
                0 => "no finding".to_owned(),
                count => counted(count as u64, "finding"),
            },
            parts: &exhibit.parts,
        };
        self.shown.iter().map(exchange).collect()
    }
}

fn anchor(address: Address) -> String {
    format!("exchange-{}-{}", address.recording + 1, address.number)
}

fn words(mark: CellMark, cell: &LedgerCell, total: u64) -> String {
    let mut words = match total {
        0 => mark.name().to_owned(),
        _ if mark == CellMark::Broken => {
            format!("broken: {} of {}", cell.broken, counted(total, "exchange"))
        }
        _ => format!("{}: {}", mark.name(), counted(total, "exchange")),
    };
    if cell.from_comparison > 0 {
        words.push_str(&format!(
            ", and {} unlike others",
            counted(cell.from_comparison, "response")
        ));
    }
    words
}

/// The clauses that were checked.
fn clauses(report: &CheckReport<'_>) -> Vec<HtmlClause> {
    let shown =
        |of: &'static Clause, tally: faithful_clerk_check::ledger::ClauseTally| HtmlClause {
            name: of.name,
            statement: of.statement,
            basis: of.basis.iter().map(ToString::to_string).collect::<Vec<_>>().join("; "),
            reason: of.reason,
            fix: of.fix,
            met: tally.met,
            broken: tally.broken,
            not_checked: tally.not_checked,
        };
    let tallies = report.ledger.clauses.iter();
    tallies.filter_map(|(name, tally)| Some(shown(clause(name)?, tally))).collect()
}

fn waivers<'p>(report: &CheckReport<'p>) -> Vec<HtmlWaiver<'p>> {
    let waivers = report.contract.waivers.iter().enumerate();
    let shown = waivers.map(|(at, waiver)| {
        let count = report.ledger.waived.get(&at).map_or(0, |entries| entries.count());
        let state = match report.ledger.stale.get(&at) {
            None => "in force",
            Some(StaleWaiver::Expired) => "expired: a breach",
            Some(StaleWaiver::Unused) => "covers nothing, and can go",
        };
        let location =
            waiver.row.as_ref().map_or("everywhere".to_owned(), |row| row.name(report.contract));
        let until = waiver.until.to_string();
        HtmlWaiver {
            clause: waiver.clause,
            endpoint: location,
            reason: &waiver.reason,
            until,
            validity: state,
            count,
        }
    });
    shown.collect()
}
