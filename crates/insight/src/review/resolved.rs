//! The contract as it is understood: at every endpoint its faults by situation, and where each comes from.

use super::notices::can_hold;
use faithful_clerk_contract::{
    Case, Endpoint, EndpointId, ErrorContract, Expectation, Fault, FaultClass, FaultId,
    FaultOrigin, KeyLine, Router,
};
use faithful_clerk_model::situation::Situation;

/// All of it.
#[derive(Debug)]
pub struct ResolvedContract<'c> {
    /// The endpoints, in the order of the contract.
    pub endpoints: Vec<ResolvedEndpoint<'c>>,
}

/// What holds at an endpoint, or where a request leads to none.
#[derive(Debug)]
pub struct ResolvedEndpoint<'c> {
    /// The endpoint; none where a request leads to none.
    pub endpoint: Option<&'c Endpoint>,
    /// The region that it lies in.
    pub region: Option<&'c str>,
    /// Its faults, by situation.
    pub faults: Vec<ResolvedFault<'c>>,
    /// The cases that can be about it.
    pub cases: Vec<ResolvedCase<'c>>,
}

/// A fault where it is allowed.
#[derive(Debug)]
pub struct ResolvedFault<'c> {
    /// The situation; none where its condition can't be seen from a request.
    pub situation: Option<Situation>,
    /// The fault.
    pub fault: &'c Fault,
    /// The table that names it there.
    pub origin: FaultOrigin,
    /// Where that table does.
    pub line: Option<&'c KeyLine>,
}

/// A case that can be about an endpoint.
#[derive(Debug)]
pub struct ResolvedCase<'c> {
    /// The case.
    pub case: &'c Case,
    /// What it expects: a fault's name, `success`, or nothing in particular.
    pub expects: Option<&'c str>,
    /// Where it stands.
    pub line: Option<&'c KeyLine>,
}

/// The contract as it is understood.
#[must_use]
pub fn resolved_contract(contract: &ErrorContract) -> ResolvedContract<'_> {
    let mut endpoints: Vec<ResolvedEndpoint<'_>> = contract
        .endpoints
        .iter()
        .enumerate()
        .map(|(at, endpoint)| {
            let region = contract.region_of_endpoint(endpoint);
            let named = endpoint.fault_origins.iter();
            let named = named.filter(|(id, _)| endpoint.rules.faults.contains(id));
            let mut faults = by_situation(contract, named.cloned(), &endpoint.name());
            // What leads nowhere does not lead here, nor is a body invalid where there is none.
            faults
                .retain(|one| one.situation.is_none_or(|situation| can_hold(endpoint, situation)));
            ResolvedEndpoint {
                endpoint: Some(endpoint),
                region: contract.region(region).map(|region| region.name.as_str()),
                faults,
                cases: cases(contract, EndpointId(at), endpoint),
            }
        })
        .collect();
    for (region, _) in contract.styles() {
        let rules = contract.rules_at(None, region);
        let own = contract.region(region);
        let origin = |id: FaultId| match own {
            Some(region) if region.own_faults.contains(&id) => {
                FaultOrigin::Region(region.name.clone())
            }
            _ => FaultOrigin::Everywhere,
        };
        let named = rules.faults.iter().map(|id| (*id, origin(*id)));
        endpoints.push(ResolvedEndpoint {
            endpoint: None,
            region: own.map(|region| region.name.as_str()),
            faults: by_situation(contract, named, "")
                .into_iter()
                .filter(|one| one.situation.is_none_or(leads_nowhere))
                .collect(),
            cases: Vec::new(),
        });
    }
    ResolvedContract { endpoints }
}

fn leads_nowhere(situation: Situation) -> bool {
    matches!(
        situation,
        Situation::UnknownRoute | Situation::MethodNotAllowed | Situation::UnknownMethod
    )
}

fn by_situation<'c>(
    contract: &'c ErrorContract,
    named: impl Iterator<Item = (FaultId, FaultOrigin)>,
    endpoint: &str,
) -> Vec<ResolvedFault<'c>> {
    let mut found = Vec::new();
    for (id, origin) in named {
        let Some(fault) = contract.fault(id) else { continue };
        let line = contract.key_lines.line(&origin.path(endpoint));
        let implied = Situation::implied_by_status(fault.status);
        let situations: Vec<Option<Situation>> = match fault.class {
            FaultClass::AnyRequest | FaultClass::Internal => vec![None],
            FaultClass::Expected if fault.when.is_empty() => vec![implied],
            FaultClass::Expected => fault.when.iter().copied().map(Some).collect(),
        };
        found.extend(situations.into_iter().map(|situation| ResolvedFault {
            situation,
            fault,
            origin: origin.clone(),
            line,
        }));
    }
    // A grid has the situations in this order, too; what no request shows comes last.
    found.sort_by_key(|one| (one.situation.is_none(), one.situation));
    found
}

fn cases<'c>(
    contract: &'c ErrorContract,
    id: EndpointId,
    endpoint: &Endpoint,
) -> Vec<ResolvedCase<'c>> {
    let own = Router::segments(&endpoint.path).unwrap_or_default();
    let is_about = |case: &&Case| {
        let is_method = case.method.as_ref().is_none_or(|method| *method == endpoint.method);
        let is_path = case.path.as_ref().is_none_or(|path| {
            path.len() == own.len()
                && path.iter().zip(&own).all(|(one, other)| one.could_equal(other))
        });
        let in_group = case.endpoints.as_ref().is_none_or(|ids| ids.contains(&id));
        is_method && is_path && in_group
    };
    let about = contract.cases.iter().filter(is_about);
    about
        .map(|case| ResolvedCase {
            case,
            expects: match case.expect {
                Expectation::Fault(id) => contract.fault(id).map(|fault| fault.name.as_str()),
                Expectation::Success => Some("success"),
                Expectation::Open => None,
            },
            // A case for several requests has the others' behind its name.
            line: contract
                .key_lines
                .line(&["case", case.name.split(" (").next().unwrap_or_default()]),
        })
        .collect()
}
