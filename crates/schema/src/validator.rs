//! Validates by JSON Schema, and says what is invalid place by place.

use jsonschema::error::{TypeKind, ValidationErrorKind};
use jsonschema::{Draft, PatternOptions, Registry, Validator};
use serde_json::Value;

use faithful_clerk_model::json::pointer::join;
use faithful_clerk_model::json::{in_brief, kind_of};
use faithful_clerk_shape::{MOST_MISMATCHES, Mismatch, MismatchKind};

use super::rules::FormatMode;
pub(super) use super::schema_dialect::SchemaDialect;

/// A pattern needs no more than this to be compiled.
const PATTERN_LIMIT: usize = 1 << 20;

impl From<SchemaDialect> for Draft {
    fn from(dialect: SchemaDialect) -> Self {
        match dialect {
            SchemaDialect::Draft4 => Self::Draft4,
            SchemaDialect::Draft6 => Self::Draft6,
            SchemaDialect::Draft7 => Self::Draft7,
            SchemaDialect::Draft201909 => Self::Draft201909,
            SchemaDialect::Draft202012 => Self::Draft202012,
        }
    }
}

/// All documents, ready to be referred to.
#[derive(Debug)]
pub(super) struct SchemaRegistry(Registry<'static>);

impl SchemaRegistry {
    /// Takes documents in: URI, path, value and dialect of each.
    pub(super) fn prepare<'d>(
        documents: impl Iterator<Item = (String, &'d str, &'d Value, SchemaDialect)>,
    ) -> Result<Self, String> {
        let mut builder = Registry::new();
        for (uri, path, value, dialect) in documents {
            let resource = Draft::from(dialect).create_resource(value.clone());
            builder = builder.add(uri, resource).map_err(|error| format!("{path}: {error}"))?;
        }
        builder.prepare().map(Self).map_err(|error| error.to_string())
    }

    /// Compiles a schema that may refer to every document.
    pub(super) fn compile(
        &self,
        schema: &Value,
        dialect: SchemaDialect,
        base: String,
        formats: FormatMode,
    ) -> Result<SchemaValidator, String> {
        jsonschema::options()
            .with_draft(dialect.into())
            .with_registry(&self.0)
            .with_base_uri(base)
            .with_pattern_options(PatternOptions::regex().size_limit(PATTERN_LIMIT))
            .should_validate_formats(formats == FormatMode::Assertion)
            .build(schema)
            .map(SchemaValidator)
            .map_err(|error| error.to_string())
    }
}

/// A compiled schema.
pub(super) struct SchemaValidator(Validator);

impl SchemaValidator {
    pub(super) fn is_valid(&self, value: &Value) -> bool {
        self.0.is_valid(value)
    }

    /// Every place at which the value breaks the schema, each once for each way of breaking it.
    pub(super) fn mismatches(&self, value: &Value) -> Vec<Mismatch> {
        let mut found: Vec<Mismatch> = Vec::new();
        for error in self.0.iter_errors(value) {
            let location = error.instance_path().to_string();
            for mismatch in mismatches(&location, error.kind(), error.instance().as_ref()) {
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
fn mismatches(location: &str, kind: &ValidationErrorKind, value: &Value) -> Vec<Mismatch> {
    let one = |pointer: String, sort: MismatchKind, agreed: String, seen: String| {
        vec![Mismatch { pointer, kind: sort, expected: agreed, got: seen }]
    };
    let here = |sort: MismatchKind, agreed: String| {
        one(location.to_owned(), sort, agreed, in_brief(value))
    };
    match kind {
        ValidationErrorKind::Required { property } => {
            let name = property.as_str().unwrap_or_default();
            one(
                join(location, name),
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
                one(join(location, name), MismatchKind::Unknown, agreed, format!("`{name}`"))
            })
            .collect(),
        ValidationErrorKind::PropertyNames { error } => {
            let name = error.instance().as_str().unwrap_or_default().to_owned();
            one(
                join(location, &name),
                MismatchKind::Unknown,
                "a name that is known".to_owned(),
                name,
            )
        }
        ValidationErrorKind::Type { kind } => {
            let agreed = match kind {
                TypeKind::Single(one) => one.to_string(),
                TypeKind::Multiple(several) => {
                    let names: Vec<String> = several.iter().map(|one| one.to_string()).collect();
                    names.join(" or ")
                }
            };
            one(location.to_owned(), MismatchKind::WrongType, agreed, kind_of(value).to_owned())
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
