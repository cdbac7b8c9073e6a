//! The command line of `record`.

use std::net::SocketAddr;
use std::path::PathBuf;

use clap::Args;

const RECORD_CODES: &str = "Exit codes: 0 done (with --contract: every clause kept), 1 breaches, 2 the call or the \
    contract is wrong, 3 something could not be written into the recording.";

#[derive(Debug, Args)]
#[command(after_help = RECORD_CODES)]
pub(crate) struct RecordArgs {
    /// The service that everything is passed on to
    #[arg(long, value_name = "URL")]
    pub(crate) upstream: String,
    /// The recording to write: HAR lines as exchanges pass, or HAR at the end if it is called .har; one that is
    /// there is never written over
    #[arg(long, value_name = "FILE")]
    pub(crate) output: PathBuf,
    /// Where clients are let in; port 0 for any that is free
    #[arg(long, value_name = "ADDRESS:PORT", default_value = "127.0.0.1:7979")]
    pub(crate) listen: SocketAddr,
    /// Let in clients from other machines, too: without it, --listen takes an address of loopback only
    #[arg(long)]
    pub(crate) allow_remote_clients: bool,
    /// Judge each exchange as it passes, by this contract
    #[arg(long, value_name = "FILE")]
    pub(crate) contract: Option<PathBuf>,
    /// Replace secrets before they are written; those that --contract declares, too
    #[arg(long)]
    pub(crate) scrub: bool,
    /// The environment variable with the key that marks of secrets depend on [default: a key of chance]
    #[arg(long, value_name = "VARIABLE", requires = "scrub")]
    pub(crate) key_env: Option<String>,
    /// So many seconds an answer is waited for, and for each part of it
    #[arg(long, value_name = "SECONDS", default_value_t = 60, value_parser = clap::value_parser!(u64).range(1..=3600))]
    pub(crate) timeout: u64,
    /// The largest body that is kept, in MiB; a larger one passes, and its size is kept
    #[arg(long, value_name = "MIB", default_value_t = 16, value_parser = clap::value_parser!(u64).range(0..=64))]
    pub(crate) max_body: u64,
}
