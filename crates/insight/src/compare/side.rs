//! One recording, read in its order, of which little is kept: the request as a few hashes, what came
//! as one of the outcomes that were seen.

use std::collections::hash_map::Entry;
use std::collections::{BTreeMap, HashMap};
use std::sync::Arc;

use super::plan::ComparisonPlan;
use super::request_key::RequestKey;
use super::response_summary::{ComparedBody, ResponseSummary, came, with_body};
use super::server_ids::ServerIds;
use faithful_clerk_check::classify::{Classification, Credentials, classify};
use faithful_clerk_check::clauses::check_exchange;
use faithful_clerk_contract::{ErrorContract, Scope};
use faithful_clerk_model::address::Address;
use faithful_clerk_model::exchange::Exchange;
use faithful_clerk_recording::Visitor;
use faithful_clerk_recording::{Unreadable, UnreadableParts};

/// One exchange, as far as it is compared.
#[derive(Debug)]
pub(super) struct ComparedExchange {
    pub(super) address: Address,
    /// The endpoint, by its place in [`Side::endpoints`].
    pub(super) endpoint: u32,
    pub(super) request: RequestKey,
    pub(super) status: u16,
    /// What came, by its place in [`Side::outcomes`].
    pub(super) outcome: u32,
}

/// One side of a comparison. It has to see the exchanges in their order, so it works on one thread.
#[derive(Debug)]
pub struct ComparisonSide<'p> {
    plan: &'p ComparisonPlan<'p>,
    /// 0 for the first recording, 1 for the second.
    side: usize,
    bare: ErrorContract,
    server_ids: ServerIds,
    pub(super) records: Vec<ComparedExchange>,
    pub(super) outcomes: Vec<Arc<ResponseSummary>>,
    by_outcome: HashMap<Arc<ResponseSummary>, u32>,
    pub(super) endpoints: Vec<String>,
    by_endpoint: HashMap<String, u32>,
    /// What is none of the service's, by reason.
    pub excluded: BTreeMap<&'static str, u64>,
    /// What could not be read.
    pub unreadable: UnreadableParts,
}

impl<'p> ComparisonSide<'p> {
    /// The first side of a plan, or the second.
    #[must_use]
    pub fn new(plan: &'p ComparisonPlan<'p>, side: usize) -> Self {
        Self {
            plan,
            side,
            bare: ErrorContract { scope: plan.scope, ..ErrorContract::default() },
            server_ids: ServerIds::default(),
            records: Vec::new(),
            outcomes: Vec::new(),
            by_outcome: HashMap::new(),
            endpoints: Vec::new(),
            by_endpoint: HashMap::new(),
            excluded: BTreeMap::new(),
            unreadable: UnreadableParts::default(),
        }
    }

    /// How many exchanges are compared.
    #[must_use]
    pub fn count(&self) -> u64 {
        self.records.len() as u64
    }

    /// What came in an exchange of it.
    pub(super) fn came(&self, record: &ComparedExchange) -> Option<&ResponseSummary> {
        let at = usize::try_from(record.outcome).ok()?;
        self.outcomes.get(at).map(|came| &**came)
    }

    /// For each outcome, the number of the equal one of another side.
    pub(super) fn equal_outcomes(&self, other: &Self) -> Vec<Option<u32>> {
        self.outcomes.iter().map(|came| other.by_outcome.get(came).copied()).collect()
    }

    fn outcome(&mut self, came: ResponseSummary) -> u32 {
        match self.by_outcome.entry(Arc::new(came)) {
            Entry::Occupied(known) => *known.get(),
            Entry::Vacant(vacant) => {
                self.outcomes.push(vacant.key().clone());
                *vacant.insert(u32::try_from(self.outcomes.len() - 1).unwrap_or(u32::MAX))
            }
        }
    }

    fn endpoint(&mut self, name: String) -> u32 {
        let next = u32::try_from(self.endpoints.len()).unwrap_or(u32::MAX);
        let at = *self.by_endpoint.entry(name.clone()).or_insert(next);
        if at == next {
            self.endpoints.push(name);
        }
        at
    }
}

impl Visitor for ComparisonSide<'_> {
    fn exchange(&mut self, exchange: &Exchange<'_>) {
        let plan = self.plan;
        let request = &exchange.request;
        if let Some(reason) =
            crate::survey::beside(exchange).filter(|_| plan.scope == Scope::Service)
        {
            *self.excluded.entry(reason).or_default() += 1;
            return;
        }
        let has_credentials = plan.has_credentials.get(self.side).copied().unwrap_or_default();
        let credentials =
            if has_credentials { Credentials::Recorded } else { Credentials::NotRecorded };
        let classification = match plan.contract {
            Some(contract) => classify(exchange, contract, credentials),
            None => classify(exchange, &self.bare, Credentials::NotRecorded),
        };
        let (classified, findings) = match &classification {
            Classification::Excluded(reason) if plan.contract.is_some() => {
                *self.excluded.entry(reason).or_default() += 1;
                return;
            }
            Classification::Excluded(_) => (None, Vec::new()),
            Classification::Classified(classified) => {
                let mut findings = if plan.contract.is_some() {
                    check_exchange(classified).findings
                } else {
                    Vec::new()
                };
                findings.retain(|finding| {
                    classified.contract.waiver_for(finding.clause, &classified.row()).is_none()
                });
                (Some(&**classified), findings)
            }
        };
        let Some(asking) = plan.request_target(self.side, &request.method, &request.url) else {
            *self.excluded.entry("its URL can't be read, or is not http").or_default() += 1;
            return;
        };
        let asked = RequestKey::of(request, &asking, &self.server_ids, plan.between, plan.contract);
        let came = came(exchange, classified, &findings, plan);
        let status = match &came {
            ResponseSummary::None => 0,
            ResponseSummary::Received(outcome) => outcome.status,
        };
        if let Some(response) = &exchange.response
            && (200..300).contains(&status)
        {
            let location = response.headers.get("location");
            with_body(response, classified, |body| {
                self.server_ids.learn(&request.method, &asking, location, body.json());
            });
        }
        drop(classification);
        let endpoint = self.endpoint(format!("{} {}", request.method, asking.template));
        let outcome = self.outcome(came);
        let address = exchange.address;
        self.records.push(ComparedExchange { address, endpoint, request: asked, status, outcome });
    }

    fn on_unreadable(&mut self, unreadable: Unreadable) {
        self.unreadable.enter(unreadable);
    }
}

/// Is nothing of the body known?
pub(super) fn is_unknown(came: &ResponseSummary) -> bool {
    matches!(came, ResponseSummary::Received(outcome) if outcome.body == ComparedBody::Unknown)
}
