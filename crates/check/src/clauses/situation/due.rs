//! What was due, in words.

use crate::classify::Classified;
use faithful_clerk_contract::Fault;

/// What was due for the situations that a request shows, in words.
pub(in crate::clauses) fn due(classified: &Classified<'_>, faults: &[&Fault]) -> String {
    let situations: Vec<&str> = classified.situations.holds.iter().map(|s| s.name()).collect();
    let situations = situations.join(" and ");
    if faults.is_empty() {
        return format!("an error of the caller's (4xx) for {situations}");
    }
    let faults: Vec<String> =
        faults.iter().map(|fault| format!("{} (fault {})", fault.status, fault.name)).collect();
    format!("{} for {situations}", faults.join(" or "))
}
