//! The command line, as it is typed.

use std::num::{NonZero, NonZeroU32};
use std::path::{Path, PathBuf};
use std::str::FromStr;
use std::sync::Arc;

use clap::builder::{PossibleValuesParser, TypedValueParser};
use clap::{Args, Parser, Subcommand, ValueEnum};
use faithful_clerk_check::ledger::LedgerOrigin;
use faithful_clerk_contract::Scope;
use faithful_clerk_recording::{Format as Recorded, ReadOptions};

use super::probe::ProbeArgs;
use super::record::RecordArgs;
use super::reports::{CheckOutputArgs, OutputFormat, ReportArgs};
use super::values::LoadedMap;

/// The usual port of the demo's service.
pub(crate) const DEMO_PORT: u16 = 7878;

const EXIT_CODES: &str = "Exit codes: 0 every clause met (warnings and notes allowed), 1 breaches, 2 usage or contract error, 3 a recording could not be read to its end.";

const READ_CODES: &str =
    "Exit codes: 0 done, 2 usage or contract error, 3 a recording could not be read to its end.";

const COVERAGE_CODES: &str = "Exit codes: 0 done, 1 less is covered than --at-least asks for, 2 usage or contract error, 3 a recording could not be read to its end.";

const SCRUB_CODES: &str = "Exit codes: 0 done, 2 usage or contract error, 3 something could not be looked into, and was blanked.";

const SHOW_CODES: &str = "Exit codes: 0 done, 2 usage or contract error, 3 the exchange could not be read, or a body of it could not be looked into for secrets and is not shown as it is.";

const COMPARE_CODES: &str = "Exit codes: 0 nothing regressed, 1 something regressed (between environments or callers: they differ), 2 usage or contract error, or nothing was compared, 3 a recording could not be read to its end, or holds more different responses than are kept.";

/// Checks recorded HTTP exchanges of a JSON service against a declared error contract.
#[derive(Debug, Parser)]
#[command(name = "fclerk", version, after_help = EXIT_CODES, max_term_width = 100)]
pub(crate) struct Flags {
    /// Use colour: when writing to a terminal, always, or never
    #[arg(long, value_name = "WHEN", value_enum, default_value_t = ColorChoice::Auto, global = true)]
    pub(crate) color: ColorChoice,
    /// Print no result; the exit code and the report files carry it
    #[arg(long, short, global = true, conflicts_with = "verbose")]
    pub(crate) quiet: bool,
    /// Report each step on standard error
    #[arg(long, short, global = true)]
    pub(crate) verbose: bool,
    #[command(subcommand)]
    pub(crate) command: Command,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum ColorChoice {
    Auto,
    Always,
    Never,
}

#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    /// Check recordings against a contract: a grid, the findings, the totals
    Check(CheckArgs),
    /// Add up the ledgers of several checks or surveys, as if everything had been read at once
    Merge(MergeArgs),
    /// Find out what a service's errors look like, from recordings alone
    Survey(SurveyArgs),
    /// Draft a contract from recordings, with its evidence and the decisions to make
    Draft(DraftArgs),
    /// Lay out one exchange, with each finding at the line it concerns and the expected response
    Show(ShowArgs),
    /// Show which error situations are covered by recordings or by ledgers of checks, which are not, and what to try next
    Coverage(CoverageArgs),
    /// Compare two recordings: what was fixed, what regressed, which success responses broke
    Compare(CompareArgs),
    /// Send a running service the requests that it must refuse; record and check the responses
    Probe(ProbeArgs),
    /// Record the traffic between clients and a running service, as a proxy
    Record(RecordArgs),
    /// Convert recordings to another format: HAR, JSON Lines of HAR entries, HTTP messages, WARC
    Convert(ConvertArgs),
    /// Copy recordings without their secrets, so that they can be committed or sent
    Scrub(ScrubArgs),
    /// Write the contract as documentation: a page for each problem type, at the path of its URI
    Handbook(HandbookArgs),
    /// Explain what a clause asks, why, and how to fix a service that breaks it
    Explain(ExplainArgs),
    /// Walk through the whole job on a made-up harbour's service; everything is kept in a folder
    Demo(DemoArgs),
    /// Print completions for a shell
    Completions(CompletionsArgs),
    /// Write the manual pages into a folder
    Manual(ManualArgs),
}

#[derive(Debug, Args)]
#[command(after_help = EXIT_CODES)]
pub(crate) struct CheckArgs {
    /// The contract [default: error-contract.toml, here or in the nearest folder above]
    #[arg(long, value_name = "FILE")]
    pub(crate) contract: Option<PathBuf>,
    /// The service's OpenAPI description, in place of a contract; with --contract-only: tell where the two disagree
    #[arg(long, value_name = "FILE")]
    pub(crate) openapi: Option<PathBuf>,
    /// Read only the contract and the files that it names, and report every error and warning in them
    #[arg(long, conflicts_with_all = ["recordings", "recorded_in", "files", "baseline", "write_waivers"])]
    pub(crate) contract_only: bool,
    /// With --contract-only: print the contract as it is understood, every endpoint with its faults by situation
    #[arg(long, requires = "contract_only")]
    pub(crate) resolved: bool,
    #[command(flatten)]
    pub(crate) results: CheckOutputArgs,
    /// Print the ledger, in one line, for `fclerk merge`, and exit with 0 whatever was found
    #[arg(long, conflicts_with_all = ["contract_only", "quiet", "format"])]
    pub(crate) ledger: bool,
    /// The day by which waivers are in force or expired [default: today, in UTC]
    #[arg(long, value_name = "DATE", value_parser = super::values::date)]
    pub(crate) today: Option<jiff::civil::Date>,
    #[command(flatten)]
    pub(crate) part: PartArgs,
    /// Number of threads [default: one per core]
    #[arg(long, value_name = "N")]
    pub(crate) threads: Option<NonZero<usize>>,
    /// A recording and the environment it was made in; errors are compared across environments
    #[arg(long, value_name = "NAME=FILE")]
    pub(crate) recorded_in: Vec<EnvironmentName>,
    /// Files, folders of recordings, or `-` for standard input
    #[arg(required_unless_present_any = ["recorded_in", "contract_only"], value_name = "RECORDING")]
    pub(crate) recordings: Vec<PathBuf>,
    #[command(flatten)]
    pub(crate) reading: RecordingArgs,
}

/// What is said of one part of the recordings, so that it can be added to others.
#[derive(Debug, Args)]
pub(crate) struct PartArgs {
    /// Name of the recording in addresses, such as one that comes by standard input
    #[arg(long, value_name = "NAME", conflicts_with = "part_of")]
    pub(crate) name: Option<String>,
    /// The recording that this is a part of: addresses are NAME#N
    #[arg(long, value_name = "NAME")]
    pub(crate) part_of: Option<String>,
    /// Number of the first exchange
    #[arg(long, value_name = "N", default_value_t = 1, value_parser = clap::value_parser!(u64).range(1..1 << 53))]
    pub(crate) first: u64,
}

/// How recordings are opened, in every command that reads some.
#[derive(Debug, Args)]
pub(crate) struct FormatArgs {
    /// Format of the recordings [default: recognised by content]
    #[arg(long, value_name = "FORMAT", value_parser = format())]
    pub(crate) from: Option<Recorded>,
    /// A map of lines of JSON that are no HAR entries: it says by JSON Pointers where method, URL, status, headers and bodies stand
    #[arg(long, value_name = "FILE", value_parser = super::values::line_map, conflicts_with = "from")]
    pub(crate) map: Option<LoadedMap>,
    /// Largest exchange to read, in MiB; a larger one is reported and skipped
    #[arg(long, value_name = "MIB", default_value_t = 64, value_parser = clap::value_parser!(u64).range(1..=4096))]
    pub(crate) max_exchange: u64,
}

/// How recordings are read, in every command that looks at exchanges.
#[derive(Debug, Args)]
pub(crate) struct RecordingArgs {
    #[command(flatten)]
    pub(crate) opened: FormatArgs,
    /// Include everything: other hosts, preflights, pages and what they load
    #[arg(long)]
    pub(crate) all: bool,
}

fn format() -> impl TypedValueParser<Value = Recorded> {
    let known = PossibleValuesParser::new(Recorded::ALL.map(Recorded::name));
    known.try_map(|name| Recorded::from_str(&name))
}

impl FormatArgs {
    /// The format of the recordings, where the call says it.
    pub(crate) fn format(&self) -> Option<Recorded> {
        self.from.or(self.map.as_ref().map(|_| Recorded::JsonLines))
    }

    /// The file of the map, where there is one.
    pub(crate) fn map_path(&self) -> Option<&Path> {
        self.map.as_ref().map(|map| map.path.as_path())
    }

    /// How a recording is opened.
    pub(crate) fn opening(&self) -> ReadOptions {
        let largest = usize::try_from(self.max_exchange << 20).unwrap_or(usize::MAX);
        let map = self.map.as_ref().map(|map| Arc::clone(&map.map));
        let format = self.format();
        ReadOptions { format, map, max_exchange: largest, ..ReadOptions::default() }
    }
}

impl RecordingArgs {
    /// How recordings are read, as a ledger says it.
    pub(crate) fn origin(&self) -> LedgerOrigin {
        LedgerOrigin {
            program: env!("CARGO_PKG_VERSION").to_owned(),
            all: self.all,
            from: self.opened.from.map(|format| format.name().to_owned()),
            map: self.opened.map.as_ref().map(|map| map.digest.clone()),
            max_exchange: self.opened.max_exchange << 20,
            today: String::new(),
        }
    }

    /// Which exchanges are looked at.
    pub(crate) fn scope(&self) -> Scope {
        if self.all { Scope::Everything } else { Scope::Service }
    }
}

/// What the commands that look at recordings have in common.
#[derive(Debug, Args)]
pub(crate) struct AnalysisArgs {
    /// Output format
    #[arg(long, value_enum, default_value_t = OutputFormat::Text)]
    pub(crate) format: OutputFormat,
    /// Number of threads [default: one per core]
    #[arg(long, value_name = "N")]
    pub(crate) threads: Option<NonZero<usize>>,
    /// Files, folders of recordings, or `-` for standard input
    #[arg(required = true, value_name = "RECORDING")]
    pub(crate) recordings: Vec<PathBuf>,
    #[command(flatten)]
    pub(crate) reading: RecordingArgs,
}

#[derive(Debug, Args)]
#[command(after_help = EXIT_CODES)]
pub(crate) struct MergeArgs {
    /// The contract that the ledgers of checks were made with [default: error-contract.toml, here or in the nearest folder above]
    #[arg(long, value_name = "FILE")]
    pub(crate) contract: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) results: CheckOutputArgs,
    /// Print the sum as a ledger, in one line, and exit with 0 whatever was found
    #[arg(long, conflicts_with_all = ["quiet", "format"])]
    pub(crate) ledger: bool,
    /// How many ledgers there have to be
    #[arg(long, value_name = "N")]
    pub(crate) expect: Option<u64>,
    /// Count the same bytes twice, where two ledgers hold them
    #[arg(long)]
    pub(crate) allow_duplicates: bool,
    /// Ledgers, as `check --ledger` and `survey --ledger` print and `check --report ledger=FILE` writes them: files of one or many, folders, or `-` for standard input
    #[arg(required = true, value_name = "LEDGER")]
    pub(crate) ledgers: Vec<PathBuf>,
}

#[derive(Debug, Args)]
#[command(after_help = READ_CODES)]
pub(crate) struct SurveyArgs {
    /// A contract that defines servers and endpoints; without one they are inferred
    #[arg(long, value_name = "FILE", conflicts_with = "openapi")]
    pub(crate) contract: Option<PathBuf>,
    /// An OpenAPI description that defines the endpoints
    #[arg(long, value_name = "FILE")]
    pub(crate) openapi: Option<PathBuf>,
    /// Print what was gathered as a ledger, in one line, for `fclerk merge` and `fclerk draft --from-ledger`
    #[arg(long, conflicts_with_all = ["quiet", "format", "files"])]
    pub(crate) ledger: bool,
    #[command(flatten)]
    pub(crate) part: PartArgs,
    #[command(flatten)]
    pub(crate) reports: ReportArgs,
    #[command(flatten)]
    pub(crate) looking: AnalysisArgs,
}

#[derive(Debug, Args)]
#[command(after_help = READ_CODES)]
pub(crate) struct DraftArgs {
    /// An OpenAPI description that defines the endpoints; the contract will name it
    #[arg(long, value_name = "FILE")]
    pub(crate) openapi: Option<PathBuf>,
    /// File to write the contract to; an existing one is never overwritten [default: standard output]
    #[arg(long, short, value_name = "FILE")]
    pub(crate) output: Option<PathBuf>,
    /// What is given are ledgers, as `survey --ledger` prints them: files of one or many, folders, or `-` for standard input
    #[arg(long, conflicts_with_all = ["all", "from", "map", "max_exchange", "threads"])]
    pub(crate) from_ledger: bool,
    #[command(flatten)]
    pub(crate) looking: AnalysisArgs,
}

#[derive(Debug, Args)]
#[command(after_help = SHOW_CODES)]
pub(crate) struct ShowArgs {
    /// The contract [default: error-contract.toml, if it is here or above]
    #[arg(long, value_name = "FILE")]
    pub(crate) contract: Option<PathBuf>,
    /// The service's OpenAPI description, in place of a contract
    #[arg(long, value_name = "FILE", conflicts_with = "contract")]
    pub(crate) openapi: Option<PathBuf>,
    /// Output format
    #[arg(long, value_enum, default_value_t = OutputFormat::Text)]
    pub(crate) format: OutputFormat,
    /// Print only the messages as they were sent, with secrets masked
    #[arg(long, conflicts_with_all = ["format", "contract"])]
    pub(crate) raw: bool,
    /// Address of an exchange, such as before.har#29, or -#29 for standard input
    #[arg(value_name = "FILE#N", allow_hyphen_values = true)]
    pub(crate) address: ExchangeAddress,
    #[command(flatten)]
    pub(crate) reading: RecordingArgs,
}

/// `FILE#N`.
#[derive(Debug, Clone)]
pub(crate) struct ExchangeAddress {
    pub(crate) recording: PathBuf,
    pub(crate) number: NonZero<u64>,
}

impl FromStr for ExchangeAddress {
    type Err = &'static str;

    fn from_str(text: &str) -> Result<Self, Self::Err> {
        let parts = text.rsplit_once('#');
        let at = parts.and_then(|(file, number)| {
            let number = number.parse().ok()?;
            (!file.is_empty()).then(|| Self { recording: PathBuf::from(file), number })
        });
        at.ok_or("write FILE#N, as in before.har#29; exchanges are numbered from 1")
    }
}

#[derive(Debug, Args)]
#[command(after_help = COVERAGE_CODES)]
pub(crate) struct CoverageArgs {
    /// The contract [default: error-contract.toml, here or in the nearest folder above]
    #[arg(long, value_name = "FILE")]
    pub(crate) contract: Option<PathBuf>,
    /// The service's OpenAPI description, in place of a contract
    #[arg(long, value_name = "FILE", conflicts_with = "contract")]
    pub(crate) openapi: Option<PathBuf>,
    /// Exit with 1 if less than this percentage is covered
    #[arg(long, value_name = "PERCENT", value_parser = clap::value_parser!(u64).range(0..=100))]
    pub(crate) at_least: Option<u64>,
    /// Show every row of the grid, also the many endpoints that no exchange was for
    #[arg(long)]
    pub(crate) all_rows: bool,
    #[command(flatten)]
    pub(crate) reports: ReportArgs,
    #[command(flatten)]
    pub(crate) looking: AnalysisArgs,
}

#[derive(Debug, Args)]
#[command(after_help = COMPARE_CODES)]
pub(crate) struct CompareArgs {
    /// A contract, for new and fixed findings [default: error-contract.toml, if it is here or above]
    #[arg(long, value_name = "FILE")]
    pub(crate) contract: Option<PathBuf>,
    /// What differs between the recordings: versions of the service, environments or callers
    #[arg(long, value_name = "WHAT", value_enum, default_value_t = ComparedSubject::Versions)]
    pub(crate) between: ComparedSubject,
    /// Output format
    #[arg(long, value_enum, default_value_t = OutputFormat::Text)]
    pub(crate) format: OutputFormat,
    /// Number of threads [default: one per core]
    #[arg(long, value_name = "N")]
    pub(crate) threads: Option<NonZero<usize>>,
    #[command(flatten)]
    pub(crate) reports: ReportArgs,
    /// The first recording: a file, a folder of recordings, or `-` for standard input
    pub(crate) before: PathBuf,
    /// The second recording, of the same service
    pub(crate) after: PathBuf,
    #[command(flatten)]
    pub(crate) reading: RecordingArgs,
}

#[derive(Debug, Args)]
#[command(after_help = READ_CODES)]
pub(crate) struct ConvertArgs {
    /// Format to write
    #[arg(long, value_name = "FORMAT", value_parser = format())]
    pub(crate) to: Recorded,
    /// File to write; an existing one is never overwritten, and a name that ends in .gz or .zst compresses [default: standard output]
    #[arg(long, short, value_name = "FILE")]
    pub(crate) output: Option<PathBuf>,
    /// Files, folders of recordings, or `-` for standard input
    #[arg(required = true, value_name = "RECORDING")]
    pub(crate) recordings: Vec<PathBuf>,
    #[command(flatten)]
    pub(crate) opened: FormatArgs,
}

#[derive(Debug, Args)]
#[command(after_help = SCRUB_CODES)]
pub(crate) struct ScrubArgs {
    /// A contract that declares further secrets [default: error-contract.toml, if it is here or above]
    #[arg(long, value_name = "FILE")]
    pub(crate) contract: Option<PathBuf>,
    /// File to write, or a folder for several recordings; existing files are never overwritten [default: standard output]
    #[arg(long, short, value_name = "PATH")]
    pub(crate) output: Option<PathBuf>,
    /// Environment variable with the key for pseudonyms: the same key gives the same pseudonyms next time [default: a random key for this run]
    #[arg(long, value_name = "VARIABLE")]
    pub(crate) key_env: Option<String>,
    /// Replace what is of a person, too: e-mail addresses, telephone and card numbers, names under the usual member names
    #[arg(long)]
    pub(crate) personal: bool,
    /// Number of threads [default: one per core]
    #[arg(long, value_name = "N")]
    pub(crate) threads: Option<NonZero<usize>>,
    /// Files, folders of recordings, or `-` for standard input
    #[arg(required = true, value_name = "RECORDING")]
    pub(crate) recordings: Vec<PathBuf>,
    #[command(flatten)]
    pub(crate) opened: FormatArgs,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum ComparedSubject {
    /// The second is newer: changes are fixed or regressed
    Versions,
    /// Neither is the reference
    Environments,
    /// Credentials make no difference between requests
    Callers,
}

/// `NAME=FILE`.
#[derive(Debug, Clone)]
pub(crate) struct EnvironmentName {
    pub(crate) name: String,
    pub(crate) recording: PathBuf,
}

impl FromStr for EnvironmentName {
    type Err = &'static str;

    fn from_str(text: &str) -> Result<Self, Self::Err> {
        match text.split_once('=') {
            Some((name, file)) if !name.is_empty() && !file.is_empty() => {
                Ok(Self { name: name.to_owned(), recording: PathBuf::from(file) })
            }
            _ => Err("write NAME=FILE, as in production=live.har"),
        }
    }
}

#[derive(Debug, Args)]
pub(crate) struct ExplainArgs {
    /// A clause (problem.status-agrees), a family of clauses (problem), a situation (unknown-route), a key of contracts (any-request) or a fault of the contract that is here or above; without it, a table of all clauses
    #[arg(value_name = "NAME")]
    pub(crate) name: Option<String>,
    /// Print the JSON Schema of contracts, with which editors complete and check keys
    #[arg(long, conflicts_with_all = ["name", "format"])]
    pub(crate) contract_schema: bool,
    /// Output format: text for a terminal, or a Markdown page of all clauses in full
    #[arg(long, value_enum, default_value_t = ExplainFormat::Text, conflicts_with = "name")]
    pub(crate) format: ExplainFormat,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum ExplainFormat {
    Text,
    Markdown,
}

#[derive(Debug, Args)]
pub(crate) struct DemoArgs {
    /// Folder to write into; it is created if needed
    #[arg(long, short, value_name = "DIR", default_value = "saltmarsh-harbour")]
    pub(crate) output: PathBuf,
    /// Only write the contract and the recordings; run nothing
    #[arg(long, conflicts_with = "serve")]
    pub(crate) files_only: bool,
    /// Serve the harbour's service on loopback instead: before or after its errors were fixed
    #[arg(long, value_name = "STATE", value_enum, conflicts_with = "output")]
    pub(crate) serve: Option<DemoService>,
    /// Port to serve on; 0 for any free one
    #[arg(long, value_name = "PORT", default_value_t = DEMO_PORT, requires = "serve")]
    pub(crate) port: u16,
    /// Serve so many requests a second, and respond to the others with 429
    #[arg(long, value_name = "N", requires = "serve")]
    pub(crate) per_second: Option<NonZeroU32>,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum DemoService {
    /// Before its errors were fixed
    Before,
    /// After that, with one thing still wrong
    After,
}

#[derive(Debug, Args)]
pub(crate) struct HandbookArgs {
    /// The contract [default: error-contract.toml, here or in the nearest folder above]
    #[arg(long, value_name = "FILE")]
    pub(crate) contract: Option<PathBuf>,
    /// The service's OpenAPI description: in place of a contract or, with --output FILE.yaml or FILE.json, to be written with the contract's faults in it
    #[arg(long, value_name = "FILE")]
    pub(crate) openapi: Option<PathBuf>,
    /// Folder to write into: a new or empty one, or that of an earlier handbook; with --openapi, also a new description
    #[arg(long, short, value_name = "DIR", default_value = "handbook")]
    pub(crate) output: PathBuf,
}

#[derive(Debug, Args)]
pub(crate) struct CompletionsArgs {
    /// The shell
    #[arg(value_enum)]
    pub(crate) shell: clap_complete::Shell,
}

#[derive(Debug, Args)]
pub(crate) struct ManualArgs {
    /// Folder to write into; it is created if needed
    #[arg(long, short, value_name = "DIR", default_value = "man")]
    pub(crate) output: PathBuf,
}

#[cfg(test)]
#[path = "tests.rs"]
mod tests;
