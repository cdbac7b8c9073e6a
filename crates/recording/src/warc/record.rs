//! One record of an archive.

use memchr::memchr;

use crate::http::LONGEST_HEAD;

/// What a record is to us.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum RecordKind {
    Request,
    Response,
    /// A response whose content is the same as an earlier one's, and is not repeated.
    Revisit,
    /// Information about the archive or the crawl.
    Other,
}

/// The fields of a record that matter here.
#[derive(Debug, Clone, Default)]
pub(crate) struct RecordFields {
    pub(super) kind: Option<RecordKind>,
    pub(super) id: String,
    pub(super) concurrent: Vec<String>,
    pub(super) target: String,
    pub(super) date: Option<String>,
    pub(super) server: Option<String>,
    /// The crawler's word that the block is not the whole message, and why.
    pub(super) truncated: Option<String>,
    is_http: bool,
    length: Option<u64>,
}

/// A record at the start of some bytes.
#[derive(Debug)]
pub(crate) enum RecordScan {
    /// Its fields, and where its block starts and ends.
    Record(Box<RecordFields>, usize, usize),
    /// More bytes are needed; so many in all, as far as is known.
    More(u64),
    /// This is no record.
    Stray(&'static str),
}

/// Reads the record at the start of `bytes`.
pub(crate) fn record(bytes: &[u8]) -> RecordScan {
    const VERSION: &[u8] = b"WARC/";
    let start = bytes.get(..VERSION.len().min(bytes.len())).unwrap_or_default();
    if !VERSION.starts_with(start) {
        return RecordScan::Stray("this is not a WARC record");
    }
    let mut fields = RecordFields::default();
    let mut at = 0;
    loop {
        let rest = bytes.get(at..).unwrap_or_default();
        let Some(end) = memchr(b'\n', rest) else {
            return if bytes.len() > LONGEST_HEAD {
                RecordScan::Stray("the header of this record has no end")
            } else {
                RecordScan::More(0)
            };
        };
        let line = String::from_utf8_lossy(rest.get(..end).unwrap_or_default());
        let is_first = at == 0;
        at += end + 1;
        if line.trim().is_empty() {
            break;
        }
        if let Some((name, value)) = line.split_once(':').filter(|_| !is_first) {
            fields.take(name.trim(), value.trim());
        }
    }
    let Some(length) = fields.length else {
        return RecordScan::Stray("this record has no Content-Length");
    };
    let end = at as u64 + length;
    match usize::try_from(end) {
        Ok(end) if end <= bytes.len() => {
            if !fields.is_http {
                fields.kind = Some(RecordKind::Other);
            }
            RecordScan::Record(Box::new(fields), at, end)
        }
        _ => RecordScan::More(end),
    }
}

impl RecordFields {
    fn take(&mut self, name: &str, value: &str) {
        // Some crawlers write URIs in angle brackets.
        let bare = value.strip_prefix('<').and_then(|rest| rest.strip_suffix('>'));
        let bare = bare.unwrap_or(value);
        match name.to_ascii_lowercase().as_str() {
            "warc-type" => {
                self.kind = Some(match value {
                    "request" => RecordKind::Request,
                    "response" => RecordKind::Response,
                    "revisit" => RecordKind::Revisit,
                    _ => RecordKind::Other,
                });
            }
            "warc-record-id" => bare.clone_into(&mut self.id),
            "warc-concurrent-to" => self.concurrent.push(bare.to_owned()),
            "warc-target-uri" => bare.clone_into(&mut self.target),
            "warc-date" => self.date = Some(value.to_owned()),
            "warc-ip-address" => self.server = Some(value.to_owned()),
            "warc-truncated" => self.truncated = Some(value.to_owned()),
            "content-type" => {
                self.is_http = value.to_ascii_lowercase().starts_with("application/http");
            }
            "content-length" => self.length = value.parse().ok().filter(|n| *n < 1 << 62),
            _ => {}
        }
    }

    /// Is its block an HTTP message?
    pub(crate) fn is_http(&self) -> bool {
        self.is_http
    }

    /// Do two records speak of the same exchange, by their own word?
    pub(super) fn names(&self, other: &Self) -> bool {
        self.concurrent.contains(&other.id) || other.concurrent.contains(&self.id)
    }

    /// Where neither says whom it belongs to: are they about the same resource?
    pub(super) fn may_belong_to(&self, other: &Self) -> bool {
        (self.concurrent.is_empty() || other.concurrent.is_empty()) && self.target == other.target
    }
}
