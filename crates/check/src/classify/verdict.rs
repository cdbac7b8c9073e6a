//! How a response's status stands to what the request shows, and which fault the response is.
//!
//! The verdict is one thing, so the clauses about statuses can't contradict each other: each of them
//! speaks for its own part of it.

use std::borrow::Cow;
use std::cell::OnceCell;

use serde_json::Value;
use url::Url;

use super::{Classified, RouteMatch, code_values, title_values};
use faithful_clerk_contract::{Fault, FaultClass};
use faithful_clerk_model::address::absolute;
use faithful_clerk_model::exchange::Response;
use faithful_clerk_model::json::pointer::{resolve, resolve_each};
use faithful_clerk_model::json::{MemberLookup as _, scalar_text};
use faithful_clerk_model::situation::Situation;
use faithful_clerk_model::status;

/// How the status stands.
#[derive(Debug)]
pub enum StatusVerdict<'a> {
    /// No response came.
    NoResponse,
    /// Nothing can be said of it.
    NotChecked(&'static str),
    /// It is not a status that anybody knows, and the contract has no part in it.
    Unregistered,
    /// The request was in order and was served as declared.
    Served,
    /// The request was in order, and the success is not one that the endpoint declares.
    OtherSuccess,
    /// The request was wrong and got a success; these faults were due.
    WrongAccepted(Vec<&'a Fault>),
    /// The error is one that was due.
    Fits,
    /// The error is not one for what the request shows.
    Misfits {
        /// The faults that were due.
        due: Vec<&'a Fault>,
        /// The fault that came, where it is declared.
        came: Option<&'a Fault>,
    },
    /// The response says that it is this fault, and its status is another.
    OtherStatus(&'a Fault),
    /// The service's own failure, as declared, at a valid request.
    Failed,
    /// No fault of that status is declared here; these statuses are.
    Undeclared(Vec<u16>),
}

/// Why a response to a request that leads nowhere is not checked.
const NOTHING_AGREED: &str = "the contract declares no fault for requests to unknown routes";

/// The verdict, and the faults that the response may be.
pub(super) fn of<'a>(classified: &Classified<'a>) -> (StatusVerdict<'a>, Vec<&'a Fault>) {
    let Some(response) = classified.response() else {
        return (StatusVerdict::NoResponse, Vec::new());
    };
    let case = FaultCandidate { exchange: classified, response, declared: OnceCell::new() };
    let declares = || {
        case.declared().iter().any(|fault| fault.has_status(response.status))
            || classified.endpoint().is_some_and(|at| at.rules.success().contains(&response.status))
            || classified.documented().is_some()
    };
    // No contract and no description can admit what is no status code at all (RFC 9110 section 15).
    if response.status > 599 || (!status::is_registered(response.status) && !declares()) {
        (StatusVerdict::Unregistered, Vec::new())
    } else if response.status < 400 {
        (case.success(), Vec::new())
    } else {
        case.error()
    }
}

/// The faults declared where the request leads. Where that is nowhere, a service may ask who is there
/// before it looks at the path.
fn declared<'a>(classified: &Classified<'a>) -> Vec<&'a Fault> {
    let own = classified.rules().faults.iter();
    let expected = classified.situations.expected.iter().map(|(id, _)| id);
    let everywhere = match classified.endpoint() {
        Some(_) => &[][..],
        None => &classified.contract.all_faults.ask_who,
    };
    let mut faults: Vec<&Fault> = Vec::new();
    for fault in
        own.chain(expected).chain(everywhere).filter_map(|id| classified.contract.fault(*id))
    {
        if faults.iter().all(|known| known.name != fault.name) {
            faults.push(fault);
        }
    }
    faults
}

struct FaultCandidate<'p, 'a> {
    exchange: &'p Classified<'a>,
    response: &'a Response<'a>,
    /// The faults declared where the request leads; most successes never ask.
    declared: OnceCell<Vec<&'a Fault>>,
}

impl<'a> FaultCandidate<'_, 'a> {
    fn declared(&self) -> &[&'a Fault] {
        self.declared.get_or_init(|| declared(self.exchange))
    }

    /// The faults that response a situation that decides. Where a case says which fault that is, no other
    /// one is.
    fn direct(&self) -> Vec<&'a Fault> {
        let situations = &self.exchange.situations;
        let settled = |situation: &Situation| {
            situations.expected.iter().any(|(_, by_case)| by_case == situation)
        };
        let direct = |fault: &&&'a Fault| {
            self.is_expected(fault)
                || (fault.class != FaultClass::Internal
                    && fault.when.iter().any(|s| situations.decides(*s) && !settled(s)))
        };
        self.declared().iter().filter(direct).copied().collect()
    }

    /// Is this the fault that a case asks for?
    fn is_expected(&self, fault: &Fault) -> bool {
        let situations = &self.exchange.situations;
        situations.expected.iter().any(|(id, situation)| {
            situations.decides(*situation)
                && self.exchange.contract.fault(*id).is_some_and(|known| known.name == fault.name)
        })
    }

    /// Is this fault right for the request?
    fn is_due(&self, fault: &Fault) -> bool {
        match fault.class {
            FaultClass::AnyRequest => true,
            // Unless a case says that the service fails at such a request.
            FaultClass::Internal => self.is_expected(fault),
            FaultClass::Expected => self.is_due_now(fault),
        }
    }

    fn is_due_now(&self, fault: &Fault) -> bool {
        let situations = &self.exchange.situations;
        let settled = situations.expected.iter().any(|(_, by_case)| situations.decides(*by_case));
        if settled {
            return self.direct().iter().any(|direct| direct.name == fault.name);
        }
        // The contract says that there is nothing wrong with what the request asks for.
        if situations.served_by.is_some() && situations.is_valid() || situations.repeats {
            return false;
        }
        // That a parameter is missing which nobody declared is no excuse where something declared is wrong.
        let is_far_fetched = |situation: Situation| {
            situation == Situation::InvalidParameters
                && situations.lacks_unknown_parameter
                && !self.direct().is_empty()
        };
        let may_come = |situation: Situation| {
            situations.may_hold(situation)
                && situations.comes_in_time(situation)
                && !is_far_fetched(situation)
        };
        if fault.when.is_empty() {
            return Situation::implied_by_status(fault.status).is_none_or(may_come);
        }
        fault.when.iter().copied().any(may_come)
    }

    fn success(&self) -> StatusVerdict<'a> {
        let status = self.response.status;
        let RouteMatch::Endpoint(_, endpoint) = &self.exchange.route else {
            // A redirect may lead to where there is something; and a contract that says nothing of
            // unknown routes is probably not a whole one.
            return match status {
                200..=299 if self.exchange.is_redirected => {
                    StatusVerdict::NotChecked("a redirect is declared for this path")
                }
                200..=299 if self.direct().is_empty() => StatusVerdict::NotChecked(NOTHING_AGREED),
                200..=299 => StatusVerdict::WrongAccepted(self.direct()),
                // Whether it leads where it should is a clause of its own.
                _ if self.exchange.is_redirected => StatusVerdict::NotChecked(
                    "a redirect to the path that has an endpoint, but for its last slash",
                ),
                _ => StatusVerdict::NotChecked("a redirect where the contract has no endpoint"),
            };
        };
        match status {
            100..=199 => StatusVerdict::NotChecked("an interim response"),
            200..=299 if !self.exchange.situations.is_valid() => {
                StatusVerdict::WrongAccepted(self.direct())
            }
            // A response to a conditional or a partial GET is the same success, sent in another way.
            304 if endpoint.method == "GET" => StatusVerdict::Served,
            206 if self.exchange.exchange.request.headers.has("range") => StatusVerdict::Served,
            300..=399 if !self.exchange.situations.is_valid() => self.misfits(None),
            _ if endpoint.rules.success().is_empty()
                || endpoint.rules.success().contains(&status) =>
            {
                StatusVerdict::Served
            }
            _ => StatusVerdict::OtherSuccess,
        }
    }

    fn error(&self) -> (StatusVerdict<'a>, Vec<&'a Fault>) {
        match self.by_type().or_else(|| self.by_code()) {
            Some(fault) => self.named(fault),
            None => self.unnamed(),
        }
    }

    /// The response names a declared fault by its type.
    fn named(&self, fault: &'a Fault) -> (StatusVerdict<'a>, Vec<&'a Fault>) {
        let is_own = fault.class == FaultClass::Internal && !self.is_expected(fault);
        let is_right =
            if is_own { self.exchange.situations.is_valid() } else { self.is_due(fault) };
        if !is_right {
            (self.misfits(Some(fault)), Vec::new())
        } else if !fault.has_status(self.response.status) {
            (StatusVerdict::OtherStatus(fault), vec![fault])
        } else if is_own {
            (StatusVerdict::Failed, vec![fault])
        } else {
            (StatusVerdict::Fits, vec![fault])
        }
    }

    /// The response names no declared fault, so its status has to tell.
    fn unnamed(&self) -> (StatusVerdict<'a>, Vec<&'a Fault>) {
        let status = self.response.status;
        let of_status: Vec<_> =
            self.declared().iter().copied().filter(|fault| fault.has_status(status)).collect();
        let due: Vec<_> = of_status.iter().copied().filter(|fault| self.is_due(fault)).collect();
        if !due.is_empty() {
            // Where something is wrong that no fault is for, none of this status is more likely than the others.
            let is_unnamed_wrong = self.direct().is_empty() && !self.exchange.situations.is_valid();
            return (
                StatusVerdict::Fits,
                self.narrow(if is_unnamed_wrong { of_status } else { due }),
            );
        }
        let own = of_status.iter().copied().find(|fault| fault.class == FaultClass::Internal);
        if self.direct().is_empty()
            && let Some(verdict) = self.documented()
        {
            return (verdict, Vec::new());
        }
        if self.exchange.situations.is_valid() {
            return match (own, of_status.first()) {
                (Some(fault), _) => (StatusVerdict::Failed, vec![fault]),
                (None, Some(fault)) => (self.misfits(Some(fault)), Vec::new()),
                (None, None) => (self.undeclared(), Vec::new()),
            };
        }
        // Where nothing is declared for what is wrong here, any error of the client's will do
        // (RFC 9110 sections 15.5 and 15.6), if it is declared at all.
        let verdict = if !self.direct().is_empty() || status >= 500 {
            self.misfits(own.or(of_status.first().copied()))
        } else if !of_status.is_empty() {
            return (StatusVerdict::Fits, self.narrow(of_status));
        } else if self.exchange.endpoint().is_none() {
            StatusVerdict::NotChecked(NOTHING_AGREED)
        } else {
            self.undeclared()
        };
        (verdict, Vec::new())
    }

    /// The verdict where no fault has a part in it, by what a description documents.
    fn documented(&self) -> Option<StatusVerdict<'a>> {
        let documented = self.exchange.endpoint()?.rules.documented.as_ref()?;
        let ranges = self.exchange.contract.documented_ranges;
        let rules = self.exchange.rules();
        let is_documented = rules.documented_response(self.response.status, ranges).is_some();
        let in_order = self.exchange.situations.is_valid();
        Some(match (is_documented, self.response.status) {
            (true, 500..) if in_order => StatusVerdict::Failed,
            (true, 400..=499) => StatusVerdict::Fits,
            (true, _) => return None,
            // It is silent about refusals, whatever was wrong with the request.
            (false, status)
                if !documented.has_errors()
                    && self.declared().is_empty()
                    && self.exchange.contract.is_silent_where_undocumented
                    && (in_order || (400..=499).contains(&status)) =>
            {
                StatusVerdict::NotChecked("the description documents no error for this endpoint")
            }
            (false, _) => return None,
        })
    }

    fn misfits(&self, came: Option<&'a Fault>) -> StatusVerdict<'a> {
        StatusVerdict::Misfits { due: self.direct(), came }
    }

    fn undeclared(&self) -> StatusVerdict<'a> {
        let documented = self.exchange.endpoint().and_then(|at| at.rules.documented.as_ref());
        let exact = documented.iter().flat_map(|documented| &documented.responses);
        let exact =
            exact.map(|response| *response.statuses.start()).filter(|status| *status >= 400);
        let declared = self.declared().iter();
        let faults = declared.flat_map(|fault| {
            std::iter::once(fault.status).chain(fault.other_statuses.iter().copied())
        });
        let mut statuses: Vec<u16> = faults.chain(exact).collect();
        statuses.sort_unstable();
        statuses.dedup();
        StatusVerdict::Undeclared(statuses)
    }

    /// The declared fault whose application code the body has.
    fn by_code(&self) -> Option<&'a Fault> {
        let first = code_of(self.exchange)?;
        // Of a list of errors, any may be the one that the response is about.
        let codes = code_values(self.exchange).into_iter();
        let others: Vec<String> = codes.skip(1).filter_map(|one| scalar_text(one.value?)).collect();
        let has_code = |fault: &&&'a Fault| {
            fault.code.as_ref().is_some_and(|code| *code == first || others.contains(code))
        };
        let coded: Vec<_> = self.declared().iter().filter(has_code).copied().collect();
        let of_status = coded.iter().find(|fault| fault.has_status(self.response.status));
        of_status.or(coded.first()).copied()
    }

    /// The declared fault whose type the body has; of several, the one of the response's status.
    fn by_type(&self) -> Option<&'a Fault> {
        let base = &self.exchange.exchange.request.url;
        let seen = resolved(base, type_of(self.exchange)?);
        let is_seen = |fault: &&'a Fault| {
            fault.type_uri.as_ref().is_some_and(|expected| resolved(base, expected) == seen)
        };
        let named: Vec<_> = self.declared().iter().copied().filter(is_seen).collect();
        let of_status = named.iter().find(|fault| fault.has_status(self.response.status));
        of_status.or(named.first()).copied()
    }

    /// Among faults of one status: the one whose title the body has, else those for what holds.
    fn narrow(&self, faults: Vec<&'a Fault>) -> Vec<&'a Fault> {
        let titles = title_values(self.exchange).into_iter();
        let title = titles.filter_map(|one| one.value.and_then(Value::as_str)).next();
        let has_title = |fault: &&'a Fault| {
            title.is_some()
                && (fault.title.as_deref() == title
                    || fault.titles.iter().any(|(_, text)| Some(text.as_str()) == title))
        };
        let titled = faults.iter().copied().find(has_title);
        if let Some(fault) = titled {
            return vec![fault];
        }
        let direct = self.direct();
        let both: Vec<_> =
            faults.iter().copied().filter(|f| direct.iter().any(|d| d.name == f.name)).collect();
        if both.is_empty() { faults } else { both }
    }
}

/// The problem type that the body names; `about:blank` names none (RFC 9457 section 3.1.1).
fn type_of<'p>(classified: &'p Classified<'_>) -> Option<&'p str> {
    let body = classified.body().json()?;
    body.member("type").and_then(Value::as_str).filter(|uri| *uri != "about:blank")
}

/// The application code of the body, as text, where the contract has codes.
pub fn code_of(classified: &Classified<'_>) -> Option<String> {
    let contract = classified.contract;
    let has_codes = contract.codes.is_some()
        || classified.style().envelope.code.is_some()
        || contract.all_faults.have_codes;
    if !has_codes {
        return None;
    }
    scalar_text(code_value(classified)?)
}

/// What stands where a code does: where the contract says, else under `code`.
pub fn code_value<'p>(classified: &'p Classified<'_>) -> Option<&'p Value> {
    let body = classified.body().json()?;
    match &classified.style().envelope.code {
        Some(steps) if steps.iter().any(|step| step == "*") => {
            resolve_each(body, steps).into_iter().find_map(|one| one.value)
        }
        Some(steps) => resolve(body, steps),
        None => body.member("code"),
    }
}

/// A problem type, resolved against the request's URL (RFC 9457 section 3.1.1).
pub fn resolved<'u>(base: &str, uri: &'u str) -> Cow<'u, str> {
    // Joining would also normalise an absolute one, and types are compared exactly.
    if uri.contains("://") || Url::parse(uri).is_ok() {
        return Cow::Borrowed(uri);
    }
    let base = Url::parse(&absolute(base));
    let joined = base.and_then(|base| base.join(uri));
    joined.map_or(Cow::Borrowed(uri), |joined| Cow::Owned(String::from(joined)))
}
