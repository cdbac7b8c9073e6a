//! A description with the contract's faults in it: each operation documents the faults that it can respond with, and all
//! else is as it was.

use std::collections::BTreeMap;

use serde_json::{Map, Value, json};

use super::components::ComponentLibrary;
use crate::review::disagreement_of_fault;
use faithful_clerk_contract::{
    DocumentedResponse, Endpoint, EndpointSignature, ErrorContract, Fault, FaultId, METHODS,
    OTHER_METHODS, RegionId,
};
use faithful_clerk_schema::{DocumentText, parse_document};

/// A description with a contract's faults.
#[derive(Debug)]
pub struct MergedDescription {
    /// Its text.
    pub text: String,
    /// So many responses are new.
    pub added: usize,
    /// The responses that others stand in the place of, as `METHOD /path: STATUS`.
    pub replaced: Vec<String>,
    /// What could not be brought in, and why.
    pub left: Vec<String>,
}

/// What is to be written into a description.
struct MergePlan<'c> {
    contract: &'c ErrorContract,
    library: ComponentLibrary<'c>,
    /// New members, by path and method.
    paths: Map<String, Value>,
    replacements: Vec<(Vec<String>, Value)>,
    added: usize,
    replaced: Vec<String>,
    left: Vec<String>,
}

/// An operation of the description, and its endpoint.
struct MergedOperation<'v> {
    /// The members that lead to it.
    location: Vec<String>,
    value: &'v Value,
    endpoint: &'v Endpoint,
    described: &'v Endpoint,
}

/// Brings a contract's faults into the text of a description. `described` is what the description says by itself.
///
/// # Errors
/// Why the text can't be read.
pub fn merged_description(
    contract: &ErrorContract,
    described: &ErrorContract,
    text: &str,
) -> Result<MergedDescription, String> {
    let root = parse_document(text.as_bytes())?;
    let document = DocumentText::read(text)?;
    let mut plan = MergePlan {
        contract,
        library: ComponentLibrary::of(contract, &root),
        paths: Map::new(),
        replacements: Vec::new(),
        added: 0,
        replaced: Vec::new(),
        left: Vec::new(),
    };
    plan.operations(described, &root);
    let MergePlan { library, paths, replacements, added, replaced, mut left, .. } = plan;
    let mut additions = Map::new();
    if !paths.is_empty() {
        additions.insert("paths".to_owned(), Value::Object(paths));
    }
    let components = library.into_new_components();
    if !components.is_empty() {
        additions.insert("components".to_owned(), Value::Object(components));
    }
    let edited = document.edited(&additions, &replacements);
    let place = |(path, why): (Vec<String>, &str)| format!("{}: {why}", path.join(" "));
    left.extend(edited.left.into_iter().map(place));
    Ok(MergedDescription { text: edited.text, added, replaced, left })
}

impl MergePlan<'_> {
    fn operations(&mut self, described: &ErrorContract, root: &Value) {
        let by_signature = |contract: &'_ ErrorContract| -> BTreeMap<EndpointSignature, usize> {
            let all = contract.endpoints.iter().enumerate();
            all.map(|(at, endpoint)| (EndpointSignature::of(endpoint), at)).collect()
        };
        let contract = self.contract;
        let (agreed, documented) = (by_signature(contract), by_signature(described));
        let mut met = Vec::new();
        let paths = root.get("paths").and_then(Value::as_object);
        for (path, item) in paths.into_iter().flatten() {
            if item.get("$ref").is_some() {
                self.left.push(format!("{path}: it stands in another place"));
            }
            for (method, location, value) in operations(path, item) {
                let signature = EndpointSignature::documented(&method, path);
                let own = agreed.get(&signature).and_then(|at| contract.endpoints.get(*at));
                let described =
                    documented.get(&signature).and_then(|at| described.endpoints.get(*at));
                let (Some(endpoint), Some(described)) = (own, described) else { continue };
                met.push(signature);
                self.operation(&MergedOperation { location, value, endpoint, described });
            }
        }
        let missing = agreed.iter().filter(|(signature, _)| !met.contains(signature));
        for endpoint in missing.filter_map(|(_, at)| contract.endpoints.get(*at)) {
            self.left.push(format!("{}: it is not in the description", endpoint.name()));
        }
    }

    fn operation(&mut self, operation: &MergedOperation<'_>) {
        let contract = self.contract;
        let region = contract.region_of_endpoint(operation.endpoint);
        let mut by_status: BTreeMap<u16, Vec<FaultId>> = BTreeMap::new();
        for id in &operation.endpoint.rules.faults {
            let Some(fault) = contract.fault(*id).filter(|fault| fault.comes_at_endpoints()) else {
                continue;
            };
            for status in std::iter::once(fault.status).chain(fault.other_statuses.iter().copied())
            {
                by_status.entry(status).or_default().push(*id);
            }
        }
        let documented = operation.described.rules.documented.as_ref();
        for (status, ids) in by_status {
            let exact = documented.and_then(|documented| documented.exact(status));
            self.response(operation, status, &ids, region, exact);
        }
    }

    fn response(
        &mut self,
        operation: &MergedOperation<'_>,
        status: u16,
        ids: &[FaultId],
        region: Option<RegionId>,
        exact: Option<&DocumentedResponse>,
    ) {
        let contract = self.contract;
        let written = operation.value.get("responses").and_then(|all| all.get(status.to_string()));
        let path =
            || [&operation.location[..], &["responses".to_owned(), status.to_string()]].concat();
        let name = || format!("{}: {status}", operation.endpoint.name());
        match (exact, written) {
            (Some(exact), Some(written)) => {
                let faults = ids.iter().filter_map(|id| contract.fault(*id));
                let disagrees = |fault: &Fault| {
                    disagreement_of_fault(contract, fault, status, exact, region).is_some()
                };
                let agrees = !faults.clone().any(disagrees);
                let bodies = self.library.content(status, ids, region);
                if agrees && (!exact.content.is_empty() || bodies.is_none()) {
                    return;
                }
                // One that says nothing of its body is completed, as far as it is this operation's alone.
                if let Some(content) = bodies
                    && exact.content.is_empty()
                    && written.get("$ref").is_none()
                {
                    let more = [path(), vec!["content".to_owned()]].concat();
                    self.library.uses(&content);
                    self.insert(&more, content);
                    self.added += 1;
                    return;
                }
                let reference = self.library.response(status, ids, region);
                self.replacements.push((path(), reference));
                self.replaced.push(name());
            }
            _ => {
                let reference = self.library.response(status, ids, region);
                self.insert(&path(), reference);
                self.added += 1;
            }
        }
    }

    /// A member that is new, below `paths`.
    fn insert(&mut self, path: &[String], value: Value) {
        let mut members = &mut self.paths;
        let Some((last, above)) = path.split_last() else { return };
        for step in above.iter().skip(1) {
            let next = members.entry(step.clone()).or_insert_with(|| json!({}));
            let Value::Object(inner) = next else { return };
            members = inner;
        }
        members.insert(last.clone(), value);
    }
}

/// The operations of a path, each with its method and the members that lead to it.
fn operations<'v>(
    path: &'v str,
    item: &'v Value,
) -> impl Iterator<Item = (String, Vec<String>, &'v Value)> {
    let at = |steps: &[&str]| -> Vec<String> {
        ["paths", path].iter().chain(steps).map(|step| (*step).to_owned()).collect()
    };
    let usual = METHODS
        .iter()
        .filter_map(move |method| Some((method.to_uppercase(), at(&[method]), item.get(method)?)));
    let others = item.get(OTHER_METHODS).and_then(Value::as_object).into_iter().flatten();
    let others = others.map(move |(method, value)| {
        let location = ["paths", path, OTHER_METHODS, method.as_str()].map(str::to_owned).to_vec();
        (method.clone(), location, value)
    });
    usual.chain(others)
}
