//! Documented errors as faults: each exact status of an operation, named from the component that describes it, else from the
//! operation and the status.

use std::collections::{BTreeMap, BTreeSet};

use super::description::Operation;
use crate::{Fault, FaultClass, FaultId, plain_name};
use faithful_clerk_model::situation::Situation;
use faithful_clerk_model::status;

/// The faults of a description, and gives each operation its own.
pub(crate) fn documented_faults(operations: &mut [Operation]) -> Vec<Fault> {
    let mut statuses: BTreeMap<String, BTreeSet<u16>> = BTreeMap::new();
    for (status, component) in operations.iter().flat_map(errors) {
        statuses.entry(component.unwrap_or_default()).or_default().insert(status);
    }
    let mut faults: Vec<Fault> = Vec::new();
    let mut known: BTreeMap<(String, u16), FaultId> = BTreeMap::new();
    for operation in operations {
        let mut own = Vec::new();
        for (status, component) in errors(operation) {
            let is_of_one_status =
                |name: &String| statuses.get(name).is_some_and(|statuses| statuses.len() == 1);
            let name = match component {
                Some(component) if is_of_one_status(&component) && says_which(&component) => {
                    plain_name(&component)
                }
                // A component for errors of any status says which by the status.
                Some(component) => format!("{}-{status}", plain_name(&component)),
                None => format!("{}-{status}", plain_name(&operation.name)),
            };
            let id = *known.entry((name.clone(), status)).or_insert_with(|| {
                faults.push(fault(name, status));
                FaultId(faults.len() - 1)
            });
            own.push(id);
        }
        operation.rules.faults = own;
    }
    faults
}

/// Words for errors of any kind.
const ANY_ERROR: [&str; 10] = [
    "problem",
    "problem-details",
    "problem-detail",
    "error",
    "errors",
    "error-response",
    "error-model",
    "api-error",
    "http-error",
    "message",
];

/// Does a component's name tell one error from others?
fn says_which(component: &str) -> bool {
    !ANY_ERROR.contains(&plain_name(component).as_str())
}

/// The errors that an operation documents by their exact status, with their components.
fn errors(operation: &Operation) -> Vec<(u16, Option<String>)> {
    let documented = operation.rules.documented.iter().flat_map(|documented| &documented.responses);
    let exact = documented.filter(|one| one.statuses.start() == one.statuses.end());
    let errors = exact.map(|one| (*one.statuses.start(), one.component.clone()));
    errors.filter(|(status, _)| *status >= 400 && status::is_registered(*status)).collect()
}

fn fault(name: String, status: u16) -> Fault {
    let class = match status {
        429 | 503 => FaultClass::AnyRequest,
        500.. => FaultClass::Internal,
        _ => FaultClass::Expected,
    };
    Fault { name, status, when: situations(status), class, is_documented: true, ..Fault::default() }
}

/// The situations that a documented status is for. Whatever was wrong with what a request holds may be 400.
fn situations(status: u16) -> Vec<Situation> {
    match status {
        400 => vec![
            Situation::MissingBody,
            Situation::MalformedBody,
            Situation::InvalidParameters,
            Situation::InvalidBody,
        ],
        401 => vec![Situation::MissingCredentials, Situation::InvalidCredentials],
        405 => vec![Situation::MethodNotAllowed],
        415 => vec![Situation::UnsupportedMediaType],
        422 => vec![Situation::InvalidParameters, Situation::InvalidBody],
        500.. => Vec::new(),
        status => Situation::implied_by_status(status).into_iter().collect(),
    }
}
