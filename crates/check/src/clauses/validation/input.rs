//! Which responses are about invalid input, and whether their words name a field.

pub(super) use crate::classify::mentions;
use crate::classify::{Classified, StatusVerdict};
use faithful_clerk_model::situation::Situation;

/// Is the response one about fields or parameters: by the fault that it is, or where none is declared, by its
/// status and by what holds?
pub(super) fn is_about_input(classified: &Classified<'_>) -> bool {
    let input = [Situation::InvalidBody, Situation::InvalidParameters];
    let responses = |situation: &Situation| input.contains(situation);
    if !classified.faults.is_empty() {
        return classified.faults.iter().any(|fault| fault.when.iter().any(responses));
    }
    // What is wrong as a whole has no parts to be checked.
    matches!(classified.status(), Some(400 | 422))
        && matches!(classified.verdict, StatusVerdict::Fits)
        && input.iter().any(|situation| classified.situations.decides(*situation))
}

/// Is what is wrong with the request in its parameters alone?
pub(super) fn is_about_parameters(classified: &Classified<'_>) -> bool {
    let situations = &classified.situations;
    situations.invalid.is_empty() && !situations.parameters.is_empty()
}
