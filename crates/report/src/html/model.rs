//! The page of a check, as its template wants it.

use std::collections::BTreeSet;

use serde::Serialize;

use super::blocks::HtmlShape;
use super::exhibit::ExhibitParts;

/// All of the page.
#[derive(Serialize)]
pub(super) struct CheckPage<'p> {
    pub(super) title: &'p str,
    pub(super) verdict: &'static str,
    pub(super) is_broken: bool,
    pub(super) is_met: bool,
    pub(super) sum: String,
    pub(super) gate: Option<String>,
    pub(super) recordings: Vec<&'p str>,
    pub(super) recordings_more: usize,
    pub(super) heads: Vec<&'static str>,
    pub(super) rows: Vec<HtmlGridRow>,
    pub(super) rows_left_out: Option<String>,
    pub(super) panels: Vec<CellPanel<'p>>,
    pub(super) groups: Vec<HtmlGroup<'p>>,
    pub(super) left_out: u64,
    pub(super) clause_names: BTreeSet<&'static str>,
    pub(super) exchanges: Vec<HtmlExchange<'p>>,
    pub(super) clauses: Vec<HtmlClause>,
    pub(super) waivers: Vec<HtmlWaiver<'p>>,
    pub(super) excluded: Option<String>,
    pub(super) not_checked: Option<String>,
    pub(super) without_credentials: Vec<&'p str>,
    pub(super) bounds: Vec<String>,
    pub(super) unreadable: Vec<String>,
    pub(super) unreadable_count: u64,
}

#[derive(Serialize)]
pub(super) struct HtmlWaiver<'p> {
    pub(super) clause: &'static str,
    pub(super) endpoint: String,
    pub(super) reason: &'p str,
    pub(super) until: String,
    pub(super) validity: &'static str,
    pub(super) count: u64,
}

#[derive(Serialize)]
pub(super) struct HtmlGridRow {
    pub(super) name: String,
    /// The anchor of the endpoint's findings.
    pub(super) id: Option<String>,
    pub(super) cells: Vec<GridCell>,
}

#[derive(Serialize)]
pub(super) struct GridCell {
    pub(super) class: &'static str,
    pub(super) mark: &'static str,
    /// What a screen reader says.
    pub(super) words: String,
    /// The anchor of the cell's exchanges.
    pub(super) id: Option<String>,
}

#[derive(Serialize)]
pub(super) struct CellPanel<'p> {
    pub(super) id: String,
    pub(super) endpoint: String,
    pub(super) situation: &'static str,
    pub(super) words: String,
    pub(super) exchanges: Vec<ExchangeLink<'p>>,
    pub(super) more: u64,
}

/// An exchange that can be looked at, here or with a command.
#[derive(Serialize, Clone)]
pub(super) struct ExchangeLink<'p> {
    pub(super) address: String,
    /// The anchor, where it is laid out.
    pub(super) id: Option<String>,
    pub(super) line: Option<&'p str>,
    pub(super) status: Option<u16>,
    pub(super) is_broken: bool,
}

#[derive(Serialize)]
pub(super) struct HtmlGroup<'p> {
    pub(super) id: String,
    pub(super) name: String,
    pub(super) counts: String,
    pub(super) is_open: bool,
    pub(super) findings: Vec<HtmlFinding<'p>>,
    /// How many are only counted.
    pub(super) more: u64,
    pub(super) known: u64,
}

#[derive(Serialize)]
pub(super) struct HtmlFinding<'p> {
    pub(super) id: String,
    pub(super) clause: &'static str,
    pub(super) severity: &'static str,
    pub(super) mark: &'static str,
    pub(super) location: String,
    /// How many endpoints have it.
    pub(super) endpoints: usize,
    /// Labels and texts.
    pub(super) parts: Vec<(&'static str, String)>,
    pub(super) not_checked: Option<String>,
    pub(super) conforming: Option<ExchangeLink<'p>>,
    pub(super) exchanges: Vec<ExchangeLink<'p>>,
    pub(super) more: u64,
    pub(super) shapes: Vec<HtmlShape>,
}

#[derive(Serialize)]
pub(super) struct HtmlExchange<'p> {
    pub(super) id: String,
    pub(super) address: String,
    pub(super) line: &'p str,
    pub(super) findings: String,
    pub(super) parts: &'p ExhibitParts,
}

#[derive(Serialize)]
pub(super) struct HtmlClause {
    pub(super) name: &'static str,
    pub(super) statement: &'static str,
    pub(super) basis: String,
    pub(super) reason: &'static str,
    pub(super) fix: &'static str,
    pub(super) met: u64,
    pub(super) broken: u64,
    pub(super) not_checked: u64,
}
