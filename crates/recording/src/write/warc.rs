//! An exchange as records of a web archive, WARC 1.1 (ISO 28500).

use std::collections::BTreeMap;
use std::hash::{DefaultHasher, Hash as _, Hasher as _};
use std::io::{self, Write};

use jiff::Timestamp;

use super::http::{MessageEnd, request, response_bytes};
use super::omission::leave_out;
use super::record::ExchangeRecord;
use faithful_clerk_model::address::absolute;
use faithful_clerk_model::exchange::{RequestBody, ResponseBody};

/// What stands for a time that nobody recorded; an archive asks for one.
const UNKNOWN_TIME: &str = "1970-01-01T00:00:00Z";

/// Writes the records of an exchange.
pub(super) fn write(
    record: &ExchangeRecord<'_>,
    sink: &mut impl Write,
    left_out: &mut BTreeMap<&'static str, u64>,
) -> io::Result<()> {
    let asked = request(record, MessageEnd::Outside, left_out);
    let (told, cut) = match &record.exchange.response {
        // A record of nothing: no response.
        None => {
            if record.exchange.no_response.is_some() {
                leave_out(left_out, "why there is no response");
            }
            (Vec::new(), None)
        }
        Some(response) => {
            let cut = match response.body {
                ResponseBody::Truncated => Some("disconnect"),
                ResponseBody::NotRecorded => Some("unspecified"),
                ResponseBody::Empty | ResponseBody::Present(_) => None,
            };
            (response_bytes(record, response, MessageEnd::Outside, left_out), cut)
        }
    };
    let date = match record.started.as_deref().map(str::parse::<Timestamp>) {
        Some(Ok(time)) => time.to_string(),
        Some(Err(_)) | None => {
            leave_out(left_out, "the time, which was not recorded: 1970 is written");
            UNKNOWN_TIME.to_owned()
        }
    };
    let [asked_id, told_id] = [("request", &asked), ("response", &told)]
        .map(|(kind, block)| id(kind, record.exchange.offset, block));
    let url = absolute(&record.exchange.request.url);
    let url = url.replace(char::is_whitespace, "%20");
    let head = |kind: &str, id: &str, other: &str, length: usize| {
        let mut head = format!(
            "WARC/1.1\r\nWARC-Type: {kind}\r\nWARC-Record-ID: <{id}>\r\nWARC-Date: {date}\r\n\
             WARC-Target-URI: {url}\r\nWARC-Concurrent-To: <{other}>\r\n\
             Content-Type: application/http;msgtype={kind}\r\nContent-Length: {length}\r\n"
        );
        if let Some(server) = record.server.as_deref().filter(|_| kind == "response") {
            let server = server.replace(char::is_whitespace, "");
            head.push_str(&format!("WARC-IP-Address: {server}\r\n"));
        }
        let is_request_kept = !matches!(record.exchange.request.body, RequestBody::NotRecorded);
        let cut = match kind {
            "response" => cut,
            _ if is_request_kept => None,
            _ => Some("unspecified"),
        };
        if let Some(reason) = cut {
            head.push_str(&format!("WARC-Truncated: {reason}\r\n"));
        }
        head + "\r\n"
    };
    for (kind, id, other, block) in
        [("request", &asked_id, &told_id, &asked), ("response", &told_id, &asked_id, &told)]
    {
        sink.write_all(head(kind, id, other, block.len()).as_bytes())?;
        sink.write_all(block)?;
        sink.write_all(b"\r\n\r\n")?;
    }
    Ok(())
}

/// An id that depends on nothing but what it is for, so that the same recording gives the same archive.
fn id(kind: &str, offset: u64, block: &[u8]) -> String {
    let half = |salt: u8| {
        let mut hasher = DefaultHasher::new();
        (salt, kind, offset, block).hash(&mut hasher);
        hasher.finish()
    };
    let (high, low) = (half(0), half(1));
    format!(
        "urn:uuid:{:08x}-{:04x}-8{:03x}-8{:03x}-{:012x}",
        high >> 32,
        high >> 16 & 0xffff,
        high & 0xfff,
        low >> 52,
        low & 0xffff_ffff_ffff
    )
}
