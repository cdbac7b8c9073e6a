//! A drafted contract for programs and for reviews.
//!
//! As JSON it is one object: `format` (`fclerk draft`), `version` (1), `contract`, the text, and `decide`, the questions in
//! it.

use faithful_clerk_insight::draft::Draft;
use serde_json::json;

use crate::json::pretty;
use crate::page::{Page, fenced, plain};

/// As JSON.
///
/// # Errors
/// Only if serde can't write what is text.
pub fn json(draft: &Draft) -> Result<String, serde_json::Error> {
    let Draft { text, decide } = draft;
    pretty(&json!({"format": "fclerk draft", "version": 1, "contract": text, "decide": decide}))
}

/// As Markdown: the questions, then the text.
#[must_use]
pub fn markdown(draft: &Draft) -> String {
    let Draft { text, decide } = draft;
    let mut page = Page::default();
    page.heading("To decide");
    if decide.is_empty() {
        page.text(vec![plain("Nothing.")]);
    }
    for question in decide {
        page.item(vec![plain(question)]);
    }
    page.heading("The contract");
    format!("{}\n{}", page.markdown(), fenced("toml", text))
}
