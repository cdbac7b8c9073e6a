//! The command line of `probe`.

use std::num::NonZero;
use std::path::PathBuf;
use std::str::FromStr;

use clap::Args;

use super::reports::CheckOutputArgs;

const PROBE_CODES: &str = "Exit codes: 0 every clause met (warnings and notes allowed), 1 breaches, 2 usage or contract error, or nothing could be sent, 3 stopped before everything was sent, or the service put requests off (429, 503).";

#[derive(Debug, Args)]
#[command(after_help = PROBE_CODES)]
pub(crate) struct ProbeArgs {
    /// Base URL of the service: on loopback, or one of the contract's servers
    #[arg(long, value_name = "URL", required_unless_present = "dry_run", value_parser = super::values::url)]
    pub(crate) base_url: Option<String>,
    /// The contract [default: error-contract.toml, here or in the nearest folder above]
    #[arg(long, value_name = "FILE")]
    pub(crate) contract: Option<PathBuf>,
    /// The service's OpenAPI description, in place of a contract
    #[arg(long, value_name = "FILE", conflicts_with = "contract")]
    pub(crate) openapi: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) results: CheckOutputArgs,
    /// Send nothing; list what would be sent, and what could not be planned
    #[arg(long)]
    pub(crate) dry_run: bool,
    /// Only requests whose name contains this text, as --dry-run lists them; repeatable
    #[arg(long, value_name = "TEXT")]
    pub(crate) only: Vec<String>,
    /// Skip requests whose name contains this text; repeatable
    #[arg(long, value_name = "TEXT")]
    pub(crate) skip: Vec<String>,
    /// How deep in bodies each rule is broken: 1 for a body's own members
    #[arg(long, value_name = "N", default_value_t = 4, value_parser = clap::value_parser!(u64).range(1..=6))]
    pub(crate) depth: u64,
    /// Maximum number of requests to plan; what is deepest in bodies is left out first
    #[arg(long, value_name = "N", default_value = "5000")]
    pub(crate) most: NonZero<usize>,
    /// Also send requests that could change data if the service accepted them
    #[arg(long)]
    pub(crate) allow_writes: bool,
    /// Also allow this host, which is neither on loopback nor one of the contract's
    #[arg(long, value_name = "HOST")]
    pub(crate) allow_host: Vec<String>,
    /// Value of a path parameter, or of a body member by its JSON Pointer: something that exists
    #[arg(long, value_name = "NAME=VALUE")]
    pub(crate) set: Vec<NamedValue>,
    /// Recording to write, as JSON Lines of HAR entries; an existing file is never overwritten
    #[arg(long, short, value_name = "FILE", default_value = "probe.jsonl")]
    pub(crate) output: PathBuf,
    /// Continue a probe that was stopped: what --output holds already is not sent again
    #[arg(long, conflicts_with = "dry_run")]
    pub(crate) resume: bool,
    /// Seconds to wait for a response, and for a service that puts a request off (429, 503 with Retry-After)
    #[arg(long, value_name = "SECONDS", default_value_t = 10, value_parser = clap::value_parser!(u64).range(1..=600))]
    pub(crate) timeout: u64,
    /// Maximum number of requests per second; a service that responds with 429 or 503 slows it down
    #[arg(long, value_name = "N", default_value = "50")]
    pub(crate) rate: NonZero<u32>,
    /// Maximum number of requests in flight
    #[arg(long, value_name = "N", default_value_t = 1, value_parser = clap::value_parser!(u64).range(1..=64))]
    pub(crate) parallel: u64,
    /// Stop after this many failures in a row: responses of 500 or above, none, or 429 for longer than --timeout
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
            _ => Err("write NAME=VALUE, as in berth_id=A-3"),
        }
    }
}
