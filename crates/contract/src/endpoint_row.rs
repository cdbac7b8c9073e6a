//! Where exchanges are grouped.

use crate::{Endpoint, EndpointId, ErrorContract};

/// What a request without a path of the contract is called.
pub(super) const NO_ROUTE: &str = "(unknown route)";

/// What stands before a path on which another method was tried.
pub(super) const NO_METHOD: &str = "(other methods) ";

/// Where a finding is grouped: an endpoint, or a request that led to none.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum EndpointRow {
    /// An endpoint of the contract.
    Endpoint(EndpointId),
    /// A path of the contract without that method, told by the first of its endpoints.
    OtherMethods(EndpointId),
    /// No path of the contract.
    UnknownRoute,
}

impl EndpointRow {
    /// The endpoint, where it is one's row.
    #[must_use]
    pub fn endpoint(&self) -> Option<EndpointId> {
        match self {
            Self::Endpoint(id) => Some(*id),
            Self::OtherMethods(_) | Self::UnknownRoute => None,
        }
    }

    /// What it is called in outputs.
    #[must_use]
    pub fn name(&self, contract: &ErrorContract) -> String {
        match self {
            Self::Endpoint(id) => contract.endpoint(*id).map_or_else(String::new, Endpoint::name),
            Self::OtherMethods(id) => match contract.endpoint(*id) {
                Some(endpoint) => format!("{NO_METHOD}{}", endpoint.path),
                None => "(other methods)".to_owned(),
            },
            Self::UnknownRoute => NO_ROUTE.to_owned(),
        }
    }
}
