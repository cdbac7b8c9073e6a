//! Values that several kinds of findings hold.

use std::fmt;

use serde::{Deserialize, Serialize};
use serde_json::Value;

use super::words::worded;
use super::{Detail, MismatchKind};
use crate::json::{JsonType, in_brief};

/// Text from a recording that varies from one exchange to the next; it is no part of a fingerprint.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub struct Recorded {
    recorded: String,
}

impl Recorded {
    /// The text as it stands.
    #[must_use]
    pub fn text(text: impl Into<String>) -> Self {
        Self { recorded: text.into() }
    }

    /// The text as a JSON string, in quotation marks.
    #[must_use]
    pub fn quoted(text: &str) -> Self {
        Self::text(Value::from(text).to_string())
    }

    /// A value in few words.
    #[must_use]
    pub fn brief(value: &Value) -> Self {
        Self::text(in_brief(value))
    }
}

impl fmt::Display for Recorded {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.recorded)
    }
}

impl Detail for Recorded {
    fn rewrite(&mut self, by: &dyn Fn(&str) -> Option<String>) {
        self.recorded.rewrite(by);
    }
}

/// A count or a time that varies from one recording to the next; it is no part of a fingerprint.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub struct Measured {
    recorded: u64,
}

impl Measured {
    /// So many.
    #[must_use]
    pub fn count(count: usize) -> Self {
        Self { recorded: count as u64 }
    }

    /// A time, to the millisecond; what is no time is none.
    #[must_use]
    pub fn milliseconds(time: f64) -> Self {
        // A cast of a float saturates.
        #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "it saturates")]
        let recorded = time.round() as u64;
        Self { recorded }
    }

    /// The number.
    #[must_use]
    pub fn number(self) -> u64 {
        self.recorded
    }
}

impl From<u64> for Measured {
    fn from(recorded: u64) -> Self {
        Self { recorded }
    }
}

impl fmt::Display for Measured {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.recorded.fmt(f)
    }
}

impl Detail for Measured {
    fn rewrite(&mut self, _: &dyn Fn(&str) -> Option<String>) {}
}

/// A JSON Pointer into a request or a response; a fingerprint leaves indexes and ids out.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub struct Pointer {
    pointer: String,
}

impl Pointer {
    /// The pointer.
    #[must_use]
    pub fn new(pointer: impl Into<String>) -> Self {
        Self { pointer: pointer.into() }
    }
}

impl fmt::Display for Pointer {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(if self.pointer.is_empty() { "the body as a whole" } else { &self.pointer })
    }
}

impl Detail for Pointer {
    fn rewrite(&mut self, by: &dyn Fn(&str) -> Option<String>) {
        self.pointer.rewrite(by);
    }
}

/// A fault and the status that it has.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub struct FaultStatus {
    /// The status code.
    pub status: u16,
    /// The fault's name.
    pub fault: String,
}

impl fmt::Display for FaultStatus {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} (fault {})", self.status, self.fault)
    }
}

impl Detail for FaultStatus {
    fn rewrite(&mut self, by: &dyn Fn(&str) -> Option<String>) {
        self.fault.rewrite(by);
    }
}

/// A text that a fault declares: its type, its title or its code.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub struct FaultText {
    /// The text, as it is shown.
    pub text: String,
    /// The fault's name.
    pub fault: String,
}

impl fmt::Display for FaultText {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} (fault {})", self.text, self.fault)
    }
}

impl Detail for FaultText {
    fn rewrite(&mut self, by: &dyn Fn(&str) -> Option<String>) {
        self.text.rewrite(by);
        self.fault.rewrite(by);
    }
}

worded! {
    /// A part of a request that can be invalid.
    pub enum FieldRef {
        /// A location in the body.
        Body(pointer: Pointer) => "{pointer}";
        /// A parameter: where it stands, and its name.
        Parameter(kind: String, name: String) => "{kind} parameter {name}";
    }
}

/// An invalid field, and what is wrong with it.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub struct InvalidField {
    /// The field.
    pub field: Pointer,
    /// What is wrong with it.
    pub kind: MismatchKind,
}

impl fmt::Display for InvalidField {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} is {}", self.field, self.kind.words())
    }
}

impl Detail for InvalidField {
    fn rewrite(&mut self, by: &dyn Fn(&str) -> Option<String>) {
        self.field.rewrite(by);
    }
}

worded! {
    /// An invalid parameter of a request: its name, and where it stands.
    pub enum InvalidParameterRef {
        /// It is missing.
        Missing(name: String, kind: String) => "{name} in the {kind} is missing";
        /// It breaks its rule.
        Invalid(name: String, kind: String) => "{name} in the {kind} breaks its rule";
        /// It has no rule, and such ones are refused.
        Unknown(name: String, kind: String) => "{name} in the {kind} is not declared";
        /// It stands more than once, and that is refused.
        Repeated(name: String, kind: String) => "{name} in the {kind} is repeated";
    }
}

worded! {
    /// What a body turned out to be.
    pub enum BodyForm {
        /// It is empty.
        Empty => "no body";
        /// It can't be read, for that reason.
        Unreadable(reason: String) => "{reason}";
        /// JSON, with this type at its top.
        Json(json: JsonType) => "{}", as_json(*json);
        /// Text that begins as JSON does and is none, for that reason.
        BrokenJson(reason: Recorded) => "broken JSON: {reason}";
        /// HTML.
        Html => "HTML";
        /// Any other text; its start.
        Text(start: Recorded) => "the text {start}";
    }
}

fn as_json(json: JsonType) -> String {
    match json {
        JsonType::Null => "the JSON null".to_owned(),
        JsonType::Boolean
        | JsonType::Number
        | JsonType::String
        | JsonType::Array
        | JsonType::Object => format!("a JSON {json}"),
    }
}

impl Detail for JsonType {
    fn rewrite(&mut self, _: &dyn Fn(&str) -> Option<String>) {}
}

worded! {
    /// How two texts differ that look alike.
    pub enum Difference {
        /// In their Unicode normalization form.
        UnicodeForm => "they differ only in their Unicode form";
        /// In a slash at the end.
        TrailingSlash => "they differ only in a trailing slash";
        /// In letter case.
        LetterCase => "they differ only in letter case";
        /// In white space, and perhaps in letter case.
        WhiteSpace => "they differ only in white space and letter case";
    }
}

worded! {
    /// What became of an entry of a request that may succeed in part.
    pub enum EntryOutcome {
        /// It is reported neither as done nor as failed.
        InNeither(entry: Recorded) => "{entry} in neither";
        /// It is reported both as done and as failed.
        InBoth(entry: Recorded) => "{entry} in both";
    }
}

worded! {
    /// A rule of a JSON Schema.
    pub enum SchemaRule {
        /// One of these JSON types.
        Types(types: Vec<String>) => "{}", types.join(" or ");
        /// One of the listed values.
        Enum(values: String) => "one of {values}";
        /// This value.
        Const(value: String) => "exactly {value}";
        /// So many characters or more.
        MinLength(limit: u64) => "at least {limit} characters";
        /// So many characters or fewer.
        MaxLength(limit: u64) => "at most {limit} characters";
        /// This number or more.
        Minimum(limit: String) => "at least {limit}";
        /// This number or less.
        Maximum(limit: String) => "at most {limit}";
        /// More than this number.
        ExclusiveMinimum(limit: String) => "more than {limit}";
        /// Less than this number.
        ExclusiveMaximum(limit: String) => "less than {limit}";
        /// So many items or more.
        MinItems(limit: u64) => "at least {limit} items";
        /// So many items or fewer.
        MaxItems(limit: u64) => "at most {limit} items";
        /// So many members or more.
        MinProperties(limit: u64) => "at least {limit} members";
        /// So many members or fewer.
        MaxProperties(limit: u64) => "at most {limit} members";
        /// A string that the pattern matches.
        Pattern(pattern: String) => "string matching {pattern}";
        /// A string of this format.
        Format(format: String) => "the format {format}";
        /// A member that is required.
        Required => "the member";
        /// A member that the schema knows.
        KnownMember => "no member but those that are known";
        /// A name that the schema allows.
        PropertyName => "a name that is known";
        /// One of the alternatives.
        Alternatives => "exactly one of its alternatives";
        /// No member that is only sent.
        WriteOnly => "no member that is `writeOnly`";
        /// What another keyword asks.
        Keyword(keyword: String) => "what `{keyword}` asks";
    }
}
