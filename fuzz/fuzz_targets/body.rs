//! Any bytes as an error response's body and as a request's: read, checked by every clause, laid out.
#![no_main]

use std::borrow::Cow;
use std::sync::LazyLock;

use faithful_clerk_check::classify::{Classification, Credentials, classify};
use faithful_clerk_check::clauses::{HARBOUR, check_exchange, exchange};
use faithful_clerk_check::parse_contract;
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_model::exchange::{BodyContent, RequestBody, ResponseBody};
use libfuzzer_sys::fuzz_target;

static CONTRACT: LazyLock<ErrorContract> =
    LazyLock::new(|| parse_contract(HARBOUR).contract.expect("the examples' contract parses"));

fuzz_target!(|data: &[u8]| {
    let Some((choice, data)) = data.split_first() else { return };
    let media = ["application/problem+json", "application/json", "text/html"][usize::from(choice & 3) % 3];
    let status = [400, 404, 422, 500, 200, 409, 401, 503][usize::from(choice >> 2 & 7)];
    let mut exchange = exchange(
        1,
        "POST /v1/reservations\nAuthorization: Bearer x\nContent-Type: application/json\n\n{}",
        "HTTP/1.1 422 Unprocessable Content\n\n{}",
    );
    let end = data.iter().position(|byte| *byte == 0).unwrap_or(data.len());
    let (request, response) = data.split_at(end);
    exchange.request.body = RequestBody::Present(BodyContent::Bytes(Cow::Borrowed(request)));
    if let Some(received) = &mut exchange.response {
        received.status = status;
        received.recorded_media = Some(Cow::Borrowed(media));
        received.headers = [("content-type", media)].into_iter().collect();
        received.body = ResponseBody::Present(BodyContent::Bytes(Cow::Borrowed(response)));
    }
    let classification = classify(&exchange, &CONTRACT, Credentials::Recorded);
    if let Classification::Classified(classified) = classification {
        for finding in &check_exchange(&classified).findings {
            assert!(finding.expected.chars().count() <= 401 && finding.got.chars().count() <= 401);
        }
        drop(classified.body().words());
    }
});
