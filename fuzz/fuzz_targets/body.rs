//! Any bytes as an error answer's body and as a request's: read, judged by every clause, laid out.
#![no_main]

use std::borrow::Cow;
use std::sync::LazyLock;

use faithful_clerk_core::clause::{HARBOUR, exchange, judge};
use faithful_clerk_core::exchange::{Content, RequestBody, ResponseBody};
use faithful_clerk_core::classify::{Credentials, Placing, place};
use faithful_clerk_core::ErrorContract;
use libfuzzer_sys::fuzz_target;

static CONTRACT: LazyLock<ErrorContract> =
    LazyLock::new(|| ErrorContract::read(HARBOUR).contract.expect("the examples' contract is right"));

fuzz_target!(|data: &[u8]| {
    let Some((choice, data)) = data.split_first() else { return };
    let media = ["application/problem+json", "application/json", "text/html"][usize::from(choice & 3) % 3];
    let status = [400, 404, 422, 500, 200, 409, 401, 503][usize::from(choice >> 2 & 7)];
    let mut exchange = exchange(
        1,
        "POST /v1/reservations\nAuthorization: Bearer x\nContent-Type: application/json\n\n{}",
        "HTTP/1.1 422 Unprocessable Content\n\n{}",
    );
    let cut = data.iter().position(|byte| *byte == 0).unwrap_or(data.len());
    let (asked, told) = data.split_at(cut);
    exchange.request.body = RequestBody::Present(Content::Bytes(Cow::Borrowed(asked)));
    if let Some(response) = &mut exchange.response {
        response.status = status;
        response.recorded_media = Some(Cow::Borrowed(media));
        response.headers = [("content-type", media)].into_iter().collect();
        response.body = ResponseBody::Present(Content::Bytes(Cow::Borrowed(told)));
    }
    if let Placing::Placed(placed) = place(&exchange, &CONTRACT, Credentials::Recorded) {
        let judgement = judge(&placed);
        for finding in &judgement.findings {
            assert!(finding.agreed.chars().count() <= 401 && finding.seen.chars().count() <= 401);
        }
        drop(placed.body().words());
    }
});
