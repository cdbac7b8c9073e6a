//! One recording, read in its order, of which little is kept: the request as a few hashes, what came
//! as one of the outcomes that were seen.

use std::borrow::Cow;
use std::collections::hash_map::Entry;
use std::collections::{BTreeMap, HashMap};
use std::hash::BuildHasher as _;
use std::sync::Arc;

use foldhash::fast::FixedState;

use super::compared_headers::HeaderDigests;
use super::plan::ComparisonPlan;
use super::request_key::RequestKey;
use super::response_summary::{ComparedBody, ResponseSummary, came};
use super::server_ids::ServerIds;
use super::success_reader::{SuccessContent, read};
use faithful_clerk_check::classify::{Classification, Classified, Credentials, classify};
use faithful_clerk_check::clauses::check_exchange;
use faithful_clerk_contract::{ErrorContract, Scope};
use faithful_clerk_model::address::Address;
use faithful_clerk_model::exchange::{Exchange, Response, ResponseBody};
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

/// What a success without findings is made of, as far as it is compared.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
struct SuccessDigest {
    status: u16,
    structure: u64,
    headers: u64,
    media: u64,
}

/// So many are remembered; of others the outcome is made each time.
const MOST_DIGESTS: usize = 65_536;

/// So many different outcomes are kept, which is more than any service has. A response with another one is not compared.
pub const MOST_OUTCOMES: usize = 20_000;

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
    /// The outcomes of successes without findings, by what they are made of.
    by_structure: HashMap<SuccessDigest, u32, FixedState>,
    header_digests: HeaderDigests,
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
            by_structure: HashMap::default(),
            header_digests: HeaderDigests::default(),
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
        let is_full = self.outcomes.len() >= MOST_OUTCOMES && !self.by_outcome.contains_key(&came);
        let came = if is_full { ResponseSummary::NotKept } else { came };
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
        let by_contract = classified.filter(|_| plan.contract.is_some());
        let situations = by_contract.map(|one| one.situations.holds).unwrap_or_default();
        let asked = RequestKey::of(
            request,
            &asking,
            &self.server_ids,
            plan.between,
            plan.contract,
            situations,
        );
        let response = exchange.response.as_ref();
        let status = response.map_or(0, |response| response.status);
        let success = response.filter(|_| (200..300).contains(&status));
        let content = success.and_then(|one| plan.success_content(self.side, one, classified));
        let is_plain = findings.is_empty()
            && classified.is_none_or(|classified| classified.embedded_error().is_none());
        let digest = match (&content, success) {
            (Some(content), Some(response)) if is_plain => Some(SuccessDigest {
                status,
                structure: content.structure,
                headers: self.header_digests.of(&response.headers, plan),
                media: FixedState::default().hash_one(response.media()),
            }),
            _ => None,
        };
        let known = digest.and_then(|digest| self.by_structure.get(&digest).copied());
        let new = known.is_none().then(|| came(exchange, classified, &findings, plan));
        if let Some(response) = success {
            let location = response.headers.get("location");
            let ids = content.map(|content| content.ids).unwrap_or_default();
            self.server_ids.learn(&request.method, &asking, location, ids);
        }
        drop(classification);
        let outcome = match (known, new) {
            (Some(known), _) => known,
            (None, new) => {
                let outcome = self.outcome(new.unwrap_or(ResponseSummary::None));
                if let Some(digest) = digest.filter(|_| self.by_structure.len() < MOST_DIGESTS) {
                    self.by_structure.insert(digest, outcome);
                }
                outcome
            }
        };
        let endpoint = self.endpoint(format!("{} {}", request.method, asking.template));
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

impl ComparisonPlan<'_> {
    /// What a success is made of, if it is JSON, and the ids in it that requests of its side sent.
    fn success_content(
        &self,
        side: usize,
        response: &Response<'_>,
        classified: Option<&Classified<'_>>,
    ) -> Option<SuccessContent> {
        let sent = self.sent.get(side)?;
        match classified {
            Some(classified) => read(classified.content()?.ok()?, sent),
            None => read(&decoded(response)?, sent),
        }
    }
}

/// The bytes of a body, if they can be had.
fn decoded<'r>(response: &'r Response<'_>) -> Option<Cow<'r, [u8]>> {
    match &response.body {
        ResponseBody::Present(content) => content.decode().ok(),
        ResponseBody::Empty | ResponseBody::Truncated | ResponseBody::NotRecorded => None,
    }
}
