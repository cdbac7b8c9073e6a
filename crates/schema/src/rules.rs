//! A compiled schema, and the invalid places that it finds.

use std::fmt;
use std::sync::Arc;

use jsonschema::Validator;
use jsonschema::error::{TypeKind, ValidationErrorKind};
use serde_json::Value;

use faithful_clerk_model::json::pointer::join;
use faithful_clerk_model::json::{in_brief, kind_of};
use faithful_clerk_shape::{MOST_MISMATCHES, Mismatch, MismatchKind};

/// A compiled JSON Schema.
#[derive(Clone)]
pub struct CompiledSchema {
    validator: Arc<Validator>,
    /// The same spelled out, for making values up.
    spelled: Arc<Value>,
}

/// Are formats such as `date` rules, or only remarks?
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum FormatMode {
    /// A value has to have its format.
    #[default]
    Assertion,
    /// Formats are passed over.
    Annotation,
}

impl fmt::Debug for CompiledSchema {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("Schema")
    }
}

impl CompiledSchema {
    pub(super) fn new(validator: Validator, spelled: Value) -> Self {
        Self { validator: Arc::new(validator), spelled: Arc::new(spelled) }
    }

    /// The same, spelled out as far as it is small; it says less than the schema does.
    #[must_use]
    pub fn spelled(&self) -> &Value {
        &self.spelled
    }

    /// Does the value fit?
    #[must_use]
    pub fn admits(&self, value: &Value) -> bool {
        self.validator.is_valid(value)
    }

    /// Every place at which the value breaks the schema, each once for each way of breaking it.
    #[must_use]
    pub fn mismatches(&self, value: &Value) -> Vec<Mismatch> {
        let mut found: Vec<Mismatch> = Vec::new();
        for error in self.validator.iter_errors(value) {
            let place = error.instance_path().to_string();
            for mismatch in mismatches(&place, error.kind(), error.instance().as_ref()) {
                let same = |known: &Mismatch| {
                    known.pointer == mismatch.pointer && known.kind == mismatch.kind
                };
                if !found.iter().any(same) {
                    found.push(mismatch);
                }
            }
            if found.len() >= MOST_MISMATCHES {
                break;
            }
        }
        found
    }
}

/// What one of the validator's errors says, place by place.
fn mismatches(place: &str, kind: &ValidationErrorKind, value: &Value) -> Vec<Mismatch> {
    let one = |pointer: String, sort: MismatchKind, agreed: String, seen: String| {
        vec![Mismatch { pointer, kind: sort, expected: agreed, got: seen }]
    };
    let here =
        |sort: MismatchKind, agreed: String| one(place.to_owned(), sort, agreed, in_brief(value));
    match kind {
        ValidationErrorKind::Required { property } => {
            let name = property.as_str().unwrap_or_default();
            one(
                join(place, name),
                MismatchKind::Missing,
                "the member".to_owned(),
                "nothing".to_owned(),
            )
        }
        ValidationErrorKind::AdditionalProperties { unexpected }
        | ValidationErrorKind::UnevaluatedProperties { unexpected } => unexpected
            .iter()
            .flat_map(|name| {
                let agreed = "no member but those that are known".to_owned();
                one(join(place, name), MismatchKind::Unknown, agreed, format!("`{name}`"))
            })
            .collect(),
        ValidationErrorKind::PropertyNames { error } => {
            let name = error.instance().as_str().unwrap_or_default().to_owned();
            one(join(place, &name), MismatchKind::Unknown, "a name that is known".to_owned(), name)
        }
        ValidationErrorKind::Type { kind } => {
            let agreed = match kind {
                TypeKind::Single(one) => one.to_string(),
                TypeKind::Multiple(several) => {
                    let names: Vec<String> = several.iter().map(|one| one.to_string()).collect();
                    names.join(" or ")
                }
            };
            one(place.to_owned(), MismatchKind::WrongType, agreed, kind_of(value).to_owned())
        }
        ValidationErrorKind::Enum { options } => {
            here(MismatchKind::Listed, format!("one of {options}"))
        }
        ValidationErrorKind::Constant { expected_value } => {
            here(MismatchKind::Listed, format!("exactly {expected_value}"))
        }
        ValidationErrorKind::MinLength { limit } => {
            here(MismatchKind::TooShort, format!("at least {limit} characters"))
        }
        ValidationErrorKind::MaxLength { limit } => {
            here(MismatchKind::TooLong, format!("at most {limit} characters"))
        }
        ValidationErrorKind::Minimum { limit } => {
            here(MismatchKind::Range, format!("at least {limit}"))
        }
        ValidationErrorKind::Maximum { limit } => {
            here(MismatchKind::Range, format!("at most {limit}"))
        }
        ValidationErrorKind::ExclusiveMinimum { limit } => {
            here(MismatchKind::Range, format!("more than {limit}"))
        }
        ValidationErrorKind::ExclusiveMaximum { limit } => {
            here(MismatchKind::Range, format!("less than {limit}"))
        }
        ValidationErrorKind::MinItems { limit } => {
            here(MismatchKind::TooFew, format!("at least {limit} items"))
        }
        ValidationErrorKind::MaxItems { limit } => {
            here(MismatchKind::TooMany, format!("at most {limit} items"))
        }
        ValidationErrorKind::MinProperties { limit } => {
            here(MismatchKind::TooFew, format!("at least {limit} members"))
        }
        ValidationErrorKind::MaxProperties { limit } => {
            here(MismatchKind::TooMany, format!("at most {limit} members"))
        }
        ValidationErrorKind::AdditionalItems { limit } => {
            here(MismatchKind::TooMany, format!("at most {limit} items"))
        }
        ValidationErrorKind::Pattern { pattern } => {
            here(MismatchKind::Form, format!("string matching {pattern}"))
        }
        ValidationErrorKind::Format { format } => {
            here(MismatchKind::Form, format!("the format {format}"))
        }
        ValidationErrorKind::AnyOf { .. }
        | ValidationErrorKind::OneOfNotValid { .. }
        | ValidationErrorKind::OneOfMultipleValid { .. } => {
            here(MismatchKind::Choice, "exactly one of its alternatives".to_owned())
        }
        other => here(MismatchKind::Rule, format!("what `{}` asks", other.keyword())),
    }
}
