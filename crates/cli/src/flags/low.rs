//! The command line, as it is typed.

use std::num::NonZero;
use std::path::PathBuf;
use std::str::FromStr;

use clap::builder::{PossibleValuesParser, TypedValueParser};
use clap::{Args, Parser, Subcommand, ValueEnum};
use faithful_clerk_core::{Format as Recorded, ReadOptions, Scope};

use super::probe::ProbeArgs;
use super::record::RecordArgs;
use super::reports::{CheckReportArgs, GateArgs, ReportArgs};

const EXIT_CODES: &str = "Exit codes: 0 every clause kept (lapses and remarks allowed), 1 breaches, \
    2 the call or the contract is wrong, 3 a recording could not be read to its end.";

const READ_CODES: &str = "Exit codes: 0 done, 2 the call or the contract is wrong, 3 a recording could not be \
    read to its end.";

const COVERAGE_CODES: &str = "Exit codes: 0 done, 1 less was tried than asked for, 2 the call or the \
    contract is wrong, 3 a recording could not be read to its end.";

const COMPARE_CODES: &str = "Exit codes: 0 nothing got worse, 1 something did (of environments and callers: \
    they are at odds), 2 the call or the contract is wrong, or nothing was asked in both, 3 a recording could not \
    be read to its end.";

/// Checks recorded HTTP exchanges of a JSON service against a declared error contract.
#[derive(Debug, Parser)]
#[command(name = "fclerk", version, after_help = EXIT_CODES, max_term_width = 100)]
pub(crate) struct Flags {
    /// Use colour: when writing to a terminal, always, or never
    #[arg(long, value_name = "WHEN", value_enum, default_value_t = ColorChoice::Auto, global = true)]
    pub(crate) color: ColorChoice,
    /// Write no result of checks, surveys and comparisons: the exit code and report files tell it
    #[arg(long, short, global = true, conflicts_with = "verbose")]
    pub(crate) quiet: bool,
    /// Say on standard error what is being done, with times
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
    /// Add up the ledgers of several checks, as if all had been checked at once
    Merge(MergeArgs),
    /// Find out what a service's errors look like, from recordings alone
    Survey(SurveyArgs),
    /// Draft a contract from recordings, with the evidence and what is to be decided
    Draft(DraftArgs),
    /// Lay out one exchange, with its findings at the lines they concern and the answer that was agreed
    Show(ShowArgs),
    /// Say which error situations were tried, which were not, and what to try next
    Coverage(CoverageArgs),
    /// Compare two recordings: what was mended, what got worse, which success answers broke
    Compare(CompareArgs),
    /// Send the requests that must be refused to a running service, record what comes, and check it
    Probe(ProbeArgs),
    /// Stand between clients and a running service, pass everything on, and write what passed into a recording
    Record(RecordArgs),
    /// Write recordings in another form: HAR, HAR lines, HTTP messages, WARC
    Convert(ConvertArgs),
    /// Copy recordings without their secrets: what is left can be committed or sent
    Scrub(ScrubArgs),
    /// Write the contract as documentation: a page for each problem type, at the path of its URI
    Handbook(HandbookArgs),
    /// Say what the clauses ask, why, and how to mend a service that breaks one
    Explain(ExplainArgs),
    /// Try, check, mend and compare a made-up harbour's service; all of it lands in a folder
    Demo(DemoArgs),
    /// Write the completions of a shell to standard output
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
    /// How to write the result
    #[arg(long, value_enum, default_value_t = OutputFormat::Text)]
    pub(crate) format: OutputFormat,
    #[command(flatten)]
    pub(crate) reports: CheckReportArgs,
    #[command(flatten)]
    pub(crate) gate: GateArgs,
    /// How many threads work [default: one for each core]
    #[arg(long, value_name = "N")]
    pub(crate) threads: Option<NonZero<usize>>,
    /// A recording, and the environment it was made in; errors in different environments are compared
    #[arg(long = "as", value_name = "NAME=FILE")]
    pub(crate) recorded_in: Vec<EnvironmentName>,
    /// Files, folders that hold some, or `-` for standard input
    #[arg(required_unless_present = "environments", value_name = "RECORDING")]
    pub(crate) recordings: Vec<PathBuf>,
    #[command(flatten)]
    pub(crate) reading: RecordingArgs,
}

/// How recordings are opened, in every command that reads some.
#[derive(Debug, Args)]
pub(crate) struct FormatArgs {
    /// What the recordings are [default: what their content tells]
    #[arg(long, value_name = "FORMAT", value_parser = format())]
    pub(crate) from: Option<Recorded>,
    /// The largest exchange that is read, in MiB; a larger one is named and skipped
    #[arg(long, value_name = "MIB", default_value_t = 64, value_parser = clap::value_parser!(u64).range(1..=4096))]
    pub(crate) max_exchange: u64,
}

/// How recordings are read, in every command that looks at exchanges.
#[derive(Debug, Args)]
pub(crate) struct RecordingArgs {
    #[command(flatten)]
    pub(crate) opened: FormatArgs,
    /// Look at everything: other hosts, preflights, pages and what they load, too
    #[arg(long)]
    pub(crate) all: bool,
}

fn format() -> impl TypedValueParser<Value = Recorded> {
    let known = PossibleValuesParser::new(Recorded::ALL.map(Recorded::name));
    known.try_map(|name| Recorded::from_str(&name))
}

impl FormatArgs {
    /// How a recording is opened.
    pub(crate) fn opening(&self) -> ReadOptions {
        let largest = usize::try_from(self.max_exchange << 20).unwrap_or(usize::MAX);
        ReadOptions { format: self.from, max_exchange: largest }
    }
}

impl RecordingArgs {
    /// Which exchanges are looked at.
    pub(crate) fn scope(&self) -> Scope {
        if self.all { Scope::Everything } else { Scope::Service }
    }
}

/// What the commands that look at recordings have in common.
#[derive(Debug, Args)]
pub(crate) struct AnalysisArgs {
    /// How to write the result
    #[arg(long, value_enum, default_value_t = OutputFormat::Text)]
    pub(crate) format: OutputFormat,
    /// How many threads work [default: one for each core]
    #[arg(long, value_name = "N")]
    pub(crate) threads: Option<NonZero<usize>>,
    /// Files, folders that hold some, or `-` for standard input
    #[arg(required = true, value_name = "RECORDING")]
    pub(crate) recordings: Vec<PathBuf>,
    #[command(flatten)]
    pub(crate) reading: RecordingArgs,
}

#[derive(Debug, Args)]
#[command(after_help = EXIT_CODES)]
pub(crate) struct MergeArgs {
    /// The contract that the ledgers were made by [default: error-contract.toml, here or in the nearest folder
    /// above]
    #[arg(long, value_name = "FILE")]
    pub(crate) contract: Option<PathBuf>,
    /// How to write the result
    #[arg(long, value_enum, default_value_t = OutputFormat::Text)]
    pub(crate) format: OutputFormat,
    #[command(flatten)]
    pub(crate) reports: CheckReportArgs,
    #[command(flatten)]
    pub(crate) gate: GateArgs,
    /// Ledgers of checks, as `check --report ledger=FILE` writes them
    #[arg(required = true, value_name = "LEDGER")]
    pub(crate) ledgers: Vec<PathBuf>,
}

#[derive(Debug, Args)]
#[command(after_help = READ_CODES)]
pub(crate) struct SurveyArgs {
    /// A contract that decides about servers and endpoints; they are inferred without one
    #[arg(long, value_name = "FILE", conflicts_with = "openapi")]
    pub(crate) contract: Option<PathBuf>,
    /// An OpenAPI description that decides about endpoints
    #[arg(long, value_name = "FILE")]
    pub(crate) openapi: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) reports: ReportArgs,
    #[command(flatten)]
    pub(crate) looking: AnalysisArgs,
}

#[derive(Debug, Args)]
#[command(after_help = READ_CODES)]
pub(crate) struct DraftArgs {
    /// An OpenAPI description that decides about endpoints; the contract will name it
    #[arg(long, value_name = "FILE")]
    pub(crate) openapi: Option<PathBuf>,
    /// The file to write the contract into; one that is there is never written over [default: standard
    /// output]
    #[arg(long, value_name = "FILE")]
    pub(crate) output: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) looking: AnalysisArgs,
}

#[derive(Debug, Args)]
#[command(after_help = READ_CODES)]
pub(crate) struct ShowArgs {
    /// The contract [default: error-contract.toml, if it is here or above]
    #[arg(long, value_name = "FILE")]
    pub(crate) contract: Option<PathBuf>,
    /// How to write the result
    #[arg(long, value_enum, default_value_t = OutputFormat::Text)]
    pub(crate) format: OutputFormat,
    /// Only the messages as they were sent, secrets masked
    #[arg(long, conflicts_with_all = ["format", "contract"])]
    pub(crate) raw: bool,
    /// The address of an exchange, such as before.har#29, or -#29 in standard input
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
        at.ok_or("write it as in before.har#29; exchanges are numbered from 1")
    }
}

#[derive(Debug, Args)]
#[command(after_help = COVERAGE_CODES)]
pub(crate) struct CoverageArgs {
    /// The contract [default: error-contract.toml, here or in the nearest folder above]
    #[arg(long, value_name = "FILE")]
    pub(crate) contract: Option<PathBuf>,
    /// Exit with 1 if less than this part was tried
    #[arg(long, value_name = "PERCENT", value_parser = clap::value_parser!(u64).range(0..=100))]
    pub(crate) at_least: Option<u64>,
    #[command(flatten)]
    pub(crate) reports: ReportArgs,
    #[command(flatten)]
    pub(crate) looking: AnalysisArgs,
}

#[derive(Debug, Args)]
#[command(after_help = COMPARE_CODES)]
pub(crate) struct CompareArgs {
    /// A contract: which findings went, and which came [default: error-contract.toml, if it is here or above]
    #[arg(long, value_name = "FILE")]
    pub(crate) contract: Option<PathBuf>,
    /// What the two recordings are: one service at two times, two environments, or two callers
    #[arg(long, value_name = "WHAT", value_enum, default_value_t = ComparedSubject::Versions)]
    pub(crate) between: ComparedSubject,
    /// How to write the result
    #[arg(long, value_enum, default_value_t = OutputFormat::Text)]
    pub(crate) format: OutputFormat,
    /// How many threads work [default: one for each core]
    #[arg(long, value_name = "N")]
    pub(crate) threads: Option<NonZero<usize>>,
    #[command(flatten)]
    pub(crate) reports: ReportArgs,
    /// The first: a file, a folder that holds some, or `-` for standard input
    pub(crate) before: PathBuf,
    /// The second, of the same service
    pub(crate) after: PathBuf,
    #[command(flatten)]
    pub(crate) reading: RecordingArgs,
}

#[derive(Debug, Args)]
#[command(after_help = READ_CODES)]
pub(crate) struct ConvertArgs {
    /// The form to write
    #[arg(long, value_name = "FORMAT", value_parser = format())]
    pub(crate) to: Recorded,
    /// The file to write into; one that is there is never written over, and one called .gz or .zst is packed
    /// [default: standard output]
    #[arg(long, value_name = "FILE")]
    pub(crate) output: Option<PathBuf>,
    /// Files, folders that hold some, or `-` for standard input
    #[arg(required = true, value_name = "RECORDING")]
    pub(crate) recordings: Vec<PathBuf>,
    #[command(flatten)]
    pub(crate) opened: FormatArgs,
}

#[derive(Debug, Args)]
#[command(after_help = READ_CODES)]
pub(crate) struct ScrubArgs {
    /// A contract that declares secrets of its own [default: error-contract.toml, if it is here or above]
    #[arg(long, value_name = "FILE")]
    pub(crate) contract: Option<PathBuf>,
    /// The file to write into, or the folder for several; nothing that is there is written over [default:
    /// standard output]
    #[arg(long, value_name = "PATH")]
    pub(crate) output: Option<PathBuf>,
    /// The environment variable with the key that marks depend on: the same key gives the same marks the next
    /// time [default: a key of chance for this call]
    #[arg(long, value_name = "VARIABLE")]
    pub(crate) key_env: Option<String>,
    /// Files, folders that hold some, or `-` for standard input
    #[arg(required = true, value_name = "RECORDING")]
    pub(crate) recordings: Vec<PathBuf>,
    #[command(flatten)]
    pub(crate) opened: FormatArgs,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum ComparedSubject {
    /// The second is better or worse than the first
    Versions,
    /// Neither is right by itself
    Environments,
    /// What says who they are makes no difference between requests
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
            _ => Err("write it as in production=live.har"),
        }
    }
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum OutputFormat {
    /// For people
    Text,
    /// For programs
    Json,
    /// For reviews and tickets
    Markdown,
}

#[derive(Debug, Args)]
pub(crate) struct ExplainArgs {
    /// A clause, such as problem.status-agrees; all of them in a table without it
    pub(crate) clause: Option<String>,
    /// How to write them: for a terminal, or all of them in full as a Markdown page
    #[arg(long, value_enum, default_value_t = ExplainFormat::Text, conflicts_with = "clause")]
    pub(crate) format: ExplainFormat,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum ExplainFormat {
    Text,
    Markdown,
}

#[derive(Debug, Args)]
pub(crate) struct DemoArgs {
    /// The folder to write into; it is made if it is not there
    #[arg(long, value_name = "DIR", default_value = "saltmarsh-harbour")]
    pub(crate) output: PathBuf,
    /// Only write the contract and the recordings, and run nothing
    #[arg(long, conflicts_with = "serve")]
    pub(crate) files_only: bool,
    /// Write nothing, and serve the harbour on loopback instead: as it was, or mended
    #[arg(long, value_name = "STATE", value_enum, conflicts_with = "into")]
    pub(crate) serve: Option<DemoService>,
    /// The port to serve on; 0 for any that is free
    #[arg(long, value_name = "PORT", default_value_t = crate::commands::serve::PORT, requires = "serve")]
    pub(crate) port: u16,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum DemoService {
    /// Before its errors were mended
    Before,
    /// After that, with one thing still wrong
    After,
}

#[derive(Debug, Args)]
pub(crate) struct HandbookArgs {
    /// The contract [default: error-contract.toml, here or in the nearest folder above]
    #[arg(long, value_name = "FILE")]
    pub(crate) contract: Option<PathBuf>,
    /// The folder to write output: a new or empty one, or that of an earlier handbook
    #[arg(long, value_name = "DIR", default_value = "handbook")]
    pub(crate) into: PathBuf,
}

#[derive(Debug, Args)]
pub(crate) struct CompletionsArgs {
    /// The shell
    #[arg(value_enum)]
    pub(crate) shell: clap_complete::Shell,
}

#[derive(Debug, Args)]
pub(crate) struct ManualArgs {
    /// The folder to write into; it is made if it is not there
    #[arg(long, value_name = "DIR", default_value = "man")]
    pub(crate) output: PathBuf,
}

#[cfg(test)]
#[path = "tests.rs"]
mod tests;
