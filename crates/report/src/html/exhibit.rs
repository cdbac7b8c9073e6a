//! Exchanges that a page shows, and which those are.

use std::collections::BTreeSet;

use faithful_clerk_check::grid::Grid;
use faithful_clerk_model::address::Address;
use faithful_clerk_model::exchange::Exchange;
use faithful_clerk_shape::{DataLocations, InferredShape};
use serde::Serialize;
use serde_json::Value;

use super::blocks::{self, HtmlLine};
use crate::CheckReport;
use crate::groups::groups;
use crate::page::{PageLine, TreeLine, plain};
use crate::shape_tree::{self, AnnotatedShape, LineDifference, tree};
use crate::show::{BodyLayout, ContractView, ExchangeParts, ExchangeView, parts, read_response};

/// So many exchanges are laid out.
const MOST: usize = 1000;

/// So much text of exchanges has room on a page.
pub const ROOM: usize = 6 << 20;

/// Of one exchange, so many lines of a message are laid out.
const MOST_LINES: usize = 300;

/// An exchange laid out.
#[derive(Debug)]
pub struct Exhibit {
    /// Where it stands.
    pub address: Address,
    /// How many findings it has by itself.
    pub(super) findings: usize,
    /// The method and the URL.
    pub(super) line: String,
    pub(super) status: Option<u16>,
    pub(super) parts: ExhibitParts,
    /// The shape of the response's body, if it is JSON.
    pub(super) tree: Option<Vec<TreeLine>>,
    /// How much text it is; all of them have [`ROOM`].
    pub size: usize,
}

/// The parts as the templates want them.
#[derive(Debug, Serialize)]
pub(super) struct ExhibitParts {
    request: Vec<HtmlLine>,
    response_title: String,
    response: Vec<HtmlLine>,
    expected: Vec<blocks::HtmlBlock>,
    drafted: Option<Vec<HtmlLine>>,
    /// The shape of the response beside that of the agreed one, where both are JSON and differ.
    shapes: Vec<blocks::HtmlShape>,
}

impl Exhibit {
    /// Lays an exchange out. `hide` takes secrets out of a text that stand where nothing tells that they are
    /// some.
    #[must_use]
    pub fn of(view: &ExchangeView<'_>, hide: &dyn Fn(String) -> String) -> Self {
        let mut parts = parts(view);
        let mut size = 0;
        for lines in [&mut parts.request, &mut parts.response].into_iter().chain(&mut parts.drafted)
        {
            shorten(lines);
            for piece in lines.iter_mut().flat_map(|line| &mut line.pieces) {
                piece.text = hide(std::mem::take(&mut piece.text));
                size += piece.text.len() + 40;
            }
        }
        let ExchangeParts { request, response_title, response, expected, drafted, drafted_body } =
            parts;
        let exchange = view.exchange;
        let tree = shape(exchange);
        let findings = match &view.known {
            ContractView::Checked(_, findings) => findings.len(),
            ContractView::Nothing | ContractView::Excluded(_) => 0,
        };
        let url = faithful_clerk_model::secret::mask::masked(&exchange.request.url);
        Self {
            address: exchange.address,
            findings,
            line: hide(format!("{} {url}", exchange.request.method)),
            status: exchange.response.as_ref().map(|response| response.status),
            parts: ExhibitParts {
                request: blocks::lines(&request),
                response_title,
                response: blocks::lines(&response),
                expected: blocks::within(&expected),
                drafted: drafted.as_deref().map(blocks::lines),
                shapes: beside(drafted_body.as_ref(), tree.as_deref()),
            },
            tree,
            size,
        }
    }
}

fn shorten(lines: &mut Vec<PageLine>) {
    let more = lines.len().saturating_sub(MOST_LINES);
    if more > 0 {
        // What is said of a line stays.
        let is_note = |line: &PageLine| {
            line.hang > 0 || line.pieces.first().is_some_and(|piece| piece.text.starts_with("^ "))
        };
        let mut at = 0;
        lines.retain(|line| {
            at += 1;
            at <= MOST_LINES || is_note(line)
        });
        lines.push(PageLine {
            indent: 2,
            hang: 0,
            pieces: vec![plain(format!("… {more} more lines are left out …"))],
        });
    }
}

fn shape(exchange: &Exchange<'_>) -> Option<Vec<TreeLine>> {
    match read_response(exchange.response.as_ref()?)? {
        BodyLayout::Json(value) => {
            Some(tree(&InferredShape::of(&value, &DataLocations::default())))
        }
        BodyLayout::Text(_)
        | BodyLayout::Blanked(_)
        | BodyLayout::Bytes(_)
        | BodyLayout::Unreadable => None,
    }
}

/// The agreed shape and the one that was seen.
fn beside(expected: Option<&Value>, seen: Option<&[TreeLine]>) -> Vec<blocks::HtmlShape> {
    let (Some(expected), Some(seen)) = (expected, seen) else { return Vec::new() };
    let expected = tree(&InferredShape::of(expected, &DataLocations::default()));
    if shape_tree::beside(&expected, seen).iter().all(|(differs, _)| *differs == LineDifference::No)
    {
        return Vec::new();
    }
    let drawn = |says: &str, tree| AnnotatedShape { head: vec![plain(says)], tree };
    blocks::side_by_side(&[
        drawn("as it should have been", expected),
        drawn("as it was", seen.to_vec()),
    ])
}

/// The exchanges that a page of a check shows: of each finding the first, and what it is unlike; of each cell
/// of the grid the first.
#[must_use]
pub fn wanted(report: &CheckReport<'_>) -> BTreeSet<Address> {
    let mut wanted = BTreeSet::new();
    let groups = groups(report);
    let shown = || groups.iter().flat_map(|group| &group.new);
    let firsts = shown().filter_map(|shown| shown.entry.first.first().copied());
    let unlike = shown().filter_map(|shown| shown.key.conforming);
    let grid = Grid::of(report.contract, report.ledger);
    let cells = || grid.rows.iter().flat_map(|(_, cells)| cells.iter().map(|(_, cell)| cell));
    let broken = cells().flat_map(|cell| cell.first_broken.iter().copied());
    let others = cells().flat_map(|cell| cell.first.iter().take(2).copied());
    let more = shown().flat_map(|shown| shown.entry.first.iter().copied());
    for address in firsts.chain(unlike).chain(broken).chain(others).chain(more) {
        if wanted.len() >= MOST {
            break;
        }
        wanted.insert(address);
    }
    wanted
}
