//! What the handbook says of each fault.

use super::{PagePath, comes_when, page_of};
use crate::draft::{ExpectedResponse, sample_response};
use faithful_clerk_contract::{Endpoint, ErrorContract, Fault, FaultClass, FaultId, RegionId};
use faithful_clerk_model::situation::Situation;
use faithful_clerk_shape::{Shape, ShapeMember};

/// All of it, in the contract's order.
#[derive(Debug)]
pub struct Handbook<'c> {
    /// The contract.
    pub contract: &'c ErrorContract,
    /// A chapter for each fault.
    pub chapters: Vec<FaultChapter<'c>>,
}

/// What is said of one fault.
#[derive(Debug)]
pub struct FaultChapter<'c> {
    /// The fault.
    pub fault: &'c Fault,
    /// Where its page stands; none for a fault without a type of its own, which stands on the first page.
    pub page: Option<PagePath>,
    /// How it looks: once, or in each region that it can come in.
    pub forms: Vec<FaultForm<'c>>,
    /// When it comes: the ends of a sentence that starts with 'It comes when'.
    pub when: Vec<&'static str>,
    /// The endpoints that can respond with it; empty where all can.
    pub endpoints: Vec<String>,
}

/// How a fault looks in a region.
#[derive(Debug)]
pub struct FaultForm<'c> {
    /// The region's pattern; none outside all regions.
    pub region: Option<&'c str>,
    /// The members of its body.
    pub members: Vec<&'c ShapeMember>,
    /// Its shape, where it has a name.
    pub shape: Option<&'c Shape>,
    /// The headers, each with what it has to be.
    pub headers: Vec<(String, String)>,
    /// A response with it.
    pub example: ExpectedResponse,
}

impl<'c> FaultForm<'c> {
    fn of(contract: &'c ErrorContract, fault: &'c Fault, region: Option<RegionId>) -> Self {
        let error = &contract.style(region).error;
        let shape = fault.shape_in(region).or(error.shape).and_then(|id| contract.shapes.get(id));
        let rules = error.headers.iter().chain(&fault.headers);
        Self {
            region: contract.region(region).map(|region| region.name.as_str()),
            members: shape.iter().flat_map(|shape| &shape.members).collect(),
            shape,
            headers: rules.map(|rule| (rule.name.clone(), rule.requirement.words())).collect(),
            example: sample_response(contract, fault, region),
        }
    }
}

impl<'c> Handbook<'c> {
    /// The handbook of a contract.
    #[must_use]
    pub fn of(contract: &'c ErrorContract) -> Self {
        let ids = (0..contract.faults.len()).map(FaultId);
        let chapters = ids.filter_map(|id| FaultChapter::of(contract, id)).collect();
        Self { contract, chapters }
    }

    /// The faults that stand on a page of their own, by page, in the order of their paths.
    #[must_use]
    pub fn pages(&self) -> Vec<(&str, Vec<&FaultChapter<'c>>)> {
        let mut pages: std::collections::BTreeMap<&str, Vec<&FaultChapter<'c>>> =
            Default::default();
        for chapter in &self.chapters {
            if let Some(page) = &chapter.page {
                pages.entry(&page.path).or_default().push(chapter);
            }
        }
        pages.into_iter().collect()
    }
}

impl<'c> FaultChapter<'c> {
    fn of(contract: &'c ErrorContract, id: FaultId) -> Option<Self> {
        let fault = contract.fault(id)?;
        let has = |endpoint: &&Endpoint| endpoint.rules.faults.contains(&id);
        let endpoints: Vec<String> =
            contract.endpoints.iter().filter(has).map(Endpoint::name).collect();
        let is_everywhere =
            contract.everywhere.faults.contains(&id) || endpoints.len() == contract.endpoints.len();
        let regions = contract.regions_of_fault(id);
        let forms = regions.into_iter().map(|region| FaultForm::of(contract, fault, region));
        Some(Self {
            page: fault.type_uri.as_deref().map(|uri| page_of(&fault.name, uri)),
            forms: forms.collect(),
            when: when(fault),
            endpoints: if is_everywhere { Vec::new() } else { endpoints },
            fault,
        })
    }
}

fn when(fault: &Fault) -> Vec<&'static str> {
    match fault.class {
        FaultClass::AnyRequest => vec!["the service says so, whatever the request"],
        FaultClass::Internal => vec!["the service itself is at fault"],
        FaultClass::Expected => {
            let told = Situation::implied_by_status(fault.status).filter(|_| fault.when.is_empty());
            fault.when.iter().copied().chain(told).map(comes_when).collect()
        }
    }
}
