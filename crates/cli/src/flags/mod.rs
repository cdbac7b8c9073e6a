//! What can be called: `low` is what was typed, `high` what follows from it and from where we run.

mod high;
mod low;
mod probe;
mod record;
mod reports;

pub(crate) use high::Stage;
pub(crate) use low::{
    CheckCall, Command, CompareCall, CompletionsCall, ConvertCall, CoverageCall, DemoCall,
    DraftCall, ExplainCall, Flags, HandbookCall, Looking, ManualCall, MergeCall, Opened, Output,
    Page, ScrubCall, Served, ShowCall, SurveyCall, What,
};
pub(crate) use probe::ProbeCall;
pub(crate) use record::RecordCall;
pub(crate) use reports::{GateFlags, Kind, ReportFile};
