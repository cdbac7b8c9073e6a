//! The life of a thing: it is created, read, changed, deleted, and then it is gone.

use super::plan::ProbePlanner;
use super::request::PlannedRequest;
use faithful_clerk_contract::Endpoint;
use faithful_clerk_model::situation::Situation;

/// Where a creation says what the thing is called: its address, else a member of its body.
const CALLED: [&str; 4] = ["Location", "/id", "/data/id", "/uuid"];

impl ProbePlanner<'_> {
    /// A sequence for each endpoint that creates things which others read, change or delete.
    pub(super) fn sequences(&mut self) {
        let endpoints = &self.contract.endpoints;
        for create in endpoints.iter().filter(|endpoint| endpoint.method == "POST") {
            let below =
                |endpoint: &&Endpoint| parameter_below(&create.path, &endpoint.path).is_some();
            let things: Vec<&Endpoint> = endpoints.iter().filter(below).collect();
            let is_read_or_deleted =
                |endpoint: &&Endpoint| matches!(endpoint.method.as_str(), "GET" | "DELETE");
            if create.rules.body.is_some() && things.iter().any(is_read_or_deleted) {
                self.sequence(create, &things);
            }
        }
    }

    /// A request on a limit. What it creates is deleted at once, where that can be, so that the next is not in conflict with
    /// it.
    pub(super) fn on_limit(&mut self, endpoint: &Endpoint, mut request: PlannedRequest) {
        if !request.is_as_planned(self.contract) {
            return;
        }
        let is_its_end = |other: &&Endpoint| {
            other.method == "DELETE" && parameter_below(&endpoint.path, &other.path).is_some()
        };
        let delete = self.contract.endpoints.iter().find(is_its_end);
        let Some(delete) = delete.filter(|_| endpoint.method == "POST") else {
            return self.plan.requests.push(request);
        };
        let name = self.next_name();
        let parameter = parameter_below(&endpoint.path, &delete.path).unwrap_or_default();
        request.saves = saves(&name, parameter);
        let mut end = self.base(delete);
        end.name = format!("{}: delete it", request.name);
        end.target = self.target_of(delete, parameter, &name);
        end.uses = vec![name];
        end.level = request.level;
        self.plan.requests.extend([request, end]);
    }

    fn sequence(&mut self, create: &Endpoint, things: &[&Endpoint]) {
        let name = self.next_name();
        let of = |method: &str| things.iter().copied().find(|endpoint| endpoint.method == method);
        let mut first = self.base(create);
        first.name = format!("sequence of {}: create", create.path);
        let parameter = things.iter().find_map(|thing| parameter_below(&create.path, &thing.path));
        first.saves = saves(&name, parameter.unwrap_or_default());
        if !first.is_as_planned(self.contract) {
            return;
        }
        let mut requests = vec![first];
        let step = |endpoint: &Endpoint, what: &str, situation: Option<Situation>| {
            let mut planned = self.base(endpoint);
            let parameter = parameter_below(&create.path, &endpoint.path).unwrap_or_default();
            planned.name = format!("sequence of {}: {what}", create.path);
            planned.target = self.target_of(endpoint, parameter, &name);
            planned.situation = situation;
            planned.uses = vec![name.clone()];
            planned
        };
        let read = of("GET");
        requests.extend(read.map(|read| step(read, "read", None)));
        for change in [of("PATCH"), of("PUT")].into_iter().flatten() {
            if change.rules.body.is_some() {
                requests.push(step(change, &format!("change by {}", change.method), None));
            }
        }
        if let Some(delete) = of("DELETE") {
            requests.push(step(delete, "delete", None));
            let gone = Some(Situation::ResourceNotFound);
            if let Some(read) = read.filter(|read| self.refuses_what_is_not_there(read)) {
                requests.push(step(read, "read what is gone", gone));
            }
            if self.refuses_what_is_not_there(delete) {
                requests.push(step(delete, "delete what is gone", gone));
            }
        }
        self.plan.requests.extend(requests);
    }

    /// What the next thing is kept as.
    fn next_name(&self) -> String {
        let creates = |planned: &&PlannedRequest| !planned.saves.is_empty();
        format!("created-{}", 1 + self.plan.requests.iter().filter(creates).count())
    }
}

/// Where a creation says what a thing is called that others ask for by this parameter.
fn saves(name: &str, parameter: &str) -> Vec<(String, String)> {
    let own = format!("/{parameter}");
    let places = CALLED.into_iter().map(str::to_owned).chain([own]);
    places.map(|place| (name.to_owned(), place)).collect()
}

/// The parameter behind a collection's path, where another path is that of one of its things.
fn parameter_below<'p>(collection: &str, path: &'p str) -> Option<&'p str> {
    let rest = path.strip_prefix(collection)?.strip_prefix("/{")?;
    let parameter = rest.strip_suffix('}')?;
    (!parameter.contains(['{', '}', '/'])).then_some(parameter)
}

#[cfg(test)]
mod tests {
    use super::parameter_below;

    #[test]
    fn a_thing_is_one_parameter_below_its_collection() {
        assert_eq!(parameter_below("/boats", "/boats/{id}"), Some("id"));
        assert_eq!(parameter_below("/a/{b}/crew", "/a/{b}/crew/{name}"), Some("name"));
        for other in ["/boats", "/boats/{id}/crew", "/boats/all", "/ships/{id}", "/boatsmen/{id}"] {
            assert_eq!(parameter_below("/boats", other), None, "{other}");
        }
    }
}
