//! A survey in each of its forms.

use crate::{RecordingNames, Theme};
use faithful_clerk_insight::survey::Survey;

/// For a terminal.
#[must_use]
pub fn terminal(survey: &Survey, names: RecordingNames<'_>, theme: Theme) -> String {
    super::page::page(survey, names).terminal(theme)
}

/// The survey without its tables, for a terminal.
#[must_use]
pub fn overview(survey: &Survey, names: RecordingNames<'_>, theme: Theme) -> String {
    super::page::overview(survey, names).terminal(theme)
}

/// As a page for a browser.
///
/// # Errors
/// Only if our own template is wrong.
pub fn html(survey: &Survey, names: RecordingNames<'_>) -> Result<String, crate::html::Error> {
    crate::html::document("Survey", &super::page::page(survey, names))
}

/// As Markdown.
#[must_use]
pub fn markdown(survey: &Survey, names: RecordingNames<'_>) -> String {
    super::page::page(survey, names).markdown()
}
