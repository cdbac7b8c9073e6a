//! The values that the requests of a recording sent: only an id that is sent is worth following.

use std::collections::HashSet;
use std::hash::BuildHasher as _;

use foldhash::fast::FixedState;
use serde_json::Value;

use crate::survey::SurveyCollector;
use faithful_clerk_contract::{ErrorContract, RequestPath};
use faithful_clerk_model::exchange::{Exchange, RequestBody};
use faithful_clerk_model::json::Json;
use faithful_clerk_recording::{Unreadable, Visitor};

/// So many are told apart; with more, every value is taken for one that was sent.
const MOST_SENT: usize = 500_000;

/// Longer texts are no ids.
pub(super) const LONGEST_ID: usize = 64;

/// Values are nested no deeper in what people send.
const MOST_NESTED: usize = 16;

/// What one side's requests sent, as hashes.
#[derive(Debug, Clone, Default)]
pub(super) struct SentValues {
    texts: HashSet<u64, FixedState>,
    /// The whole numbers among them.
    integers: HashSet<i64, FixedState>,
    /// Were there too many to tell apart?
    is_full: bool,
}

impl SentValues {
    /// Was this text sent, as far as is known?
    pub(super) fn has_text(&self, text: &str) -> bool {
        self.is_full
            || (text.len() <= LONGEST_ID
                && self.texts.contains(&FixedState::default().hash_one(text)))
    }

    /// Was this number sent?
    pub(super) fn has_integer(&self, number: i64) -> bool {
        self.is_full || self.integers.contains(&number)
    }

    fn note(&mut self, text: &str) {
        if text.len() > LONGEST_ID || self.is_full {
            return;
        }
        self.texts.insert(FixedState::default().hash_one(text));
        self.integers.extend(text.parse::<i64>().ok());
        self.is_full = self.texts.len() > MOST_SENT;
    }

    fn note_body(&mut self, value: &Value, depth: usize) {
        match value {
            Value::String(text) => self.note(text),
            // By value: `10`, `10.0` and `1e1` are one number.
            Value::Number(number) => {
                let text = number.as_f64().map(|number| number.to_string());
                self.note(&text.unwrap_or_else(|| number.to_string()));
            }
            Value::Array(items) if depth < MOST_NESTED => {
                items.iter().for_each(|item| self.note_body(item, depth + 1));
            }
            Value::Object(members) if depth < MOST_NESTED => {
                members.values().for_each(|member| self.note_body(member, depth + 1));
            }
            _ => {}
        }
    }

    fn note_request(&mut self, exchange: &Exchange<'_>) {
        let request = &exchange.request;
        if let Some(target) = RequestPath::read(&request.url, &[]) {
            target.segments(false).iter().for_each(|segment| self.note(segment));
            target.query().for_each(|(_, value)| self.note(&value));
        }
        if let RequestBody::Present(content) = &request.body
            && let Ok(bytes) = content.decode()
            && let Json::Value(value) = Json::read(&bytes)
        {
            self.note_body(&value, 0);
        }
    }

    fn add(&mut self, other: Self) {
        self.texts.extend(other.texts);
        self.integers.extend(other.integers);
        self.is_full |= other.is_full || self.texts.len() > MOST_SENT;
    }
}

/// The first look at a side: what a survey gathers, and which values its requests sent. It adds up in any order.
#[derive(Debug)]
pub struct ComparisonSurvey<'c> {
    pub(super) survey: SurveyCollector<'c>,
    pub(super) sent: SentValues,
}

impl<'c> ComparisonSurvey<'c> {
    /// Nothing, yet.
    #[must_use]
    pub fn new(contract: &'c ErrorContract) -> Self {
        Self { survey: SurveyCollector::of_paths(contract), sent: SentValues::default() }
    }

    /// Adds what another worker gathered.
    pub fn add(&mut self, other: Self) {
        self.survey.data.add(other.survey.data);
        self.sent.add(other.sent);
    }
}

impl Visitor for ComparisonSurvey<'_> {
    fn exchange(&mut self, exchange: &Exchange<'_>) {
        self.sent.note_request(exchange);
        self.survey.exchange(exchange);
    }

    fn on_unreadable(&mut self, unreadable: Unreadable) {
        self.survey.on_unreadable(unreadable);
    }
}
