//! What can be called: `low` is what was typed, `high` what follows from it and from where we run.

mod high;
mod low;
mod probe;
mod record;
mod reports;
mod values;

pub(crate) use high::OutputSettings;
pub(crate) use low::{
    AnalysisArgs, CheckArgs, Command, CompareArgs, ComparedSubject, CompletionsArgs, ConvertArgs,
    CoverageArgs, DEMO_PORT, DemoArgs, DemoService, DraftArgs, ExplainArgs, ExplainFormat, Flags,
    FormatArgs, HandbookArgs, ManualArgs, MergeArgs, PartArgs, ScrubArgs, ShowArgs, SurveyArgs,
};
pub(crate) use probe::{NamedValue, ProbeArgs};
pub(crate) use record::{RecordArgs, ServiceUrl};
pub(crate) use reports::{CheckOutputArgs, GateArgs, OutputFormat, ReportFile, ReportFormat};
