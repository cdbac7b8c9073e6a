//! `[validation-errors]`: how a response writes the places of a request that are invalid.

use faithful_clerk_model::json::pointer::from_tokens;
use serde_json::Value;

use crate::rules::ParameterLocation;

/// How invalid locations are written.
#[derive(Debug, Clone, Default)]
pub struct ValidationErrorRule {
    /// The form of a pointer.
    pub pointer: PointerForm,
    /// Where a missing member is named.
    pub missing: PointerTarget,
    /// Where a member that is not known is named.
    pub unknown: PointerTarget,
    /// Where a failed choice of forms is named.
    pub one_of: ChoicePointer,
    /// The spelling of a location in the body; none: the contract does not say.
    pub spelling: Option<LocationSpelling>,
    /// How a parameter is named, with `{in}` and `{name}` in it; none: the contract does not say.
    pub parameters: Option<String>,
    /// How the body as a whole is named, where that is not the empty pointer.
    pub root: Option<String>,
    /// Where an entry about the parent of a missing member has that member's name; none: the contract does not say.
    pub missing_member: Option<Vec<String>>,
    /// Which violations are one violation twice.
    pub duplicates: DuplicateRule,
    /// The codes that entries may have; none: the contract does not say.
    pub codes: Vec<String>,
}

/// Which violations are one violation twice.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum DuplicateRule {
    /// Those that are the same in everything.
    #[default]
    Identical,
    /// Those with the same location and code.
    ByRule,
    /// Those with the same location.
    ByLocation,
}

/// The form of a pointer.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum PointerForm {
    /// The contract does not say.
    #[default]
    Either,
    /// `/nights`.
    Plain,
    /// `#/nights`.
    Fragment,
}

/// How a location in the body is spelled.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LocationSpelling {
    /// A JSON Pointer: `/crew/0/name`.
    Pointers,
    /// With dots: `crew.0.name`.
    Dotted,
    /// With dots, and indices in brackets: `crew[0].name`.
    Bracketed,
    /// An array of reference tokens: `["crew", 0, "name"]`.
    Tokens,
}

impl LocationSpelling {
    /// The words of the contract, in the order of the reference.
    pub const ALL: [(&'static str, Self); 4] = [
        ("pointers", Self::Pointers),
        ("dotted", Self::Dotted),
        ("bracketed", Self::Bracketed),
        ("tokens", Self::Tokens),
    ];

    /// A location spelled in this way.
    #[must_use]
    pub fn of(self, steps: &[String]) -> String {
        match self {
            Self::Pointers => from_tokens(steps),
            Self::Dotted => steps.join("."),
            Self::Bracketed => steps.iter().fold(String::new(), |spelled, step| {
                let is_index = !step.is_empty() && step.bytes().all(|byte| byte.is_ascii_digit());
                match (is_index, spelled.is_empty()) {
                    (true, _) => format!("{spelled}[{step}]"),
                    (false, true) => step.clone(),
                    (false, false) => format!("{spelled}.{step}"),
                }
            }),
            Self::Tokens => {
                let each = steps.iter().map(|step| match step.parse::<u64>() {
                    Ok(index) => Value::from(index),
                    Err(_) => Value::from(step.as_str()),
                });
                Value::Array(each.collect()).to_string()
            }
        }
    }
}

/// Where a member that is missing, or not known, is named.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum PointerTarget {
    /// The contract does not say: itself, or its parent.
    #[default]
    Either,
    /// Itself.
    Member,
    /// The object that it is missing in.
    Parent,
}

/// Where a failed choice of forms is named.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub enum ChoicePointer {
    /// The contract does not say: as a whole, or anywhere in it.
    #[default]
    Either,
    /// As a whole.
    Value,
    /// By the member that tells the forms apart.
    Discriminator(String),
}

impl ValidationErrorRule {
    /// How a parameter is named, where the contract says that.
    #[must_use]
    pub fn parameter_location(&self, location: ParameterLocation, name: &str) -> Option<String> {
        let template = self.parameters.as_ref()?;
        Some(template.replace("{in}", location.name()).replace("{name}", name))
    }

    /// Does the contract say where and how places are named?
    #[must_use]
    pub fn says_where(&self) -> bool {
        self.pointer != PointerForm::Either
            || self.missing != PointerTarget::Either
            || self.unknown != PointerTarget::Either
            || self.one_of != ChoicePointer::Either
            || self.spelling.is_some()
            || self.parameters.is_some()
    }
}
