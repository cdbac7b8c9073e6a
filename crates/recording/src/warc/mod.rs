//! Web archives: WARC 1.0 and 1.1 (ISO 28500).
//!
//! `record` reads one record, `cutter` puts the records of a request and of its answer together.

mod cutter;
mod record;

pub(super) use cutter::WarcSplitter;
pub(super) use record::{RecordScan, record};
