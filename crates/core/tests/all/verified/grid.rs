//! Cells of the grid: met only by what is about them.

use faithful_clerk_check::Check;
use faithful_clerk_check::grid::{CellMark, Grid};
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_model::situation::Situation;
use faithful_clerk_recording::Source;

use super::{QUAY, contract};

/// The mark of the cell that one exchange is in.
fn mark(contract: &ErrorContract, body: &str, status: u16) -> (Option<Situation>, CellMark) {
    let text = format!("{{\"detail\":\"status {status} it is\"}}");
    let entry = serde_json::json!({
        "request": {
            "method": "POST", "url": "https://harbour.example/v1/bookings",
            "headers": [
                {"name": "Authorization", "value": "Bearer x"},
                {"name": "Content-Type", "value": "application/json"},
            ],
            "postData": {"mimeType": "application/json", "text": body},
        },
        "response": {
            "status": status,
            "headers": [
                {"name": "Content-Type", "value": "application/json"},
                {"name": "WWW-Authenticate", "value": "Bearer"},
                {"name": "Retry-After", "value": "5"},
            ],
            "content": {"mimeType": "application/json", "text": text},
        },
    });
    let lines = format!("{entry}\n");
    let mut ledger = Check::new(contract).recording(Source::of(lines.as_bytes()), 0);
    ledger.conclude(contract);
    let grid = Grid::of(contract, &ledger);
    let (row, cells) = grid.rows.first().unwrap();
    assert_eq!(row.name(contract), "POST /bookings");
    let covered = |(_, (mark, _)): &(&Option<Situation>, &(CellMark, _))| {
        !matches!(mark, CellMark::NotCovered | CellMark::NotApplicable)
    };
    let mut found = grid.columns.iter().zip(cells).filter(covered);
    let (column, (mark, _)) = found.next().unwrap();
    assert!(found.next().is_none());
    (*column, *mark)
}

#[test]
fn a_cell_is_met_only_by_a_response_about_its_situation() {
    let contract = contract(QUAY);
    let (valid, invalid, malformed) = (r#"{"nights":2}"#, r#"{"nights":99}"#, r#"{"nights":"#);
    for (body, status, column, expected) in [
        (valid, 201, None, CellMark::Met),
        (invalid, 422, Some(Situation::InvalidBody), CellMark::Met),
        (invalid, 201, Some(Situation::InvalidBody), CellMark::Broken),
        (invalid, 500, Some(Situation::InvalidBody), CellMark::Broken),
        (malformed, 400, Some(Situation::MalformedBody), CellMark::Met),
        // Right for any request, and about none of them.
        (invalid, 429, Some(Situation::InvalidBody), CellMark::NotChecked),
        (invalid, 503, Some(Situation::InvalidBody), CellMark::NotChecked),
        (malformed, 429, Some(Situation::MalformedBody), CellMark::NotChecked),
        // Allowed, as no request shows that they are wrong; but not about the body.
        (invalid, 401, Some(Situation::InvalidBody), CellMark::NotChecked),
        (invalid, 404, Some(Situation::InvalidBody), CellMark::NotChecked),
        (invalid, 409, Some(Situation::InvalidBody), CellMark::NotChecked),
        // A valid request has the situation that the response tells of.
        (valid, 429, Some(Situation::TooManyRequests), CellMark::Met),
        (valid, 404, Some(Situation::ResourceNotFound), CellMark::Met),
    ] {
        assert_eq!(mark(&contract, body, status), (column, expected), "{status} to {body}");
    }
}
