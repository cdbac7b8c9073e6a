//! The life of a thing: it is created, read, changed, deleted, and then it is gone. On the way it is created once more,
//! and changed on a condition that does not hold any longer, where the contract says what happens then.

use super::plan::ProbePlanner;
use super::request::{PlannedRequest, STATUS, Undo, idempotency_key};
use faithful_clerk_contract::{Endpoint, Fault};
use faithful_clerk_model::situation::Situation;

/// Where a creation says what the thing is called: its address, else a member of its body.
const CALLED: [&str; 4] = ["Location", "/id", "/data/id", "/uuid"];

/// Keys of sequences are numbered from here on, and so never those of other requests.
const FIRST_KEY: usize = 1_000_000;

/// No service gives a thing this entity tag.
const NO_ENTITY_TAG: &str = "\"no-such-entity-tag\"";

impl<'c> ProbePlanner<'c> {
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
        let Some(delete) = self.end_of(&endpoint.path).filter(|_| endpoint.method == "POST") else {
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
        let parameter = things.iter().find_map(|thing| parameter_below(&create.path, &thing.path));
        let parameter = parameter.unwrap_or_default();
        let mut first = self.base(create);
        first.name = format!("sequence of {}: create", create.path);
        first.saves = saves(&name, parameter);
        let key = self.idempotency_field(&create.rules);
        if let Some(field) = &key {
            first.set_header(field, &idempotency_key(FIRST_KEY + self.plan.requests.len()));
        }
        if !first.is_as_planned(self.contract) {
            return;
        }
        let mut requests = vec![first];
        let again = format!("{name}-again");
        if let Some(field) = &key {
            self.with_the_same_key(create, field, (&name, &again, parameter), &mut requests);
        }
        if self.refuses(create, Situation::Conflict, &[409]) {
            let mut twice = self.base(create);
            twice.name = format!("sequence of {}: create the same again", create.path);
            twice.situation = Some(Situation::Conflict);
            requests.push(twice);
        }
        let step = |endpoint: &Endpoint, what: &str, situation: Option<Situation>| {
            self.step((create, &name), endpoint, what, situation)
        };
        let read = of("GET");
        requests.extend(read.map(|read| step(read, "read", None)));
        let [reads, actions] = self.parts_and_actions(create);
        requests.extend(
            reads.into_iter().map(|(rest, part)| step(part, &format!("read {rest}"), None)),
        );
        for change in [of("PATCH"), of("PUT")].into_iter().flatten() {
            if change.rules.body.is_some() {
                requests.push(step(change, &format!("change by {}", change.method), None));
                if self.refuses(change, Situation::PreconditionFailed, &[412]) {
                    self.on_condition((create, &name), (change, read), &mut requests);
                }
            }
        }
        for (rest, action) in actions {
            let done = format!("{name}{}", rest.replace('/', "-"));
            let mut once = step(action, &format!("POST {rest}"), None);
            once.saves = vec![(done.clone(), STATUS.to_owned())];
            requests.push(once);
            if self.refuses(action, Situation::Conflict, &[409]) {
                let conflict = Some(Situation::Conflict);
                let mut again = step(action, &format!("POST {rest} again"), conflict);
                again.uses.push(done);
                requests.push(again);
            }
        }
        if let Some(delete) = of("DELETE") {
            requests.push(step(delete, "delete", None));
            let gone = Some(Situation::ResourceNotFound);
            if let Some(read) = read.filter(|read| self.refuses_what_is_not_there(read)) {
                requests.push(step(read, "read what is gone", gone));
                if key.is_some() {
                    let what = "read what the repeated creation gave, which is gone";
                    requests.push(self.step((create, &again), read, what, gone));
                }
            }
            if self.refuses_what_is_not_there(delete) {
                requests.push(step(delete, "delete what is gone", gone));
            }
        }
        self.plan.requests.extend(requests);
    }

    /// What a thing has below it: parts that are read, and what is done to it, each with the end of its path. An endpoint that
    /// creates further things has a sequence of its own.
    fn parts_and_actions(&self, create: &Endpoint) -> [Vec<(String, &'c Endpoint)>; 2] {
        let endpoints = &self.contract.endpoints;
        let creates = |one: &Endpoint| {
            endpoints.iter().any(|other| parameter_below(&one.path, &other.path).is_some())
        };
        let of = |method: &str| {
            let with_rest = |one: &'c Endpoint| {
                let (_, rest) = thing_below(&create.path, &one.path)?;
                let is_it = one.method == method && !rest.is_empty() && !rest.contains('{');
                (is_it && (method == "GET" || !creates(one))).then(|| (rest.to_owned(), one))
            };
            endpoints.iter().filter_map(with_rest).collect()
        };
        [of("GET"), of("POST")]
    }

    /// A step in the life of the thing that is kept under a name.
    fn step(
        &self,
        (create, name): (&Endpoint, &str),
        endpoint: &Endpoint,
        what: &str,
        situation: Option<Situation>,
    ) -> PlannedRequest {
        let mut planned = self.base(endpoint);
        let parameter = thing_below(&create.path, &endpoint.path).map_or("", |(name, _)| name);
        planned.name = format!("sequence of {}: {what}", create.path);
        planned.target = self.target_of(endpoint, parameter, name);
        planned.situation = situation;
        planned.uses = vec![name.to_owned()];
        planned
    }

    /// The creation once more with its idempotency key, which creates nothing more, and another one with it.
    fn with_the_same_key(
        &mut self,
        create: &Endpoint,
        field: &str,
        (name, again, parameter): (&str, &str, &str),
        requests: &mut Vec<PlannedRequest>,
    ) {
        let Some(first) = requests.first().cloned() else { return };
        let what = "create once more with the same idempotency key";
        requests.push(PlannedRequest {
            name: format!("sequence of {}: {what}", create.path),
            uses: vec![name.to_owned()],
            saves: saves(again, parameter),
            repeats: true,
            ..first.clone()
        });
        let what = "another body with the same idempotency key";
        let name = format!("sequence of {}: {what}", create.path);
        let faults = create.rules.faults.iter().filter_map(|id| self.contract.fault(*id));
        let says_so = |fault: &&Fault| {
            let texts = [Some(&fault.name), fault.title.as_ref(), fault.type_uri.as_ref()];
            let mut texts = texts.into_iter().flatten();
            texts.any(|text| text.to_ascii_lowercase().contains("idempoten"))
        };
        let situation = faults.filter(says_so).find_map(|fault| fault.when.first().copied());
        let is_its_own = |endpoint: &Endpoint| {
            (&endpoint.method, &endpoint.path) == (&create.method, &create.path)
        };
        let mut others = self.on_limits.iter().filter(|(endpoint, _)| is_its_own(endpoint));
        let other = others.find_map(|(_, other)| (other.body != first.body).then_some(other));
        match (situation, other.cloned()) {
            (Some(situation), Some(mut other)) => {
                let key = first.headers.iter().find(|(known, _)| known == field);
                other.set_header(field, key.map_or("", |(_, key)| key));
                other.name = name;
                other.situation = Some(situation);
                requests.push(other);
            }
            (None, _) => {
                self.leave_out(&name, "no fault of the endpoint is about idempotency keys");
            }
            (_, None) => self.leave_out(&name, "no other body could be made up"),
        }
    }

    /// A change on the condition that nobody has changed the thing since, when somebody has (RFC 9110 section 13.1.1).
    fn on_condition(
        &self,
        of: (&Endpoint, &str),
        (change, read): (&Endpoint, Option<&Endpoint>),
        requests: &mut Vec<PlannedRequest>,
    ) {
        const IF_MATCH: &str = "If-Match";
        let by = &change.method;
        let failed = Some(Situation::PreconditionFailed);
        let mut never = self.step(of, change, &format!("{by} if an unknown tag matches"), failed);
        never.set_header(IF_MATCH, NO_ENTITY_TAG);
        requests.push(never);
        let Some(read) = read else { return };
        let tag = |when: &str| format!("{}-tag-{when}-{}", of.1, by.to_ascii_lowercase());
        let (before, after) = (tag("before"), tag("after"));
        let read = |when: &str, kept: &str| {
            let mut read = self.step(of, read, &format!("read {when} {by} with its tag"), None);
            read.saves = vec![(kept.to_owned(), "ETag".to_owned())];
            read
        };
        let changed = |what: &str, situation: Option<Situation>| {
            let mut changed = self.step(of, change, &format!("{by} {what}"), situation);
            changed.set_header(IF_MATCH, &format!("{{{before}}}"));
            changed.uses.push(before.clone());
            changed
        };
        let mut stale = changed("if the tag from before matches", failed);
        stale.differ = Some((before.clone(), after.clone()));
        requests.extend([
            read("before", &before),
            changed("if its tag matches", None),
            read("after", &after),
            stale,
        ]);
    }

    /// The endpoint that deletes what is created at a path.
    fn end_of(&self, path: &str) -> Option<&Endpoint> {
        let is_it = |other: &&Endpoint| {
            other.method == "DELETE" && parameter_below(path, &other.path).is_some()
        };
        self.contract.endpoints.iter().find(is_it)
    }

    /// Gives each request that is to create nothing, and might, what takes that away again.
    pub(super) fn undo(&mut self) {
        const MISTAKE: &str = "created-by-mistake";
        let mut requests = std::mem::take(&mut self.plan.requests);
        let may_create =
            |planned: &&mut PlannedRequest| planned.method == "POST" && planned.situation.is_some();
        for planned in requests.iter_mut().filter(may_create) {
            let path = planned.target.split('?').next().unwrap_or_default();
            let Some(delete) = self.end_of(path) else { continue };
            let parameter = parameter_below(path, &delete.path).unwrap_or_default();
            let mut request = self.base(delete);
            request.name = format!("{}: delete what it created", planned.name);
            request.target = self.target_of(delete, parameter, MISTAKE);
            request.uses = vec![MISTAKE.to_owned()];
            planned.undo = Some(Box::new(Undo { saves: saves(MISTAKE, parameter), request }));
        }
        self.plan.requests = requests;
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
    thing_below(collection, path).and_then(|(name, rest)| rest.is_empty().then_some(name))
}

/// The parameter behind a collection's path, and what follows it.
fn thing_below<'p>(collection: &str, path: &'p str) -> Option<(&'p str, &'p str)> {
    let (name, rest) = path.strip_prefix(collection)?.strip_prefix("/{")?.split_once('}')?;
    let is_whole_step = rest.is_empty() || rest.starts_with('/');
    (is_whole_step && !name.contains('{')).then_some((name, rest))
}

#[cfg(test)]
mod tests {
    use super::{parameter_below, thing_below};

    #[test]
    fn a_thing_is_one_parameter_below_its_collection() {
        assert_eq!(parameter_below("/boats", "/boats/{id}"), Some("id"));
        assert_eq!(parameter_below("/a/{b}/crew", "/a/{b}/crew/{name}"), Some("name"));
        assert_eq!(thing_below("/boats", "/boats/{id}/launch"), Some(("id", "/launch")));
        for other in [
            "/boats",
            "/boats/{id}/crew",
            "/boats/all",
            "/ships/{id}",
            "/boatsmen/{id}",
            "/boats/{id}.json",
        ] {
            assert_eq!(parameter_below("/boats", other), None, "{other}");
        }
    }
}
