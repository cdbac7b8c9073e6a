//! Where an application code stands.

use crate::classify::{Classified, code_value};
use faithful_clerk_model::json::pointer::from_tokens;
use faithful_clerk_model::json::scalar_text;

/// The pointer to the code: where the contract says, else the member `code`. Of a list it is the first's.
pub(super) fn pointer(classified: &Classified<'_>) -> String {
    match &classified.style().envelope.code {
        Some(steps) => {
            let first = |step: &String| if step == "*" { "0" } else { step }.to_owned();
            from_tokens(&steps.iter().map(first).collect::<Vec<_>>())
        }
        None => "/code".to_owned(),
    }
}

/// A code that the contract does not declare, as text, and where it stands. What it declares is checked for
/// each response by itself.
pub(super) fn undeclared(classified: &Classified<'_>) -> Option<(String, String)> {
    let contract = classified.contract;
    let declares = contract.codes.as_ref().is_some_and(|codes| !codes.catalogue.is_empty())
        || contract.all_faults.have_codes;
    let code = code_value(classified).filter(|_| !declares)?;
    let code = scalar_text(code).filter(|code| code.len() <= 80)?;
    // A code that repeats the status is none.
    let status = classified.status().unwrap_or_default().to_string();
    (code != status).then(|| (code, pointer(classified)))
}
