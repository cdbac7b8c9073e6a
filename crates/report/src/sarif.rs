//! A check as SARIF 2.1.0, for tools that show findings beside the code.
//!
//! - A rule is a clause, with its statement, its reason and how to fix it.
//! - A result stands at the endpoint's line in the contract, or in the OpenAPI description where only that
//!   has it; the other of the two and the first exchanges are its related locations.
//! - `partialFingerprints` has `fclerkFinding/v1`, the same for the same finding in another recording.
//! - A waived finding is suppressed, with the waiver's reason. Where findings were compared with a
//!   ledger, `baselineState` says which are new.
//! - What could not be read is a notification of the run.

use faithful_clerk_check::clauses::{Clause, catalogue, index_of};
use faithful_clerk_check::ledger::{EndpointRow, FindingKey, FindingOccurrences, fingerprint};
use faithful_clerk_model::address::Address;
use faithful_clerk_model::finding::Severity;
use serde_json::{Value, json};

use crate::CheckReport;
use crate::escape::{markdown, terminal, uri_path};
use crate::finding_text::FindingText;
use crate::groups::groups;
use crate::json::pretty;

/// The whole of it.
///
/// # Errors
/// Only if serde can't write what is text, numbers and lists.
pub fn check(report: &CheckReport<'_>) -> Result<String, serde_json::Error> {
    let mut results = Vec::new();
    for group in groups(report) {
        for (set, state) in [(&group.new, "new"), (&group.known, "unchanged")] {
            for shown in set {
                let mut result = result(report, shown.row, shown.key, &shown.entry);
                if report.gate.baseline.is_some() {
                    result["baselineState"] = json!(state);
                }
                results.push(result);
            }
        }
        for ((clause, severity), count) in &group.more {
            results.push(json!({
                "ruleId": clause,
                "ruleIndex": index_of(clause),
                "level": level(*severity),
                "message": {"text": format!("{count} more findings with other texts at {}.", group.name)},
                "locations": group.row.map(|row| locations(report, row).0).unwrap_or_default(),
                "occurrenceCount": count,
            }));
        }
    }
    for (at, entries) in &report.ledger.waived {
        let Some(waiver) = report.contract.waivers.get(*at) else { continue };
        let row = waiver.row.clone().unwrap_or(EndpointRow::UnknownRoute);
        for (key, entry) in &entries.kept {
            let mut result = result(report, &row, key, entry);
            result["suppressions"] = json!([{
                "kind": "external",
                "status": "accepted",
                "justification": format!("until {}: {}", waiver.until, waiver.reason),
                "location": {"physicalLocation": {
                    "artifactLocation": {"uri": uri(report.contract_path)},
                    "region": {"startLine": waiver.line.max(1)},
                }},
            }]);
            results.push(result);
        }
    }
    let unreadable = report.ledger.unreadable.first.iter().map(
        |unreadable| json!({"level": "error", "message": {"text": terminal(&unreadable.told(report.names()))}}),
    );
    let unreadable: Vec<Value> = unreadable.collect();
    pretty(&json!({
        "$schema": "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json",
        "version": "2.1.0",
        "runs": [{
            "tool": {"driver": {
                "name": "Faithful Clerk",
                "semanticVersion": env!("CARGO_PKG_VERSION"),
                "rules": catalogue().map(rule).collect::<Vec<_>>(),
            }},
            "columnKind": "unicodeCodePoints",
            "invocations": [{
                "executionSuccessful": report.ledger.unreadable.count == 0,
                "toolExecutionNotifications": unreadable,
            }],
            "results": results,
        }],
    }))
}

fn level(severity: Severity) -> &'static str {
    match severity {
        Severity::Breach => "error",
        Severity::Warning => "warning",
        Severity::Note => "note",
    }
}

fn rule(clause: &Clause) -> Value {
    let basis: Vec<String> = clause.basis.iter().map(ToString::to_string).collect();
    let basis = basis.join("; ");
    let help = format!("{}\n\nBasis: {basis}.\n\nHow to fix: {}", clause.reason, clause.fix);
    let marked = format!(
        "{}\n\n**Basis:** {}.\n\n**How to fix:** {}",
        markdown(clause.reason),
        markdown(&basis),
        markdown(clause.fix)
    );
    json!({
        "id": clause.name,
        "name": camel(clause.name),
        "shortDescription": {"text": clause.statement},
        "fullDescription": {"text": format!("{} {}", clause.statement, clause.reason)},
        "help": {"text": help, "markdown": marked},
        "defaultConfiguration": {"level": level(clause.severity)},
    })
}

/// `problem.status-agrees` as `ProblemStatusAgrees`.
fn camel(name: &str) -> String {
    let word = |word: &str| {
        let mut chars = word.chars();
        chars
            .next()
            .map(|first| first.to_ascii_uppercase())
            .into_iter()
            .chain(chars)
            .collect::<String>()
    };
    name.split(['.', '-']).map(word).collect()
}

fn result(
    report: &CheckReport<'_>,
    row: &EndpointRow,
    key: &FindingKey,
    entry: &FindingOccurrences,
) -> Value {
    let name = row.name(report.contract);
    let text = FindingText::of_key(key, row, report.contract).sentence();
    let text = format!("{name}, {text}");
    let (locations, mut related) = locations(report, row);
    related.extend(entry.first.iter().filter_map(|address| exchange(report, *address)));
    for (id, location) in related.iter_mut().enumerate() {
        location["id"] = json!(id + 1);
    }
    json!({
        "ruleId": key.clause,
        "ruleIndex": index_of(key.clause),
        "level": level(key.severity),
        "message": {"text": terminal(&text)},
        "locations": locations,
        "relatedLocations": related,
        "occurrenceCount": entry.count,
        "partialFingerprints": {"fclerkFinding/v1": fingerprint(&name, key)},
        "properties": {
            "endpoint": name,
            "location": terminal(&key.location.to_string()),
            "exchanges": report.names().each(&entry.first).iter().map(|name| terminal(name)).collect::<Vec<_>>(),
        },
    })
}

/// Where the endpoint is declared: the place to look at, and the other one.
fn locations(report: &CheckReport<'_>, row: &EndpointRow) -> (Value, Vec<Value>) {
    let endpoint = row.endpoint().and_then(|id| report.contract.endpoint(id));
    let line = endpoint.and_then(|endpoint| endpoint.line);
    let described = endpoint.and_then(|endpoint| {
        let path = report.contract.description.as_deref()?;
        Some((beside(report.contract_path, path), endpoint.described.unwrap_or(1)))
    });
    let logical = json!([{"fullyQualifiedName": row.name(report.contract), "kind": "resource"}]);
    let at = |path: &str, line: usize| {
        json!({
            "physicalLocation": {
                "artifactLocation": {"uri": uri(path)},
                "region": {"startLine": line},
            },
            "logicalLocations": logical,
        })
    };
    match (line, described) {
        (None, Some((path, line))) => (json!([at(&path, line)]), Vec::new()),
        (line, None) => (json!([at(report.contract_path, line.unwrap_or(1))]), Vec::new()),
        (Some(line), Some((path, other))) => {
            let mut other = at(&path, other);
            other["message"] = json!({"text": "the endpoint in the OpenAPI description"});
            (json!([at(report.contract_path, line)]), vec![other])
        }
    }
}

fn exchange(report: &CheckReport<'_>, address: Address) -> Option<Value> {
    let name = report.recording(address.recording);
    (name != "-").then(|| {
        json!({
            "physicalLocation": {"artifactLocation": {"uri": uri(name)}},
            "message": {"text": terminal(&format!("exchange {}", report.address(address)))},
        })
    })
}

/// The path of a file that another file names.
fn beside(path: &str, other: &str) -> String {
    match path.rsplit_once('/') {
        Some((folder, _)) if !other.starts_with('/') => format!("{folder}/{other}"),
        _ => other.to_owned(),
    }
}

/// A path as a URI reference (RFC 3986).
fn uri(path: &str) -> String {
    let mut uri = String::new();
    // A first step with a colon in it would look like a scheme.
    let has_colon = path.split('/').next().is_some_and(|step| step.contains(':'));
    uri.push_str(match path.starts_with('/') {
        true => "file://",
        false if has_colon => "./",
        false => "",
    });
    uri.push_str(&uri_path(path));
    uri
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn paths_become_uri_references() {
        for (path, expected) in [
            ("error-contract.toml", "error-contract.toml"),
            ("a b/ü#.har", "a%20b/%C3%BC%23.har"),
            ("/srv/x.toml", "file:///srv/x.toml"),
            ("c:x", "./c%3Ax"),
        ] {
            assert_eq!(uri(path), expected);
        }
        assert_eq!(beside("contracts/error.toml", "api.yaml"), "contracts/api.yaml");
        assert_eq!(beside("error.toml", "api.yaml"), "api.yaml");
        assert_eq!(camel("problem.status-agrees"), "ProblemStatusAgrees");
    }
}
