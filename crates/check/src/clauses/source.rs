//! Where a finding's rule stands: a section of a standard, or a key of the contract with its line.

use std::fmt;

use super::{Basis, Clause};
use faithful_clerk_contract::{EndpointRow, ErrorContract, KeyLine};
use faithful_clerk_model::finding::Expected;

/// The source of the rule that a finding is about.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RuleSource {
    basis: Basis,
    line: Option<KeyLine>,
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
            Basis::Contract(DESCRIPTION) => {
                let in_description = line_of_description(row, contract);
                let line = || line(DESCRIPTION, row, expected, contract).cloned();
                Some(Self { basis: *basis, line: Some(in_description.or_else(line)?) })
            }
            Basis::Contract(key) => {
                let line = line(key, row, expected, contract)?;
                Some(Self { basis: *basis, line: Some(line.clone()) })
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

/// The key that names a description.
const DESCRIPTION: &str = "openapi";

/// The line of the description at which an endpoint stands, where that is known.
fn line_of_description(row: &EndpointRow, contract: &ErrorContract) -> Option<KeyLine> {
    let EndpointRow::Endpoint(id) = row else { return None };
    let line = contract.endpoint(*id)?.described?;
    Some(KeyLine { line, file: Some(contract.description.clone()?) })
}

impl fmt::Display for RuleSource {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match &self.line {
            // A line of a description is no line of the contract.
            Some(line) if self.basis == Basis::Contract(DESCRIPTION) && line.file.is_some() => {
                line.fmt(f)
            }
            Some(line) => write!(f, "{}, {line}", self.basis),
            None => self.basis.fmt(f),
        }
    }
}

/// The line of a key that holds at an endpoint: its own, that of the fault, of every error, of everywhere, or of the
/// contract as a whole.
fn line<'c>(
    key: &str,
    row: &EndpointRow,
    expected: &Expected,
    contract: &'c ErrorContract,
) -> Option<&'c KeyLine> {
    let lines = &contract.key_lines;
    let of_endpoint = || {
        let EndpointRow::Endpoint(id) = row else { return None };
        lines.line(&["endpoint", &contract.endpoint(*id)?.name(), key])
    };
    let of_fault = || lines.line(&["fault", expected.fault()?, key]);
    let endpoint = match row {
        EndpointRow::Endpoint(id) => contract.endpoint(*id),
        EndpointRow::OtherMethods(_) | EndpointRow::UnknownRoute => None,
    };
    let region = endpoint.and_then(|endpoint| contract.region_of_endpoint(endpoint));
    let of_region = || {
        let name = contract.region(region)?.name.as_str();
        let own = lines.line(&["region", name, "error", key]);
        own.or_else(|| lines.line(&["region", name, key]))
    };
    // The time limit of errors wins over an endpoint's.
    let of_error = || match expected {
        Expected::ResponseWithin(limit) => {
            let error = &contract.style(region).error;
            let own = error.respond_within.filter(|own| own.to_string() == *limit);
            own.and_then(|_| of_region().or_else(|| lines.line(&["error", key])))
        }
        _ => None,
    };
    of_error()
        .or_else(of_endpoint)
        .or_else(of_fault)
        .or_else(of_region)
        .or_else(|| lines.line(&["error", key]))
        .or_else(|| lines.line(&["everywhere", key]))
        .or_else(|| lines.line(&[key]))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::clauses::clause;
    use faithful_clerk_contract::EndpointId;
    use faithful_clerk_model::finding::FaultStatus;

    const CONTRACT: &str = r#"contract = 1
[error]
media = "application/problem+json"
respond-within = "1s"
[fault.none]
status = 404
when = ["resource-not-found"]
[everywhere]
faults = ["none"]
success = [200]
[endpoint."GET /berths"]
respond-within = "2s"
[endpoint."POST /berths"]
success = [201]
"#;

    #[test]
    fn a_rule_is_found_where_it_is_declared_or_in_the_standard() {
        let contract = crate::parse_contract(CONTRACT).contract.unwrap();
        let source = |name: &str, endpoint: usize, expected: Expected| {
            let row = EndpointRow::Endpoint(EndpointId(endpoint));
            RuleSource::of(clause(name).unwrap(), &row, &expected, &contract).unwrap().to_string()
        };
        let fault = FaultStatus { status: 404, fault: "none".to_owned() };
        for (name, endpoint, expected, text) in [
            (
                "media.declared",
                0,
                Expected::MediaType(String::new()),
                "the contract's `media`, line 3",
            ),
            (
                "exchange.in-time",
                0,
                Expected::ResponseWithin("1000".to_owned()),
                "the contract's `respond-within`, line 4",
            ),
            (
                "exchange.in-time",
                0,
                Expected::ResponseWithin("2000".to_owned()),
                "the contract's `respond-within`, line 12",
            ),
            (
                "status.fits-situation",
                0,
                Expected::Fault(vec![fault], Vec::new()),
                "the contract's `when`, line 7",
            ),
            (
                "status.declared",
                0,
                Expected::Success(vec![200]),
                "the contract's `success`, line 10",
            ),
            (
                "status.declared",
                1,
                Expected::Success(vec![201]),
                "the contract's `success`, line 14",
            ),
            ("problem.status-agrees", 0, Expected::StatusLine(404), "RFC 9457 section 3.1.2"),
        ] {
            assert_eq!(source(name, endpoint, expected), text, "{name}");
        }
    }
}
