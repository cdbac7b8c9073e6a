//! Where a finding's rule stands: a section of a standard, or a key of the contract with its line.

use std::fmt;

use super::{Basis, Clause};
use faithful_clerk_contract::{EndpointRow, ErrorContract};
use faithful_clerk_model::finding::Expected;

/// The source of the rule that a finding is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct RuleSource {
    basis: Basis,
    line: Option<usize>,
}

impl RuleSource {
    /// The source of a clause's rule at an endpoint: the contract's key where it has one, else the standard.
    #[must_use]
    pub fn of(
        clause: &Clause,
        row: &EndpointRow,
        expected: &Expected,
        contract: &ErrorContract,
    ) -> Option<Self> {
        let in_contract = clause.basis.iter().find_map(|basis| match basis {
            Basis::Contract(key) => {
                let line = line(key, row, expected, contract)?;
                Some(Self { basis: *basis, line: Some(line) })
            }
            Basis::Rfc { .. } => None,
        });
        in_contract.or_else(|| {
            let basis = clause.basis.iter().find(|basis| matches!(basis, Basis::Rfc { .. }));
            let basis = basis.or(clause.basis.first())?;
            Some(Self { basis: *basis, line: None })
        })
    }
}

impl fmt::Display for RuleSource {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.line {
            Some(line) => write!(f, "{}, line {line}", self.basis),
            None => self.basis.fmt(f),
        }
    }
}

/// The line of a key that holds at an endpoint: its own, that of the fault, of every error, of everywhere, or of the
/// contract as a whole.
fn line(
    key: &str,
    row: &EndpointRow,
    expected: &Expected,
    contract: &ErrorContract,
) -> Option<usize> {
    let lines = &contract.key_lines;
    let of_endpoint = || {
        let EndpointRow::Endpoint(id) = row else { return None };
        lines.line(&["endpoint", &contract.endpoint(*id)?.name(), key])
    };
    let of_fault = || lines.line(&["fault", expected.fault()?, key]);
    of_endpoint()
        .or_else(of_fault)
        .or_else(|| lines.line(&["error", key]))
        .or_else(|| lines.line(&["everywhere", key]))
        .or_else(|| lines.line(&[key]))
}
