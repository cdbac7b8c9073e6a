//! What was expected in the situations that a request shows.

use crate::classify::Classified;
use faithful_clerk_contract::Fault;
use faithful_clerk_model::finding::{Expected, FaultStatus};

/// What was expected for the situations that a request shows.
pub(in crate::clauses) fn due(classified: &Classified<'_>, faults: &[&Fault]) -> Expected {
    let situations = classified.situations.holds.iter().collect();
    if faults.is_empty() {
        return Expected::ClientError(situations);
    }
    Expected::Fault(faults.iter().map(|fault| fault_status(fault)).collect(), situations)
}

/// A fault with the status that it declares.
pub(in crate::clauses) fn fault_status(fault: &Fault) -> FaultStatus {
    FaultStatus { status: fault.status, fault: fault.name.clone() }
}
