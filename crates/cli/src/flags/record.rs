//! The command line of `record`.

use std::ffi::OsString;
use std::net::SocketAddr;
use std::path::PathBuf;
use std::str::FromStr;

use clap::Args;

use super::reports::CheckOutputArgs;

const RECORD_CODES: &str = "Exit codes: 0 done (with --contract: every clause met), 1 breaches, 2 usage or contract error, 3 an exchange could not be recorded. With a command: its own exit code, unless that is 0.";

#[derive(Debug, Args)]
#[command(after_help = RECORD_CODES)]
pub(crate) struct RecordArgs {
    /// URL of the service to forward to; several services are NAME=URL each, and each has an address of its own
    #[arg(long, required_unless_present = "proxy", value_name = "URL")]
    pub(crate) upstream: Vec<ServiceUrl>,
    /// Be the clients' HTTP proxy instead, for clients that can't be told another URL; HTTPS is forwarded and not recorded
    #[arg(long, conflicts_with_all = ["upstream", "env"])]
    pub(crate) proxy: bool,
    /// Recording to write: JSON Lines of HAR entries as they come, or one HAR at the end if the name ends in .har; an existing file is never overwritten
    #[arg(long, short, value_name = "FILE")]
    pub(crate) output: PathBuf,
    /// Address to listen on; port 0 for any free one [default: 127.0.0.1:7979; with a command, any free port]
    #[arg(long, value_name = "ADDRESS:PORT", value_parser = super::values::address)]
    pub(crate) listen: Option<SocketAddr>,
    /// Accept clients from other machines; without it, --listen takes only loopback addresses
    #[arg(long)]
    pub(crate) allow_remote_clients: bool,
    /// Check each exchange against this contract as it comes
    #[arg(long, value_name = "FILE")]
    pub(crate) contract: Option<PathBuf>,
    /// The service's OpenAPI description, in place of a contract
    #[arg(long, value_name = "FILE", conflicts_with = "contract")]
    pub(crate) openapi: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) results: CheckOutputArgs,
    /// Replace secrets before they are written, including those that --contract declares
    #[arg(long)]
    pub(crate) scrub: bool,
    /// Environment variable with the key for pseudonyms [default: a random key]
    #[arg(long, value_name = "VARIABLE", requires = "scrub")]
    pub(crate) key_env: Option<String>,
    /// Replace what is of a person, too: e-mail addresses, telephone and card numbers, names
    #[arg(long, requires = "scrub")]
    pub(crate) personal: bool,
    /// Seconds to wait for a response, and for each part of it
    #[arg(long, value_name = "SECONDS", default_value_t = 60, value_parser = clap::value_parser!(u64).range(1..=3600))]
    pub(crate) timeout: u64,
    /// Largest body to record, in MiB; a larger one is forwarded and only its size recorded
    #[arg(long, value_name = "MIB", default_value_t = 16, value_parser = clap::value_parser!(u64).range(0..=64))]
    pub(crate) max_body: u64,
    /// With a command: the environment variable that tells it where to send its requests
    #[arg(long, value_name = "VARIABLE", default_value = "SERVICE_URL", requires = "command")]
    pub(crate) env: String,
    /// Command to run meanwhile, such as a test suite. It finds the service's address in SERVICE_URL, and in its arguments where they say `{url}`; that of a service with a name also in SERVICE_URL_NAME and `{url:NAME}`. With --proxy, HTTP_PROXY and HTTPS_PROXY name the proxy
    #[arg(last = true, value_name = "COMMAND")]
    pub(crate) command: Vec<OsString>,
}

/// A service to forward to, and what it is called where there are several.
#[derive(Debug, Clone)]
pub(crate) struct ServiceUrl {
    pub(crate) name: Option<String>,
    pub(crate) url: String,
}

impl FromStr for ServiceUrl {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, Self::Err> {
        let is_name = |name: &str| {
            name.starts_with(|c: char| c.is_ascii_alphabetic())
                && name.chars().all(|c| c.is_ascii_alphanumeric() || "-_".contains(c))
        };
        match text.split_once('=') {
            Some((name, url)) if is_name(name) => {
                Ok(Self { name: Some(name.to_owned()), url: super::values::url(url)? })
            }
            _ => Ok(Self { name: None, url: super::values::url(text)? }),
        }
    }
}
