//! An exchange as JSON.

use faithful_clerk_check::classify::recognised;
use faithful_clerk_contract::Endpoint;
use faithful_clerk_insight::draft::{ExpectedResponse, expected_response};
use faithful_clerk_model::finding::Finding;
use faithful_clerk_model::headers::Headers;
use faithful_clerk_model::secret::mask::masked;
use serde_json::{Value, json};

use super::body::{BodyLayout, masked_value, read_request, read_response};
use super::{ContractView, ExchangeView, header_value};
use crate::json::pretty;

/// As JSON.
///
/// # Errors
/// Only if serde can't write what is text, numbers and lists.
pub fn json(view: &ExchangeView<'_>) -> Result<String, serde_json::Error> {
    let exchange = view.exchange;
    let request = &exchange.request;
    let asked = body(read_request(request));
    let answer = match &exchange.response {
        None => Value::Null,
        Some(response) => json!({
            "status": response.status,
            "headers": headers(&response.headers),
            "body": body(read_response(response)),
        }),
    };
    let mut wire = json!({
        "format": "fclerk show",
        "version": 1,
        "address": view.address,
        "request": {
            "method": request.method,
            "url": masked(&request.url),
            "headers": headers(&request.headers),
            "body": asked,
        },
        "response": answer,
        "milliseconds": exchange.timing.milliseconds(),
        "excluded": null,
        "endpoint": null,
        "situations": [],
        "findings": null,
        "faults": [],
        "expected": null,
    });
    match &view.known {
        ContractView::Nothing => {}
        ContractView::Excluded(reason) => wire["excluded"] = json!(reason),
        ContractView::Checked(classified, findings) => {
            let (faults, expected) = expected_response(classified);
            wire["endpoint"] = json!(classified.endpoint().map(Endpoint::name));
            wire["situations"] = recognised(classified)
                .iter()
                .map(|found| json!({"situation": found.situation.name(), "evidence": found.evidence.to_string()}))
                .collect();
            wire["findings"] = findings.iter().map(finding).collect();
            wire["faults"] = json!(faults);
            wire["expected"] = expected.map_or(Value::Null, |answer| drafted(&answer));
        }
    }
    pretty(&wire)
}

fn headers(headers: &Headers<'_>) -> Vec<Value> {
    let pair = |(name, value)| json!({"name": name, "value": header_value(name, value)});
    headers.iter().map(pair).collect()
}

fn body(layout: Option<BodyLayout>) -> Value {
    match layout {
        Some(BodyLayout::Json(value)) => masked_value("", &value),
        Some(BodyLayout::Text(text) | BodyLayout::Blanked(text)) => Value::from(text),
        Some(BodyLayout::Bytes(_) | BodyLayout::Unreadable) | None => Value::Null,
    }
}

fn finding(finding: &Finding) -> Value {
    let Finding {
        clause,
        severity,
        address: _,
        location,
        expected,
        got: seen,
        because,
        not_checked,
        conforming: _,
    } = finding;
    json!({
        "clause": clause,
        "severity": severity.name(),
        "location": location.to_string(),
        "expected": expected.to_string(),
        "got": seen.to_string(),
        "because": because.as_ref().map(ToString::to_string),
        "not_checked": not_checked.as_ref().map(ToString::to_string),
    })
}

fn drafted(response: &ExpectedResponse) -> Value {
    let ExpectedResponse { fault, status, phrase: _, headers, body } = response;
    let pair = |(name, value): &(String, String)| json!({"name": name, "value": value});
    json!({
        "fault": fault,
        "status": status,
        "headers": headers.iter().map(pair).collect::<Vec<_>>(),
        "body": body,
    })
}
