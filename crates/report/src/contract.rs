//! A contract by itself, for people: what helps to write it, and how it is understood.

use std::collections::BTreeMap;

use faithful_clerk_contract::{Authentication, Endpoint, FaultClass, KeyLine};
use faithful_clerk_insight::handbook::MergedDescription;
use faithful_clerk_insight::review::{
    ContractNotices, Disagreement, ResolvedCase, ResolvedContract, ResolvedEndpoint, ResolvedFault,
};
use faithful_clerk_model::situation::Situation;

use crate::Theme;
use crate::page::{Page, Table, code, plain};
use crate::text::counted;

/// What is called where a request leads to no endpoint.
const NO_ENDPOINT: &str = "(no endpoint)";

/// Where a contract and a description disagree, by endpoint; `names` are the names of both.
#[must_use]
pub fn disagreements(
    found: &BTreeMap<String, Vec<Disagreement>>,
    (contract, description): (&str, &str),
    theme: Theme,
) -> String {
    let mut page = Page::default();
    let count: usize = found.values().map(Vec::len).sum();
    let said = match count {
        0 => "agree about every documented error.".to_owned(),
        _ => format!("disagree about {}:", counted(count as u64, "thing")),
    };
    page.text(vec![code(contract), plain(" and "), code(description), plain(format!(" {said}"))]);
    for (endpoint, list) in found {
        page.heading(endpoint);
        for one in list {
            page.item(vec![plain(one.to_string())]);
        }
    }
    page.terminal(theme)
}

/// What became of a description that a contract's faults were brought into.
#[must_use]
pub fn merged(merged: &MergedDescription, written: &str, theme: Theme) -> String {
    let mut page = Page::default();
    let said = match (merged.added, merged.replaced.len()) {
        (0, 0) => "the description as it was; it has the contract's faults already.".to_owned(),
        (0, _) => "the description with other responses.".to_owned(),
        (added, _) => format!("the description with {} more.", counted(added as u64, "response")),
    };
    page.text(vec![code(written), plain(format!(": {said}"))]);
    let lists = [("In the place of others", &merged.replaced), ("Left as they are", &merged.left)];
    for (heading, list) in lists {
        if !list.is_empty() {
            page.heading(heading);
        }
        for one in list {
            page.item(vec![plain(one.clone())]);
        }
    }
    page.terminal(theme)
}

/// What helps to write a contract.
#[must_use]
pub fn notices(notices: &ContractNotices, theme: Theme) -> String {
    let mut page = Page::default();
    if !notices.unanswered.is_empty() {
        page.heading("No fault is for");
        let mut table = Table::new(&["at", "situations"]);
        for one in &notices.unanswered {
            let at = one.endpoint.as_deref().unwrap_or(NO_ENDPOINT);
            table.row(vec![code(at), plain(names(&one.situations))]);
        }
        page.table(table);
        page.text(vec![plain(
            "A response to such a request is not held to a fault. Declare one with `when`, or leave it open.",
        )]);
    }
    if !notices.never.is_empty() {
        page.heading("Faults that can never come");
        let mut table = Table::new(&["fault", "named for", "but no request there is in"]);
        for one in &notices.never {
            let at = one.endpoint.as_deref().unwrap_or("every endpoint");
            table.row(vec![code(&one.fault), plain(at), plain(names(&one.when))]);
        }
        page.table(table);
    }
    if !notices.overlapping.is_empty() {
        page.heading("Cases that overlap");
        for one in &notices.overlapping {
            page.item(vec![
                code(&one.one),
                plain(" and "),
                code(&one.other),
                plain(": a request can be for both, and they expect different things"),
            ]);
        }
    }
    page.terminal(theme)
}

/// The contract as it is understood.
#[must_use]
pub fn resolved(contract: &ResolvedContract<'_>, theme: Theme) -> String {
    let mut page = Page::default();
    for endpoint in &contract.endpoints {
        resolved_endpoint(&mut page, endpoint);
    }
    page.terminal(theme)
}

fn resolved_endpoint(page: &mut Page, of: &ResolvedEndpoint<'_>) {
    let region = of.region.map(|region| format!(" in {region}")).unwrap_or_default();
    match of.endpoint {
        Some(endpoint) => {
            page.heading(endpoint.name());
            page.text(vec![plain(about(endpoint, of.region))]);
        }
        None => page.heading(format!("{NO_ENDPOINT}{region}")),
    }
    if of.faults.is_empty() {
        page.text(vec![plain("No fault is allowed.")]);
    } else {
        let mut table = Table::new(&["situation", "fault", "#status", "named by"]);
        for one in &of.faults {
            table.row(vec![
                plain(situation(one)),
                code(&one.fault.name),
                plain(statuses(one)),
                plain(origin(&one.origin.table(), one.line)),
            ]);
        }
        page.table(table);
    }
    for one in &of.cases {
        page.item(vec![plain("case "), code(&one.case.name), plain(case_words(one))]);
    }
}

/// What else holds at an endpoint, in a line.
fn about(endpoint: &Endpoint, region: Option<&str>) -> String {
    let rules = &endpoint.rules;
    let success: Vec<String> = rules.success().iter().map(u16::to_string).collect();
    let mut parts = vec![match success.as_slice() {
        [] => "any success".to_owned(),
        some => format!("success {}", some.join(", ")),
    }];
    parts.push(match rules.auth {
        Some(Authentication::Required) => "credentials required".to_owned(),
        Some(Authentication::None) => "no credentials".to_owned(),
        None => "credentials not declared".to_owned(),
    });
    parts.extend(region.map(|region| format!("region {region}")));
    parts.extend(endpoint.line.map(|line| format!("declared at line {line}")));
    if endpoint.line.is_none() {
        parts.push("declared by the description".to_owned());
    }
    format!("{}.", parts.join("; "))
}

fn situation(of: &ResolvedFault<'_>) -> String {
    match (of.situation, of.fault.class) {
        (Some(situation), _) => situation.name().to_owned(),
        (None, FaultClass::AnyRequest) => "(any request)".to_owned(),
        (None, FaultClass::Internal) => "(never expected)".to_owned(),
        (None, FaultClass::Expected) => "(not seen in a request)".to_owned(),
    }
}

fn statuses(of: &ResolvedFault<'_>) -> String {
    let all = std::iter::once(&of.fault.status).chain(&of.fault.other_statuses);
    all.map(u16::to_string).collect::<Vec<_>>().join(", ")
}

fn origin(table: &str, line: Option<&KeyLine>) -> String {
    line.map_or_else(|| table.to_owned(), |line| format!("{table}, {line}"))
}

fn case_words(of: &ResolvedCase<'_>) -> String {
    let expects = of.expects.map(|name| format!(" expects {name}"));
    let situation = of.case.situation.map(|situation| format!(" for {}", situation.name()));
    let line = of.line.map(|line| format!(", {line}"));
    let parts = [expects, situation, line];
    parts.into_iter().flatten().collect()
}

fn names(situations: &[Situation]) -> String {
    situations.iter().map(|one| one.name()).collect::<Vec<_>>().join(", ")
}
