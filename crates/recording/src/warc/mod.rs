//! Web archives: WARC 1.0 and 1.1 (ISO 28500).
//!
//! `record` parses one record, `splitter` joins the records of a request and of its response.

mod record;
mod splitter;

pub(super) use record::{RecordScan, record};
pub(super) use splitter::WarcSplitter;
