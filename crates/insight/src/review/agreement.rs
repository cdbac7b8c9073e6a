//! Where a contract and an OpenAPI description disagree about errors.

use std::collections::BTreeMap;
use std::fmt;

use crate::draft::sample_response;
use faithful_clerk_contract::{
    DocumentedResponse, Endpoint, EndpointSignature, ErrorContract, Fault, FaultClass, RegionId,
};
use faithful_clerk_model::media::falls_under;

/// One thing that they disagree about.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub enum Disagreement {
    /// The description has the endpoint, and the contract has not.
    NotAgreed,
    /// The contract has the endpoint, and the description has not.
    NotDocumented,
    /// A status is documented, and no fault that is agreed here has it.
    StatusNotAgreed(u16),
    /// A fault is agreed here, and its status is not documented.
    StatusNotDocumented {
        /// The status.
        status: u16,
        /// The fault.
        fault: String,
    },
    /// The media types of a status are others.
    Media {
        /// The status.
        status: u16,
        /// What is agreed.
        agreed: String,
        /// What is documented.
        documented: Vec<String>,
    },
    /// A response that has the agreed shape breaks the documented schema.
    Schema {
        /// The status.
        status: u16,
        /// The fault.
        fault: String,
        /// Where, as a JSON Pointer.
        pointer: String,
        /// What is documented there.
        documented: String,
    },
}

impl fmt::Display for Disagreement {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::NotAgreed => f.write_str("is documented, and the contract does not have it"),
            Self::NotDocumented => f.write_str("is in the contract, and not documented"),
            Self::StatusNotAgreed(status) => {
                write!(f, "{status} is documented, and no fault has it")
            }
            Self::StatusNotDocumented { status, fault } => {
                write!(f, "{status} (fault {fault}) is agreed, and not documented")
            }
            Self::Media { status, agreed, documented } => {
                write!(
                    f,
                    "{status} is agreed as {agreed}, and documented as {}",
                    documented.join(", ")
                )
            }
            Self::Schema { status, fault, pointer, documented } => {
                let at = if pointer.is_empty() { "the whole body" } else { pointer };
                write!(
                    f,
                    "{status} (fault {fault}): a response as agreed breaks the documented schema at {at}: expected {documented}"
                )
            }
        }
    }
}

/// What a contract and a description disagree about, by endpoint.
#[must_use]
pub fn disagreements(
    contract: &ErrorContract,
    description: &ErrorContract,
) -> BTreeMap<String, Vec<Disagreement>> {
    let mut found: BTreeMap<String, Vec<Disagreement>> = BTreeMap::new();
    let by_place = |of: &'_ ErrorContract| -> BTreeMap<EndpointSignature, usize> {
        let key = |(at, endpoint): (usize, &Endpoint)| (EndpointSignature::of(endpoint), at);
        of.endpoints.iter().enumerate().map(key).collect()
    };
    let (agreed, documented) = (by_place(contract), by_place(description));
    for (place, at) in &documented {
        let Some(described) = description.endpoints.get(*at) else { continue };
        let own = agreed.get(place).and_then(|at| contract.endpoints.get(*at));
        let list = match own {
            None => vec![Disagreement::NotAgreed],
            Some(own) => of_endpoint(contract, own, described),
        };
        if !list.is_empty() {
            found.insert(own.unwrap_or(described).name(), list);
        }
    }
    let undocumented = agreed.iter().filter(|(place, _)| !documented.contains_key(*place));
    for endpoint in undocumented.filter_map(|(_, at)| contract.endpoints.get(*at)) {
        found.insert(endpoint.name(), vec![Disagreement::NotDocumented]);
    }
    found
}

fn of_endpoint(
    contract: &ErrorContract,
    own: &Endpoint,
    described: &Endpoint,
) -> Vec<Disagreement> {
    let Some(documented) = &described.rules.documented else { return Vec::new() };
    // A description that documents no error of an operation is silent about them.
    if !documented.has_errors() {
        return Vec::new();
    }
    let faults: Vec<&Fault> =
        own.rules.faults.iter().filter_map(|id| contract.fault(*id)).collect();
    let mut found = Vec::new();
    for response in &documented.responses {
        let status = *response.statuses.start();
        let is_exact = status == *response.statuses.end();
        if is_exact && status >= 400 && !faults.iter().any(|fault| fault.has_status(status)) {
            found.push(Disagreement::StatusNotAgreed(status));
        }
    }
    let region = contract.region_of_endpoint(own);
    for fault in faults {
        // What may come anywhere at any time is seldom documented at each operation.
        if fault.class != FaultClass::Expected || !fault.comes_at_endpoints() {
            continue;
        }
        found.extend(match documented.answer(fault.status) {
            Some(response) => {
                disagreement_of_fault(contract, fault, fault.status, response, region)
            }
            None => {
                let (status, fault) = (fault.status, fault.name.clone());
                Some(Disagreement::StatusNotDocumented { status, fault })
            }
        });
    }
    found.sort();
    found.dedup();
    found
}

/// What a documented response and a fault that comes with its status disagree about.
#[must_use]
pub fn disagreement_of_fault(
    contract: &ErrorContract,
    fault: &Fault,
    status: u16,
    response: &DocumentedResponse,
    region: Option<RegionId>,
) -> Option<Disagreement> {
    let error = &contract.style(region).error;
    let agreed = fault.media.as_deref().or(error.media.as_deref());
    if let Some(agreed) = agreed
        && !response.content.is_empty()
        && !response.content.iter().any(|(range, _)| falls_under(agreed, range))
    {
        let agreed = agreed.to_owned();
        let documented = response.content.iter().map(|(range, _)| range.clone()).collect();
        return Some(Disagreement::Media { status, agreed, documented });
    }
    let schema = response.schema(agreed.unwrap_or("application/problem+json"))?;
    // The sample is of the fault's first status.
    let sample = sample_response(contract, fault, region).body.filter(|_| fault.status == status);
    let mismatch = schema.mismatches(&sample?).into_iter().next()?;
    let documented = mismatch.expected.to_string();
    let (pointer, fault) = (mismatch.pointer, fault.name.clone());
    Some(Disagreement::Schema { status, fault, pointer, documented })
}
