//! How much was tried.

use faithful_clerk_check::grid::{CellMark, Grid};
use faithful_clerk_check::ledger::Ledger;
use faithful_clerk_contract::{Case, ErrorContract, Fault, FaultClass};

/// Cells of the grid, counted. A cell is a situation at an endpoint, or a request in order there.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct CellCounts {
    /// Tried, and kept.
    pub met: u64,
    /// Tried, and broken.
    pub broken: u64,
    /// Tried, and not checked wholly.
    pub not_checked: u64,
    /// Not tried.
    pub not_covered: u64,
    /// By the contract it can't occur.
    pub cannot_occur: u64,
}

impl CellCounts {
    fn count(&mut self, mark: CellMark) {
        *match mark {
            CellMark::Met => &mut self.met,
            CellMark::Broken => &mut self.broken,
            CellMark::NotChecked => &mut self.not_checked,
            CellMark::NotCovered => &mut self.not_covered,
            CellMark::NotApplicable => &mut self.cannot_occur,
        } += 1;
    }

    /// In how many it was seen what the service does, right or wrong.
    #[must_use]
    pub fn verified(&self) -> u64 {
        self.met + self.broken
    }

    /// How many can occur: the denominator.
    #[must_use]
    pub fn of(&self) -> u64 {
        self.verified() + self.not_checked + self.not_covered
    }

    /// How many were verified of those that can occur, in whole percent, rounded down so that 100 means all.
    #[must_use]
    pub fn percent(&self) -> u64 {
        (self.verified() * 100).checked_div(self.of()).unwrap_or(0)
    }

    /// Was at least that part verified? Where nothing can occur, nothing is covered.
    #[must_use]
    pub fn is_at_least(&self, percent: u64) -> bool {
        self.of() > 0 && self.verified() * 100 >= percent * self.of() || percent == 0
    }
}

/// What was tried and what was not.
#[derive(Debug)]
pub struct Coverage<'c> {
    /// Endpoints and situations.
    pub grid: Grid,
    /// The whole grid, counted.
    pub cells: CellCounts,
    /// Faults never recorded. The service's own failures and what may come at any time are not among
    /// them: nobody can provoke them.
    pub faults_unseen: Vec<&'c Fault>,
    /// Cases that no request tried.
    pub cases_unseen: Vec<&'c Case>,
}

impl<'c> Coverage<'c> {
    /// The coverage of a concluded ledger.
    #[must_use]
    pub fn of(contract: &'c ErrorContract, ledger: &Ledger) -> Self {
        let grid = Grid::of(contract, ledger);
        let mut cells = CellCounts::default();
        let marks = grid.rows.iter().flat_map(|(_, cells)| cells);
        marks.for_each(|(mark, _)| cells.count(*mark));
        let unseen = |fault: &&Fault| {
            fault.class == FaultClass::Expected && !ledger.faults.contains_key(&fault.name)
        };
        let cases = contract.cases.iter().enumerate();
        Self {
            grid,
            cells,
            faults_unseen: contract.faults.iter().filter(unseen).collect(),
            cases_unseen: cases
                .filter(|(at, _)| !ledger.cases.contains_key(at))
                .map(|(_, case)| case)
                .collect(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_percentage_is_rounded_down_and_of_nothing_there_is_none() {
        let share =
            CellCounts { met: 1, broken: 1, not_checked: 1, not_covered: 0, cannot_occur: 9 };
        assert_eq!((share.verified(), share.of(), share.percent()), (2, 3, 66));
        assert!(share.is_at_least(66) && !share.is_at_least(67));
        let nothing = CellCounts::default();
        assert!(!nothing.is_at_least(1) && nothing.is_at_least(0));
        assert_eq!(nothing.percent(), 0);
    }
}
