//! The command line of `probe`.

use std::num::NonZero;
use std::path::PathBuf;
use std::str::FromStr;

use clap::Args;

const PROBE_CODES: &str = "Exit codes: 0 every clause kept (lapses and remarks allowed), 1 breaches, 2 the call or the \
    contract is wrong, or nothing could be sent, 3 it was stopped before all was sent.";

#[derive(Debug, Args)]
#[command(after_help = PROBE_CODES)]
pub(crate) struct ProbeArgs {
    /// Where the service is; on loopback, or one of the contract's servers
    #[arg(long, value_name = "URL", required_unless_present = "plan")]
    pub(crate) base_url: Option<String>,
    /// The contract [default: error-contract.toml, here or in the nearest folder above]
    #[arg(long, value_name = "FILE")]
    pub(crate) contract: Option<PathBuf>,
    /// Send nothing: say what would be sent, and what could not be planned
    #[arg(long)]
    pub(crate) dry_run: bool,
    /// Only requests whose name holds this text, as the plan names them; can be given more than once
    #[arg(long, value_name = "TEXT")]
    pub(crate) only: Vec<String>,
    /// No requests whose name holds this text; can be given more than once
    #[arg(long, value_name = "TEXT")]
    pub(crate) skip: Vec<String>,
    /// Send requests that could change something if the service did not refuse them, too
    #[arg(long)]
    pub(crate) allow_writes: bool,
    /// A host that is neither on loopback nor one of the contract's, and may be sent to
    #[arg(long, value_name = "HOST")]
    pub(crate) allow_host: Vec<String>,
    /// The value of a path parameter, or of a member of bodies: something that exists
    #[arg(long = "with", value_name = "NAME=VALUE")]
    pub(crate) set: Vec<NamedValue>,
    /// The recording to write, as HAR lines; one that is there is never written over
    #[arg(long, value_name = "FILE", default_value = "probe.jsonl")]
    pub(crate) output: PathBuf,
    /// So many seconds an answer is waited for
    #[arg(long, value_name = "SECONDS", default_value_t = 10, value_parser = clap::value_parser!(u64).range(1..=600))]
    pub(crate) timeout: u64,
    /// So many requests are sent in a second, at the most
    #[arg(long, value_name = "N", default_value = "50")]
    pub(crate) rate: NonZero<u32>,
    /// So many requests are under way at once, at the most
    #[arg(long, value_name = "N", default_value_t = 1, value_parser = clap::value_parser!(u64).range(1..=64))]
    pub(crate) parallel: u64,
    /// Stop after so many answers of 500 or above, or none, in a row
    #[arg(long, value_name = "N", default_value = "20")]
    pub(crate) stop_after: NonZero<usize>,
}

/// `NAME=VALUE`.
#[derive(Debug, Clone)]
pub(crate) struct NamedValue {
    pub(crate) name: String,
    pub(crate) value: String,
}

impl FromStr for NamedValue {
    type Err = &'static str;

    fn from_str(text: &str) -> Result<Self, Self::Err> {
        match text.split_once('=') {
            Some((name, value)) if !name.is_empty() && !value.is_empty() => {
                Ok(Self { name: name.to_owned(), value: value.to_owned() })
            }
            _ => Err("write it as in berth_id=A-3"),
        }
    }
}
