//! What a contract says, after it was read.

use std::collections::BTreeMap;
use std::fmt;
use std::sync::{Arc, OnceLock};

use jiff::civil::Date;

use crate::endpoint_row::EndpointRow;
use crate::envelope::ApplicationCodes;
use crate::public_texts::PublicTexts;
use crate::region::{ErrorStyle, Region, RegionId};
use crate::router::{Router, TemplateSegment};
use crate::rules::{HeaderRule, Rules};
use crate::servers::{RequestPath, Server};
use crate::toml_text::key;
use faithful_clerk_model::finding::Severity;
use faithful_clerk_model::secret::SecretRules;
use faithful_clerk_model::situation::Situation;
use faithful_clerk_schema::DocumentSet;
use faithful_clerk_shape::{ConstrainedType, ShapeId, ShapeTable};

/// A declared error contract.
#[derive(Debug, Default)]
pub struct ErrorContract {
    /// The service's name, for people.
    pub service: Option<String>,
    /// The base URLs of the service. None: every host is the service's.
    pub servers: Vec<Server>,
    /// The base URLs of some endpoints alone: what is asked there at the path of no endpoint is another service's.
    pub endpoint_servers: Vec<Server>,
    /// The request headers that carry credentials; the default is `Authorization` alone.
    pub credentials: Vec<String>,
    /// The documents that it takes schemas from.
    pub documents: Arc<DocumentSet>,
    /// What counts as the same path, and what is not the service's.
    pub paths: PathRules,
    /// What is a secret beside what is one anyway.
    pub secret: SecretRules,
    /// The headers that carry the credentials of a probe, each with a text in which `$NAME` stands for an
    /// environment variable.
    pub probe_credentials: Vec<(String, String)>,
    /// Texts that may be told to anybody, beside the servers and the problem types.
    pub public: Vec<String>,
    /// Which responses are looked through for disclosures.
    pub disclosure_scope: DisclosureScope,
    /// Which statuses a description's ranges and `default` admit.
    pub documented_ranges: DocumentedRanges,
    /// The languages of titles and details; the first is the one where none is asked for.
    pub languages: Vec<String>,
    /// How errors look outside all regions.
    pub style: ErrorStyle,
    /// The regions in which they look different.
    pub regions: Vec<Region>,
    /// The application codes.
    pub codes: Option<ApplicationCodes>,
    /// All shapes, built-in and derived ones included.
    pub shapes: ShapeTable,
    /// All faults, in the order of the file.
    pub faults: Vec<Fault>,
    /// What holds where a request leads to no endpoint.
    pub everywhere: Rules,
    /// All endpoints, in the order of the file.
    pub endpoints: Vec<Endpoint>,
    /// Declared ways to provoke a fault.
    pub cases: Vec<Case>,
    /// Exceptions.
    pub waivers: Vec<Waiver>,
    /// Clauses whose severity is another than usual, by their places in the catalogue.
    pub severities: BTreeMap<usize, SeverityOverride>,
    /// Is an operation silent about errors whose description documents none?
    pub is_silent_where_undocumented: bool,
    /// Which exchanges are looked at. It is no part of what was expected, but of a call.
    pub scope: Scope,
    /// The description's path, as the contract writes it.
    pub description: Option<String>,
    /// What tells it from other contracts: a hash (BLAKE3) of its text and of every file it names.
    pub digest: String,
    /// Where its keys stand in its text.
    pub key_lines: KeyLines,
    pub router: Router,
    pub all_faults: AllFaults,
    pub known: OnceLock<PublicTexts>,
}

/// The lines of a contract's keys, each by its path: `["fault", "malformed", "status"]`.
#[derive(Debug, Default)]
pub struct KeyLines(BTreeMap<Vec<String>, KeyLine>);

/// Where a key stands.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct KeyLine {
    /// The line, from 1.
    pub line: usize,
    /// The contract that this one is like, if it stands there.
    pub file: Option<String>,
}

impl KeyLines {
    pub(super) fn insert(&mut self, path: &[String], line: usize) {
        self.0.insert(path.to_vec(), KeyLine { line, file: None });
    }

    /// Adds the keys of a contract that this one is like, where this one does not have them.
    pub(super) fn take_over(&mut self, base: Self, file: &str) {
        for (path, mut line) in base.0 {
            line.file.get_or_insert_with(|| file.to_owned());
            self.0.entry(path).or_insert(line);
        }
    }

    /// Where a key stands, if the contract has it.
    #[must_use]
    pub fn line(&self, path: &[&str]) -> Option<&KeyLine> {
        let path: Vec<String> = path.iter().map(|key| (*key).to_owned()).collect();
        self.0.get(&path)
    }
}

impl fmt::Display for KeyLine {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "line {}", self.line)?;
        self.file.as_ref().map_or(Ok(()), |file| write!(f, " of {file}"))
    }
}

/// What every error asks of all faults, and is therefore known beforehand: there can be thousands.
#[derive(Debug, Default)]
pub struct AllFaults {
    /// Has any of them an application code?
    pub have_codes: bool,
    /// Those that ask who is there.
    pub ask_who: Vec<FaultId>,
}

impl AllFaults {
    pub(super) fn of(faults: &[Fault]) -> Self {
        let asks = [Situation::MissingCredentials, Situation::InvalidCredentials];
        let ask_who = |fault: &Fault| fault.when.iter().any(|response| asks.contains(response));
        let ids = faults.iter().enumerate().filter(|(_, fault)| ask_who(fault));
        Self {
            have_codes: faults.iter().any(|fault| fault.code.is_some()),
            ask_who: ids.map(|(at, _)| FaultId(at)).collect(),
        }
    }
}

/// What counts as the same path, and what is not the service's.
#[derive(Debug, Default)]
pub struct PathRules {
    /// Does a trailing slash make another path? The default is that it does.
    pub trailing_slash: TrailingSlash,
    /// Does letter case make another path? The default is that it does.
    pub case_sensitivity: CaseSensitivity,
    pub excluded: Router,
    pub excluded_methods: Vec<String>,
    pub excluded_hosts: Vec<String>,
}

/// Which exchanges are looked at.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Scope {
    /// Those of the service: not other hosts, preflights, pages and what they load.
    #[default]
    Service,
    /// All. What the contract says nothing of is an unknown path.
    Everything,
}

/// Which responses are looked through for disclosures.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum DisclosureScope {
    /// Errors, and successes with an error inside.
    #[default]
    Errors,
    /// Every response.
    All,
}

/// Which statuses a description's ranges (`4XX`) and `default` admit.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum DocumentedRanges {
    /// None where the contract names the faults of the endpoint.
    #[default]
    Exact,
    /// All of them, everywhere.
    Admitted,
}

/// What a trailing slash means.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum TrailingSlash {
    /// `/berths` and `/berths/` are two paths.
    #[default]
    Distinct,
    /// They are one.
    Ignored,
    /// They are two, and where only one has an endpoint, the other is redirected to it.
    Redirected,
}

/// What letter case means in a path.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum CaseSensitivity {
    /// `/berths` and `/Berths` are two paths.
    #[default]
    Sensitive,
    /// They are one.
    Insensitive,
}

/// What holds for every error response.
#[derive(Debug, Clone, Default)]
pub struct ErrorRule {
    /// The media type, in lower case; of several, the first.
    pub media: Option<String>,
    /// The others of several media types, of which `Accept` tells which one is expected.
    pub other_media: Vec<String>,
    /// The shape of the body.
    pub shape: Option<ShapeId>,
    /// The headers.
    pub headers: Vec<HeaderRule>,
    /// The deadline, in milliseconds.
    pub respond_within: Option<f64>,
}

/// The place of a fault in [`ErrorContract::faults`].
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct FaultId(pub usize);

/// The place of an endpoint in [`ErrorContract::endpoints`].
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct EndpointId(pub usize);

/// When a fault is right.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum FaultClass {
    /// Where one of its situations holds, or its condition can't be seen from the request.
    #[default]
    Expected,
    /// For every request, such as 'too many requests'.
    AnyRequest,
    /// Agreed in its shape, and never an excuse for a situation that the request shows.
    Internal,
}

/// A named kind of error that the service may respond with.
#[derive(Debug, Clone, Default)]
pub struct Fault {
    /// Its name in the contract.
    pub name: String,
    /// The status code; of several, the first.
    pub status: u16,
    /// Other status codes that it may have instead, the same one everywhere.
    pub other_statuses: Vec<u16>,
    /// The problem type, where it is not `about:blank`.
    pub type_uri: Option<String>,
    /// May the problem type be any?
    pub any_type: bool,
    /// The title, where one is declared: in the first language, if there are several.
    pub title: Option<String>,
    /// The titles by language, where there are several.
    pub titles: Vec<(String, String)>,
    /// The application code, as text.
    pub code: Option<String>,
    /// The headers, beside those of every error.
    pub headers: Vec<HeaderRule>,
    /// The media type, where it is another than that of every error; of several, the first.
    pub media: Option<String>,
    /// The others of several media types.
    pub other_media: Vec<String>,
    /// The shape of the body: its own, or that of every error, with the fault's members added.
    pub shape: Option<ShapeId>,
    /// The same in each region.
    pub region_shapes: Vec<Option<ShapeId>>,
    /// The situations that it is for; empty where its condition can't be seen from a request.
    pub when: Vec<Situation>,
    /// When it is right.
    pub class: FaultClass,
    /// Is it an error that a description documents? Then the description says what its body is.
    pub is_documented: bool,
}

impl Fault {
    /// Is this its status code, or one of several?
    #[must_use]
    pub fn has_status(&self, status: u16) -> bool {
        self.status == status || self.other_statuses.contains(&status)
    }

    /// Can it come where a request met an endpoint? One that is for unknown routes and methods can't.
    #[must_use]
    pub fn comes_at_endpoints(&self) -> bool {
        let is_elsewhere = |situation: &Situation| {
            use Situation::{MethodNotAllowed, UnknownMethod, UnknownRoute};
            matches!(situation, UnknownRoute | UnknownMethod | MethodNotAllowed)
        };
        self.when.is_empty() || !self.when.iter().all(is_elsewhere)
    }

    /// Its title in a language, or in the first.
    #[must_use]
    pub fn title_in(&self, language: Option<&str>) -> Option<&str> {
        let own = self.titles.iter().find(|(known, _)| Some(known.as_str()) == language);
        own.map(|(_, title)| title.as_str()).or(self.title.as_deref())
    }

    /// The shape of its body in a region, or outside all of them.
    #[must_use]
    pub fn shape_in(&self, region: Option<RegionId>) -> Option<ShapeId> {
        match region {
            Some(region) => self.region_shapes.get(region.0).copied().flatten(),
            None => self.shape,
        }
    }

    /// Is it declared for this situation?
    #[must_use]
    pub fn is_for(&self, situation: Situation) -> bool {
        self.when.contains(&situation)
    }
}

/// What a request to an endpoint needs beside its parameters.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Authentication {
    /// Credentials.
    Required,
    /// Nothing.
    None,
}

/// A method and a path template.
#[derive(Debug, Default)]
pub struct Endpoint {
    /// The method.
    pub method: String,
    /// The path template, such as `/reservations/{id}/check-in`.
    pub path: String,
    /// What the query has to hold, where several endpoints of one path are told apart by it.
    pub query: Vec<(String, String)>,
    /// What holds here: its own rules, and for what they do not say those of its groups, of the
    /// description, and of everywhere.
    pub rules: Rules,
    /// Where each of its faults is named.
    pub fault_origins: Vec<(FaultId, FaultOrigin)>,
    /// The line in the contract that declares it, from 1; none where the description alone does.
    pub line: Option<usize>,
    /// Its line in the description, where that can be told.
    pub described: Option<usize>,
}

/// The table that names a fault for an endpoint.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum FaultOrigin {
    /// The endpoint's own.
    Endpoint,
    /// That of a group.
    Group(String),
    /// That of a region.
    Region(String),
    /// `[everywhere]`.
    Everywhere,
}

impl FaultOrigin {
    /// Its path in the contract.
    #[must_use]
    pub fn path<'o>(&'o self, endpoint: &'o str) -> Vec<&'o str> {
        match self {
            Self::Endpoint => vec!["endpoint", endpoint, "faults"],
            Self::Group(name) => vec!["group", name, "faults"],
            Self::Region(name) => vec!["region", name, "faults"],
            Self::Everywhere => vec!["everywhere", "faults"],
        }
    }

    /// Its name, as the contract writes it.
    #[must_use]
    pub fn table(&self) -> String {
        match self {
            Self::Endpoint => "the endpoint".to_owned(),
            Self::Group(name) => format!("[group.{}]", key(name)),
            Self::Region(name) => format!("[region.{}]", key(name)),
            Self::Everywhere => "[everywhere]".to_owned(),
        }
    }
}

impl Endpoint {
    /// The segments of its path template, as they are written.
    #[must_use]
    pub fn steps(&self) -> Vec<&str> {
        self.path.trim_start_matches('/').split('/').collect()
    }

    /// `METHOD /path`, as the contract writes it.
    #[must_use]
    pub fn name(&self) -> String {
        let pairs = self.query.iter().map(|(name, value)| format!("{name}={value}"));
        let query = pairs.collect::<Vec<_>>().join("&");
        let mark = if query.is_empty() { "" } else { "?" };
        format!("{} {}{mark}{query}", self.method, self.path)
    }

    /// Does a request's query hold what the endpoint asks for?
    #[must_use]
    pub fn fits_query(&self, target: &RequestPath<'_>) -> bool {
        self.query.iter().all(|(name, value)| {
            target.query().any(|(asked, given)| asked == *name && given == *value)
        })
    }
}

/// An agreed way to provoke a fault: what tells it, and what it tells.
#[derive(Debug, Default, Clone)]
pub struct Case {
    /// Its name in the contract.
    pub name: String,
    /// The method; none for any.
    pub method: Option<String>,
    pub path: Option<Vec<TemplateSegment>>,
    /// The endpoints of the group that it is about; none: any.
    pub endpoints: Option<Vec<EndpointId>>,
    /// The path template, for the values of its parameters.
    pub template: String,
    /// What the values of path parameters have to be.
    pub values: Vec<Condition>,
    /// What query parameters have to be.
    pub query: Vec<Condition>,
    /// What headers have to be.
    pub headers: Vec<Condition>,
    /// What members of the body have to be, each by its JSON Pointer.
    pub body: Vec<Condition>,
    /// The situation that it tells.
    pub situation: Option<Situation>,
    /// The response that it asks for.
    pub expect: Expectation,
    /// What a probe keeps of the response: names, each with a JSON Pointer into the body.
    pub save: Vec<(String, String)>,
    /// The names in it that stand for what earlier cases kept. Until they have values, it fits no request.
    pub uses: Vec<String>,
}

/// One condition of a case: something by name, and what it has to be.
#[derive(Debug, Clone)]
pub struct Condition {
    /// A parameter's or header's name, or a JSON Pointer.
    pub name: String,
    /// What the value has to be; an optional one may be missing.
    pub rule: DeclaredType,
}

/// A phrase that was read.
#[derive(Debug, Clone)]
pub struct DeclaredType {
    /// As it was written.
    pub text: String,
    /// May the value be missing?
    pub optional: bool,
    /// What it has to be.
    pub constrained: ConstrainedType,
}

/// What a case asks for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Expectation {
    /// Any fault for its situation.
    #[default]
    Open,
    /// This fault.
    Fault(FaultId),
    /// A success: what the request is about is there, and may be had.
    Success,
}

/// A dated, reasoned exception to a clause.
#[derive(Debug)]
pub struct Waiver {
    /// The clause.
    pub clause: &'static str,
    /// Where it holds; none for everywhere.
    pub row: Option<EndpointRow>,
    /// Why.
    pub reason: String,
    /// Its last day.
    pub until: Date,
    /// Does it still count?
    pub validity: WaiverValidity,
    /// Where it stands in the contract's text.
    pub line: usize,
}

/// Does a waiver still count?
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum WaiverValidity {
    /// It does.
    #[default]
    InForce,
    /// Its day is over.
    Expired,
}

/// What `[severity]` says of a clause.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum SeverityOverride {
    /// The clause is not checked.
    Off,
    /// Its findings have this severity, whatever their basis.
    As(Severity),
}

impl ErrorContract {
    /// The fault at that place.
    #[must_use]
    pub fn fault(&self, id: FaultId) -> Option<&Fault> {
        self.faults.get(id.0)
    }

    /// What is public anyway, put together when it is first asked for.
    pub fn public_texts(&self) -> &PublicTexts {
        self.known.get_or_init(|| {
            let types = self.faults.iter().filter_map(|fault| fault.type_uri.as_deref());
            // A base that is a path alone, such as `/`, is part of what should not be told.
            let servers = self.all_servers().filter(|server| !server.is_on_any_host());
            let servers = servers.map(|server| server.text.as_str());
            let texts = types.chain(servers).chain(self.public.iter().map(String::as_str));
            let titles = self.faults.iter().flat_map(|fault| {
                let others = fault.titles.iter().map(|(_, title)| title.as_str());
                fault.title.as_deref().into_iter().chain(others)
            });
            PublicTexts::of(texts, titles)
        })
    }

    /// The endpoint at that place.
    #[must_use]
    pub fn endpoint(&self, id: EndpointId) -> Option<&Endpoint> {
        self.endpoints.get(id.0)
    }

    /// What the contract says of the severity of the clause at this place of the catalogue, if anything.
    #[must_use]
    pub fn severity_override(&self, clause: usize) -> Option<SeverityOverride> {
        // Most contracts leave all of them as they are, and every clause of every exchange is asked for.
        if self.severities.is_empty() { None } else { self.severities.get(&clause).copied() }
    }

    /// The rules where a request leads: of an endpoint, or where there is none, of the region or of everywhere.
    #[must_use]
    pub fn rules_at<'c>(
        &'c self,
        endpoint: Option<&'c Endpoint>,
        region: Option<RegionId>,
    ) -> &'c Rules {
        let elsewhere = || self.region(region).map_or(&self.everywhere, |region| &region.rules);
        endpoint.map_or_else(elsewhere, |endpoint| &endpoint.rules)
    }

    /// Tells the contract what day it is, so that it knows which waivers have expired. A contract that
    /// was never told takes them all for valid.
    pub fn set_today(&mut self, today: Date) {
        for waiver in &mut self.waivers {
            waiver.validity = if waiver.until < today {
                WaiverValidity::Expired
            } else {
                WaiverValidity::InForce
            };
        }
    }

    /// The place of the waiver that covers a clause at an endpoint, or where a request leads to none.
    #[must_use]
    pub fn waiver_for(&self, clause: &str, row: &EndpointRow) -> Option<usize> {
        self.waivers.iter().position(|waiver| {
            let here = waiver.row.as_ref().is_none_or(|known| known == row);
            here && waiver.clause == clause && waiver.validity == WaiverValidity::InForce
        })
    }
}
