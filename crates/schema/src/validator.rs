//! Validates by JSON Schema, and says what is invalid place by place.

use std::collections::HashSet;

use jsonschema::error::{TypeKind, ValidationErrorKind};
use jsonschema::{Draft, PatternOptions, Registry, Validator};
use serde_json::{Value, json};

use faithful_clerk_model::finding::{Expected, Got, SchemaRule};
use faithful_clerk_model::json::JsonType;
use faithful_clerk_model::json::pointer::{join, tokens};
use faithful_clerk_shape::{MOST_MISMATCHES, Mismatch, MismatchKind};

use super::bundle::{Bundle, BundledDocument};
use super::one_way::write_only;
use super::rules::FormatMode;
use super::schema_dialect::SchemaDialect;

/// A pattern needs no more than this to be compiled.
const PATTERN_LIMIT: usize = 1 << 20;

impl From<SchemaDialect> for Draft {
    fn from(dialect: SchemaDialect) -> Self {
        match dialect {
            SchemaDialect::Draft4 => Self::Draft4,
            SchemaDialect::Draft6 => Self::Draft6,
            SchemaDialect::Draft7 | SchemaDialect::OpenApi30 => Self::Draft7,
            SchemaDialect::Draft201909 => Self::Draft201909,
            SchemaDialect::Draft202012 | SchemaDialect::OpenApi31 => Self::Draft202012,
        }
    }
}

/// A compiled schema.
pub(super) struct SchemaValidator {
    validator: Validator,
    /// The members that any schema of it knows by name, where members that none has looked at are refused.
    known: Option<HashSet<String>>,
}

impl SchemaValidator {
    /// Compiles a schema with what it refers to.
    ///
    /// # Errors
    /// What the validator does not take.
    pub(super) fn compile(bundle: Bundle, formats: FormatMode) -> Result<Self, String> {
        let known = bundle.known_members();
        let mut registry = Registry::new();
        for BundledDocument { uri, path, value, dialect } in bundle.documents {
            let resource = Draft::from(dialect).create_resource(value);
            registry = registry.add(uri, resource).map_err(|error| format!("{path}: {error}"))?;
        }
        let registry = registry.prepare().map_err(|error| error.to_string())?;
        jsonschema::options()
            .with_draft(bundle.dialect.into())
            .with_registry(&registry)
            .with_pattern_options(PatternOptions::regex().size_limit(PATTERN_LIMIT))
            .should_validate_formats(formats == FormatMode::Assertion)
            .build(&json!({ "$ref": bundle.root }))
            .map(|validator| Self { validator, known })
            .map_err(|error| error.to_string())
    }

    pub(super) fn is_valid(&self, value: &Value) -> bool {
        self.validator.is_valid(value)
    }

    /// Every location at which the value breaks the schema, each once for each way of breaking it.
    pub(super) fn mismatches(&self, value: &Value) -> Vec<Mismatch> {
        let mut found: Vec<Mismatch> = Vec::new();
        let mut not_looked_at: Vec<Mismatch> = Vec::new();
        for error in self.validator.iter_errors(value) {
            let location = error.instance_path().to_string();
            let told = mismatches(&location, error.kind(), error.instance().as_ref());
            if matches!(error.kind(), ValidationErrorKind::UnevaluatedProperties { .. }) {
                not_looked_at.extend(told);
                continue;
            }
            for mismatch in told {
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
        let unknown = not_looked_at.into_iter().filter(|one| !self.is_known(one, &found));
        let unknown: Vec<Mismatch> = unknown.collect();
        found.extend(unknown);
        found
    }

    /// Is a member one that a schema would have looked at, had nothing else been wrong with the object? A schema that fails
    /// has looked at nothing (JSON Schema 2020-12 section 7.7.1.3).
    fn is_known(&self, member: &Mismatch, others: &[Mismatch]) -> bool {
        let name = tokens(&member.pointer).and_then(|mut steps| steps.pop());
        let object = member.pointer.rsplit_once('/').map(|(object, _)| object);
        let (Some(name), Some(object)) = (name, object) else { return false };
        let is_in = |other: &Mismatch| {
            let inner = other.pointer.strip_prefix(object);
            inner.is_some_and(|inner| inner.is_empty() || inner.starts_with('/'))
        };
        let is_named = self.known.as_ref().is_none_or(|known| known.contains(&name));
        is_named && others.iter().any(is_in)
    }
}

/// What one of the validator's errors says, place by place.
fn mismatches(location: &str, kind: &ValidationErrorKind, value: &Value) -> Vec<Mismatch> {
    let one = |pointer: String, kind: MismatchKind, rule: SchemaRule, got: Got| {
        vec![Mismatch { pointer, kind, expected: Expected::Schema(rule), got }]
    };
    let here = |kind: MismatchKind, rule: SchemaRule| {
        one(location.to_owned(), kind, rule, Got::value(value))
    };
    match kind {
        ValidationErrorKind::Required { property } => {
            let name = property.as_str().unwrap_or_default();
            one(join(location, name), MismatchKind::Missing, SchemaRule::Required, Got::Nothing)
        }
        ValidationErrorKind::AdditionalProperties { unexpected }
        | ValidationErrorKind::UnevaluatedProperties { unexpected } => unexpected
            .iter()
            .flat_map(|name| {
                let (rule, got) = (SchemaRule::KnownMember, Got::Member(name.clone()));
                one(join(location, name), MismatchKind::Unknown, rule, got)
            })
            .collect(),
        ValidationErrorKind::PropertyNames { error } => {
            let name = error.instance().as_str().unwrap_or_default().to_owned();
            one(
                join(location, &name),
                MismatchKind::Unknown,
                SchemaRule::PropertyName,
                Got::Member(name),
            )
        }
        ValidationErrorKind::Type { kind } => {
            let types = match kind {
                TypeKind::Single(one) => vec![one.to_string()],
                TypeKind::Multiple(several) => several.iter().map(|one| one.to_string()).collect(),
            };
            let got = Got::Type(JsonType::of(value));
            one(location.to_owned(), MismatchKind::WrongType, SchemaRule::Types(types), got)
        }
        ValidationErrorKind::Enum { options } => {
            here(MismatchKind::Listed, SchemaRule::Enum(options.to_string()))
        }
        ValidationErrorKind::Constant { expected_value } => {
            here(MismatchKind::Listed, SchemaRule::Const(expected_value.to_string()))
        }
        ValidationErrorKind::MinLength { limit } => {
            here(MismatchKind::TooShort, SchemaRule::MinLength(*limit))
        }
        ValidationErrorKind::MaxLength { limit } => {
            here(MismatchKind::TooLong, SchemaRule::MaxLength(*limit))
        }
        ValidationErrorKind::Minimum { limit } => {
            here(MismatchKind::Range, SchemaRule::Minimum(limit.to_string()))
        }
        ValidationErrorKind::Maximum { limit } => {
            here(MismatchKind::Range, SchemaRule::Maximum(limit.to_string()))
        }
        ValidationErrorKind::ExclusiveMinimum { limit } => {
            here(MismatchKind::Range, SchemaRule::ExclusiveMinimum(limit.to_string()))
        }
        ValidationErrorKind::ExclusiveMaximum { limit } => {
            here(MismatchKind::Range, SchemaRule::ExclusiveMaximum(limit.to_string()))
        }
        ValidationErrorKind::MinItems { limit } => {
            here(MismatchKind::TooFew, SchemaRule::MinItems(*limit))
        }
        ValidationErrorKind::MaxItems { limit } => {
            here(MismatchKind::TooMany, SchemaRule::MaxItems(*limit))
        }
        ValidationErrorKind::MinProperties { limit } => {
            here(MismatchKind::TooFew, SchemaRule::MinProperties(*limit))
        }
        ValidationErrorKind::MaxProperties { limit } => {
            here(MismatchKind::TooMany, SchemaRule::MaxProperties(*limit))
        }
        ValidationErrorKind::AdditionalItems { limit } => {
            here(MismatchKind::TooMany, SchemaRule::MaxItems(*limit as u64))
        }
        ValidationErrorKind::Pattern { pattern } => {
            here(MismatchKind::Form, SchemaRule::Pattern(pattern.clone()))
        }
        ValidationErrorKind::Format { format } => {
            here(MismatchKind::Form, SchemaRule::Format(format.clone()))
        }
        ValidationErrorKind::AnyOf { .. }
        | ValidationErrorKind::OneOfNotValid { .. }
        | ValidationErrorKind::OneOfMultipleValid { .. } => {
            here(MismatchKind::Choice, SchemaRule::Alternatives)
        }
        ValidationErrorKind::Not { schema } if *schema == write_only() => {
            here(MismatchKind::Unknown, SchemaRule::WriteOnly)
        }
        other => here(MismatchKind::Rule, SchemaRule::Keyword(other.keyword().to_owned())),
    }
}
