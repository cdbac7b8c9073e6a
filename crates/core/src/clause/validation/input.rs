//! Which answers are about invalid input.

use crate::place::{Placed, Verdict};
use crate::situation::Situation;

/// Is the answer one about fields or parameters: by the fault that it is, or where none is agreed, by its
/// status and by what holds?
pub(super) fn is_about_input(placed: &Placed<'_>) -> bool {
    let input = [Situation::FieldsInvalid, Situation::ParametersInvalid];
    let answers = |situation: &Situation| input.contains(situation);
    if !placed.faults.is_empty() {
        return placed.faults.iter().any(|fault| fault.answers.iter().any(answers));
    }
    // What is wrong as a whole has no parts to be judged.
    matches!(placed.status(), Some(400 | 422))
        && matches!(placed.verdict, Verdict::Fits)
        && input.iter().any(|situation| placed.situations.decides(*situation))
}
