//! What can be called: `low` is what was typed, `high` what follows from it and from where we run.

mod high;
mod low;

pub(crate) use high::Stage;
pub(crate) use low::{
    CheckCall, Command, CompareCall, ConvertCall, CoverageCall, DemoCall, DraftCall, ExplainCall,
    Flags, Format, Looking, Opened, Output, Page, ScrubCall, ShowCall, SurveyCall, What,
};
