//! The grid of a check: endpoints down, situations across, one mark a cell.

use std::collections::{BTreeMap, BTreeSet};

use crate::ledger::{Column, EndpointRow, Ledger, LedgerCell};
use faithful_clerk_contract::{
    Authentication, BodyPresence, EndpointId, ErrorContract, FaultClass, FaultId, Parameter, Rules,
};
use faithful_clerk_model::situation::Situation;

/// What a cell shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum CellMark {
    /// Tried, and no breach.
    Met,
    /// Tried, and at least one breach.
    Broken,
    /// Tried, and what could be checked has no breach, but not all could be.
    NotChecked,
    /// It could occur, and no exchange shows it.
    NotCovered,
    /// By the contract it can't occur, and it did not.
    NotApplicable,
}

impl CellMark {
    /// The word for it in every output.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Met => "met",
            Self::Broken => "broken",
            Self::NotChecked => "not checked",
            Self::NotCovered => "not covered",
            Self::NotApplicable => "not applicable",
        }
    }
}

impl CellMark {
    /// Was an exchange there?
    #[must_use]
    pub fn is_covered(self) -> bool {
        matches!(self, Self::Met | Self::Broken | Self::NotChecked)
    }
}

/// The marks of a check.
#[derive(Debug)]
pub struct Grid {
    /// The columns: none for 'in order', then the situations that occurred or can occur.
    pub columns: Vec<Column>,
    /// The rows: every endpoint in the contract's order, then what led to none.
    pub rows: Vec<GridRow>,
}

impl Grid {
    /// The grid of a ledger.
    #[must_use]
    pub fn of(contract: &ErrorContract, ledger: &Ledger) -> Self {
        Self::of_cells(contract, &ledger.grid)
    }

    /// The grid of cells.
    #[must_use]
    pub fn of_cells(
        contract: &ErrorContract,
        known: &BTreeMap<(EndpointRow, Column), LedgerCell>,
    ) -> Self {
        let mut rows: Vec<EndpointRow> =
            (0..contract.endpoints.len()).map(|at| EndpointRow::Endpoint(EndpointId(at))).collect();
        // A row for each path on which another method was tried; one for all if none was.
        let others: BTreeSet<EndpointRow> = known
            .keys()
            .filter(|(row, _)| matches!(row, EndpointRow::OtherMethods(_)))
            .map(|(row, _)| row.clone())
            .collect();
        let nowhere = others.is_empty() && !contract.endpoints.is_empty();
        rows.extend(others);
        rows.extend(nowhere.then_some(EndpointRow::OtherMethods(EndpointId(usize::MAX))));
        rows.push(EndpointRow::UnknownRoute);
        let occurred: BTreeSet<Column> = known.keys().map(|(_, column)| *column).collect();
        let all = std::iter::once(None).chain(Situation::ALL.into_iter().map(Some));
        let columns: Vec<Column> = all
            .filter(|column| {
                column.is_none()
                    || occurred.contains(column)
                    || rows.iter().any(|row| can_occur(contract, row, *column))
            })
            .collect();
        let marks = |row: &EndpointRow| {
            let cell = |column: &Column| {
                let cell = known.get(&(row.clone(), *column)).cloned();
                match cell {
                    Some(cell) if cell.broken + cell.from_comparison > 0 => {
                        (CellMark::Broken, cell)
                    }
                    Some(cell) if cell.met == 0 => (CellMark::NotChecked, cell),
                    Some(cell) => (CellMark::Met, cell),
                    None if can_occur(contract, row, *column) => {
                        (CellMark::NotCovered, LedgerCell::default())
                    }
                    None => (CellMark::NotApplicable, LedgerCell::default()),
                }
            };
            columns.iter().map(cell).collect::<Vec<_>>()
        };
        let rows = rows.iter().map(|row| (row.clone(), marks(row))).collect();
        Self { columns, rows }
    }
}

/// Which rows of a grid are shown.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum GridRows {
    /// Those with an exchange; the others are counted where they are many.
    #[default]
    Covered,
    /// All of them.
    All,
}

/// A row and its cells.
pub type GridRow = (EndpointRow, Vec<(CellMark, LedgerCell)>);

/// So many rows without an exchange are shown all the same.
const FEW: usize = 12;

impl Grid {
    /// The rows to show, and how many endpoints without an exchange are left out.
    #[must_use]
    pub fn shown_rows(&self, which: GridRows) -> (Vec<&GridRow>, usize) {
        let is_open = |(row, cells): &&GridRow| {
            matches!(row, EndpointRow::Endpoint(_))
                && cells
                    .iter()
                    .all(|(mark, _)| matches!(mark, CellMark::NotCovered | CellMark::NotApplicable))
        };
        let open = self.rows.iter().filter(is_open).count();
        if which == GridRows::All || open <= FEW {
            return (self.rows.iter().collect(), 0);
        }
        (self.rows.iter().filter(|row| !is_open(row)).collect(), open)
    }
}

impl Grid {
    /// What of it has an exchange: rows and columns, in their order.
    #[must_use]
    pub fn covered(&self) -> Self {
        let has_column = |at: &usize| {
            self.rows
                .iter()
                .any(|(_, cells)| cells.get(*at).is_some_and(|(mark, _)| mark.is_covered()))
        };
        let kept: Vec<usize> = (0..self.columns.len()).filter(has_column).collect();
        let rows =
            self.rows.iter().filter(|(_, cells)| cells.iter().any(|(mark, _)| mark.is_covered()));
        let rows = rows.map(|(row, cells)| {
            let cells = kept.iter().filter_map(|at| cells.get(*at).cloned());
            (row.clone(), cells.collect())
        });
        Self {
            columns: kept.iter().filter_map(|at| self.columns.get(*at).copied()).collect(),
            rows: rows.collect(),
        }
    }

    /// So many rows at the most, in their order: those with a breach before all.
    #[must_use]
    pub fn most_telling_rows(&self, most: usize) -> Vec<&GridRow> {
        let is_met = |(_, cells): &GridRow| cells.iter().all(|(mark, _)| *mark != CellMark::Broken);
        let mut ranked: Vec<(bool, usize)> =
            self.rows.iter().enumerate().map(|(at, row)| (is_met(row), at)).collect();
        ranked.sort_unstable();
        ranked.truncate(most);
        let mut shown: Vec<usize> = ranked.into_iter().map(|(_, at)| at).collect();
        shown.sort_unstable();
        shown.iter().filter_map(|at| self.rows.get(*at)).collect()
    }
}

/// By the contract, can an exchange be in this cell, and would one try it?
fn can_occur(contract: &ErrorContract, row: &EndpointRow, column: Column) -> bool {
    let answered = |faults: &[FaultId], situation| {
        faults.iter().filter_map(|id| contract.fault(*id)).any(|fault| {
            let told = || {
                fault.when.is_empty()
                    && Situation::implied_by_status(fault.status) == Some(situation)
            };
            // Nobody can try the service's own failures, nor what may come at any time.
            fault.class == FaultClass::Expected && (fault.when.contains(&situation) || told())
        })
    };
    match (row, column) {
        (EndpointRow::UnknownRoute, column) => column == Some(Situation::UnknownRoute),
        (EndpointRow::OtherMethods(_), column) => column == Some(Situation::MethodNotAllowed),
        (EndpointRow::Endpoint(_), None) => true,
        (EndpointRow::Endpoint(id), Some(situation)) => {
            contract.endpoint(*id).is_some_and(|endpoint| {
                let answered = || answered(&endpoint.rules.faults, situation);
                can_show(&endpoint.rules, situation).unwrap_or_else(answered)
            })
        }
    }
}

/// Can a request to an endpoint with these rules show the situation? `None` where only a response tells of it.
#[must_use]
pub fn can_show(rules: &Rules, situation: Situation) -> Option<bool> {
    let body = rules.body.as_ref();
    let otherwise = |parameter: &Parameter| parameter.if_invalid == situation;
    Some(match situation {
        Situation::UnknownRoute | Situation::MethodNotAllowed | Situation::UnknownMethod => false,
        Situation::MissingCredentials => rules.auth == Some(Authentication::Required),
        Situation::UnsupportedMediaType => rules.accepts.is_some(),
        Situation::MalformedBody | Situation::InvalidBody => {
            body.is_some_and(|body| body.fields.is_some() || body.schema.is_some())
        }
        Situation::MissingBody => body.is_some_and(|body| body.required == BodyPresence::Yes),
        Situation::ContentTooLarge => rules.max_request_body.is_some(),
        Situation::InvalidParameters if !rules.parameters().is_empty() => {
            rules.parameters().iter().any(otherwise)
        }
        // A description names all parameters.
        Situation::InvalidParameters
            if rules.documented.is_some() && rules.unknown_parameters.is_none() =>
        {
            false
        }
        Situation::PreconditionRequired => {
            let required = rules.requires.iter().flatten();
            required.into_iter().any(|(_, missing)| *missing == situation)
        }
        _ => return None,
    })
}
