//! What a contract says, after it was read.

use std::collections::BTreeMap;

use super::router::{Route, Router};
use super::server::{Server, Target};
use crate::finding::Weight;
use crate::shape::{Shape, ShapeId, Shapes};
use crate::situation::Situation;

/// A declared error contract.
#[derive(Debug, Default)]
pub struct Contract {
    /// The service's name, for people.
    pub service: Option<String>,
    /// The base URLs of the service. None: every host is the service's.
    pub servers: Vec<Server>,
    /// The request headers that carry credentials; the default is `Authorization` alone.
    pub credentials: Vec<String>,
    /// Does a trailing slash make another path? The default is that it does.
    pub slash: Slash,
    /// What holds for every error answer unless its fault says otherwise.
    pub error: ErrorRule,
    /// All shapes, built-in and derived ones included.
    pub shapes: Shapes,
    /// All faults, in the order of the file.
    pub faults: Vec<Fault>,
    /// The faults that every endpoint and every unknown route may answer with.
    pub everywhere: Vec<FaultId>,
    /// All endpoints, in the order of the file.
    pub endpoints: Vec<Endpoint>,
    /// Clauses whose weight is another than usual.
    pub weigh: BTreeMap<&'static str, Weighing>,
    pub(crate) router: Router,
    pub(crate) aside: Router,
}

/// What a trailing slash means.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Slash {
    /// `/berths` and `/berths/` are two paths.
    #[default]
    AnotherPath,
    /// They are one.
    SamePath,
}

/// What holds for every error answer.
#[derive(Debug, Clone, Default)]
pub struct ErrorRule {
    /// The media type, without parameters and in lower case.
    pub media: Option<String>,
    /// The shape of the body.
    pub shape: Option<ShapeId>,
}

/// The place of a fault in [`Contract::faults`].
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct FaultId(pub(crate) usize);

/// The place of an endpoint in [`Contract::endpoints`].
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct EndpointId(pub(crate) usize);

/// When a fault is right.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum FaultClass {
    /// Where one of its situations holds, or its condition can't be seen from the request.
    #[default]
    Due,
    /// For every request, such as 'too many requests'.
    AnyTime,
    /// Agreed in its shape, and never an excuse for a situation that the request shows.
    ServersOwn,
}

/// A named kind of error that the service may answer with.
#[derive(Debug, Clone)]
pub struct Fault {
    /// Its name in the contract.
    pub name: String,
    /// The status code.
    pub status: u16,
    /// The problem type, where it is not `about:blank`.
    pub type_uri: Option<String>,
    /// The title, where one is agreed.
    pub title: Option<String>,
    /// The media type, where it is another than that of every error.
    pub media: Option<String>,
    /// The shape of the body: its own, or that of every error, with the fault's members added.
    pub shape: Option<ShapeId>,
    /// The situations that it answers; empty where its condition can't be seen from a request.
    pub answers: Vec<Situation>,
    /// When it is right.
    pub class: FaultClass,
}

/// What a request to an endpoint needs beside its parameters.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Needs {
    /// The contract does not say.
    NotSaid,
    /// Credentials.
    Credentials,
    /// Nothing.
    Nothing,
}

/// A method and a path template.
#[derive(Debug)]
pub struct Endpoint {
    /// The method.
    pub method: String,
    /// The path template, such as `/reservations/{id}/check-in`.
    pub path: String,
    /// The statuses of a success. None: the contract does not say.
    pub success: Vec<u16>,
    /// The faults declared here and everywhere.
    pub faults: Vec<FaultId>,
    /// What a request needs.
    pub needs: Needs,
    /// The media types that a request body may have. None: the contract does not say.
    pub accepts: Vec<String>,
    /// The rules for the members of a request body.
    pub body: Option<Shape>,
}

impl Endpoint {
    /// `METHOD /path`, as the contract writes it.
    #[must_use]
    pub fn name(&self) -> String {
        format!("{} {}", self.method, self.path)
    }
}

/// What `[weigh]` says of a clause.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Weighing {
    /// The clause is not judged.
    Off,
    /// Its findings weigh this much, whatever their basis.
    As(Weight),
}

impl Contract {
    /// The fault at that place.
    #[must_use]
    pub fn fault(&self, id: FaultId) -> Option<&Fault> {
        self.faults.get(id.0)
    }

    /// The endpoint at that place.
    #[must_use]
    pub fn endpoint(&self, id: EndpointId) -> Option<&Endpoint> {
        self.endpoints.get(id.0)
    }

    /// The faults that are declared for an endpoint, or for where there is none.
    #[must_use]
    pub fn faults_at<'c>(&'c self, endpoint: Option<&'c Endpoint>) -> &'c [FaultId] {
        endpoint.map_or(&self.everywhere, |endpoint| &endpoint.faults)
    }

    /// Finds the path of a recorded URL.
    #[must_use]
    pub fn route(&self, url: &str) -> Route {
        let Some(target) = Target::read(url, &self.servers) else {
            return Route::Elsewhere;
        };
        let segments = target.segments(self.slash == Slash::SamePath);
        if self.aside.find(&segments).is_some() {
            return Route::Elsewhere;
        }
        match self.router.find(&segments) {
            Some(methods) => Route::Path(methods.to_vec()),
            None => Route::Unknown,
        }
    }
}
