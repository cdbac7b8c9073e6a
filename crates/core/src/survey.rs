//! What recordings show by themselves, and the contract that can be drafted from it.

use faithful_clerk_contract::ErrorContract;
use faithful_clerk_insight::draft::{self as drafting, Draft};
use faithful_clerk_insight::survey::{Survey, SurveyCollector, SurveyedEndpoint};
use faithful_clerk_model::address::RecordingNames;
use faithful_clerk_recording::Traversal;

use crate::{ReadError, Recording};

/// Surveys recordings without a contract: endpoints are inferred from paths, shapes from bodies.
///
/// ```
/// use faithful_clerk_core::{Recording, survey};
///
/// let recording = "GET /berths/7 HTTP/1.1\r\nHost: harbour.example\r\n\r\n\
///     HTTP/1.1 404 Not Found\r\nContent-Type: application/json\r\nContent-Length: 19\r\n\r\n{\"error\":\"unknown\"}";
/// let survey = survey([Recording::new("a.http", recording.as_bytes())]);
/// assert_eq!((survey.exchanges(), survey.errors()), (1, 1));
/// assert_eq!(survey.endpoints()[0].method, "GET");
/// ```
#[must_use]
pub fn survey<'r>(recordings: impl IntoIterator<Item = Recording<'r>>) -> SurveyResult {
    let contract = ErrorContract::default();
    let (mut survey, mut names) = (SurveyCollector::new(&contract), Vec::new());
    for (at, Recording { name, source }) in (0..).zip(recordings) {
        Traversal::default().visit_in_order(source, at, &mut survey);
        names.push(name);
    }
    SurveyResult { survey: survey.data.conclude(), names }
}

/// Drafts a contract from a survey. It parses, and a comment that starts with `decide:` stands where people have to decide.
/// What [`check`](crate::check) finds wrong with the surveyed recordings is not asked about here; `fclerk draft` does that.
///
/// ```
/// use faithful_clerk_core::{Contract, Recording, draft, survey};
///
/// let recording = "GET /berths HTTP/1.1\r\nHost: harbour.example\r\n\r\nHTTP/1.1 200 OK\r\nContent-Length: 2\r\n\r\n[]";
/// let draft = draft(&survey([Recording::new("a.http", recording.as_bytes())]));
/// let contract = Contract::parse(&draft.text).unwrap();
/// assert_eq!(contract.endpoints().collect::<Vec<_>>(), ["GET /berths"]);
/// ```
#[must_use]
pub fn draft(survey: &SurveyResult) -> Draft {
    drafting::draft(&survey.survey, RecordingNames(&survey.names), None)
}

/// What a survey found.
#[derive(Debug)]
pub struct SurveyResult {
    survey: Survey,
    names: Vec<String>,
}

impl SurveyResult {
    /// How many exchanges were surveyed.
    #[must_use]
    pub fn exchanges(&self) -> u64 {
        self.survey.exchanges
    }

    /// How many of them are errors.
    #[must_use]
    pub fn errors(&self) -> u64 {
        self.survey.errors
    }

    /// The inferred endpoints, and the routes and methods that turned out not to be offered.
    #[must_use]
    pub fn endpoints(&self) -> &[SurveyedEndpoint] {
        &self.survey.endpoints
    }

    /// What of the recordings could not be read, at most 50 parts of it.
    #[must_use]
    pub fn read_errors(&self) -> Vec<ReadError> {
        ReadError::all(&self.survey.unreadable, &self.names)
    }
}
