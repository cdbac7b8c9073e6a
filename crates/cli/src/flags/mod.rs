//! What can be called: `low` is what was typed, `high` what follows from it and from where we run.

mod high;
mod low;

pub(crate) use high::Stage;
pub(crate) use low::{
    CheckCall, Command, CompareCall, CoverageCall, DemoCall, DraftCall, ExplainCall, Flags, Format,
    Looking, Output, Page, Reading, ShowCall, SurveyCall, What,
};
