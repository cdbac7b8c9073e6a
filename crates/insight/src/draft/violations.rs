//! The violations of a drafted validation error: one for each invalid location of the request.

use serde_json::Value;

use super::envelope::{in_order, put, type_at};
use crate::sample::{self, SOME_TEXT};
use faithful_clerk_check::classify::{Classified, ParameterProblem, pointer_in_entry};
use faithful_clerk_contract::{
    ErrorStyle, LocationSource, LocationSpelling, PointerForm, PointerTarget, ViolationPointers,
};
use faithful_clerk_model::json::folded;
use faithful_clerk_model::json::pointer::tokens;
use faithful_clerk_model::situation::Situation;
use faithful_clerk_shape::{
    ConstrainedType, Limit, Mismatch, MismatchKind, Shape, ShapeTable, TypeName, value_fits,
};

/// Where the violations of a body are, and what one of them is.
pub(super) struct ViolationList<'c> {
    /// The steps to their array.
    pub(super) steps: Vec<String>,
    /// The shape of one, where that is declared.
    shape: Option<&'c Shape>,
    /// Where `[envelope]` says that things are in one.
    pointers: Option<&'c ViolationPointers>,
    style: &'c ErrorStyle,
    shapes: &'c ShapeTable,
}

/// One violation, before it is written.
struct Violation {
    /// Steps to it in the body; none for a parameter.
    steps: Option<Vec<String>>,
    /// How a parameter is named.
    parameter: String,
    /// The missing member, where its parent is named.
    missing: Option<String>,
    kind: MismatchKind,
    words: String,
}

impl<'c> ViolationList<'c> {
    /// The list: where `[envelope]` says, else the first array of objects that the shape has.
    pub(super) fn of(
        style: &'c ErrorStyle,
        shape: Option<&'c Shape>,
        shapes: &'c ShapeTable,
    ) -> Option<Self> {
        let item_shape = |declared: &ConstrainedType| match &declared.name {
            TypeName::Array(item) => match item.name {
                TypeName::Shape(id) => shapes.get(id),
                _ => None,
            },
            _ => None,
        };
        if let Some(pointers) = &style.envelope.fields {
            let (last, steps) = pointers.each.split_last()?;
            let is_array = last == "*" && pointers.location != LocationSource::MemberName;
            let declared = shape.and_then(|shape| type_at(shape, steps, shapes));
            return is_array.then(|| Self {
                steps: steps.to_vec(),
                shape: declared.and_then(item_shape),
                pointers: Some(pointers),
                style,
                shapes,
            });
        }
        let mut members = shape?.members.iter();
        let (name, shape) = members
            .find_map(|member| Some((member.name.clone(), item_shape(&member.constrained)?)))?;
        Some(Self { steps: vec![name], shape: Some(shape), pointers: None, style, shapes })
    }

    /// The violations that the request has, as far as they decide.
    pub(super) fn items(&self, classified: &Classified<'_>) -> Vec<Value> {
        let situations = &classified.situations;
        let mut found = Vec::new();
        if situations.decides(Situation::InvalidBody) {
            found.extend(situations.invalid.iter().map(|one| self.of_mismatch(one, classified)));
        }
        if situations.decides(Situation::InvalidParameters) {
            found.extend(situations.parameters.iter().map(|parameter| {
                let kind = match parameter.problem {
                    ParameterProblem::Missing => MismatchKind::Missing,
                    ParameterProblem::Unknown => MismatchKind::Unknown,
                    ParameterProblem::Invalid | ParameterProblem::Repeated => MismatchKind::Rule,
                };
                let rule = &self.style.validation_errors;
                let agreed = rule.parameter_location(parameter.location, &parameter.name);
                let name = agreed.unwrap_or_else(|| parameter.name.clone());
                let words = SOME_TEXT.to_owned();
                Violation { steps: None, parameter: name, missing: None, kind, words }
            }));
        }
        found.iter().map(|violation| self.written(violation)).collect()
    }

    /// The location as the contract wants it named: a missing member itself, or its parent.
    fn of_mismatch(&self, mismatch: &Mismatch, classified: &Classified<'_>) -> Violation {
        // A pointer of JSON:API has to lead to something.
        let of_api = classified.expected_shape().is_some_and(|shape| shape.is_json_api);
        let is_missing = mismatch.kind == MismatchKind::Missing;
        let by_parent = of_api || self.style.validation_errors.missing == PointerTarget::Parent;
        let mut steps = tokens(&mismatch.pointer).unwrap_or_default();
        let missing = if is_missing && by_parent { steps.pop() } else { None };
        let words = match &missing {
            Some(member) => format!("{member} has to be {}", mismatch.expected),
            None => format!("has to be {}", mismatch.expected),
        };
        Violation {
            steps: Some(steps),
            parameter: String::new(),
            missing,
            kind: mismatch.kind,
            words,
        }
    }

    fn written(&self, of: &Violation) -> Value {
        let Some(shape) = self.shape else {
            let mut value = Value::Object(serde_json::Map::new());
            self.by_pointers(&mut value, of);
            return value;
        };
        let mut value = sample::of_shape(shape, self.shapes);
        if self.pointers.is_some() {
            self.by_pointers(&mut value, of);
        } else {
            self.by_names(&mut value, shape, of);
        }
        if let (Some(at), Some(member)) =
            (&self.style.validation_errors.missing_member, &of.missing)
        {
            put(&mut value, at, &Value::from(member.as_str()));
        }
        in_order(&mut value, shape);
        value
    }

    /// Where `[envelope]` says.
    fn by_pointers(&self, value: &mut Value, of: &Violation) {
        let Some(pointers) = self.pointers else { return };
        if let LocationSource::Pointer(steps) = &pointers.location {
            put(value, steps, &self.location(of, false));
        }
        if let Some(steps) = &pointers.message {
            put(value, steps, &Value::from(of.words.as_str()));
        }
        if let Some(steps) = &pointers.code {
            let codes = &self.style.validation_errors.codes;
            let codes: Vec<Value> = codes.iter().map(|code| Value::from(code.as_str())).collect();
            put(value, steps, code_for(of.kind, &codes).unwrap_or(&Value::from(SOME_TEXT)));
        }
    }

    /// By what members are usually called, and by their types.
    fn by_names(&self, value: &mut Value, shape: &Shape, of: &Violation) {
        match (&of.steps, pointer_in_entry(shape, self.shapes)) {
            (Some(_), Some(way)) => put(value, &way, &self.location(of, true)),
            // A parameter is named beside the pointer, such as in JSON:API's `source`.
            (None, Some(mut way)) if way.len() > 1 => {
                way.pop();
                way.push("parameter".to_owned());
                put(value, &way, &Value::from(of.parameter.as_str()));
            }
            _ => {}
        }
        for member in &shape.members {
            let name = folded(&member.name);
            let typed = &member.constrained;
            let is_pointer = matches!(typed.name, TypeName::JsonPointer);
            let is_location = match &of.steps {
                Some(_) => {
                    matches!(name.as_str(), "field" | "path" | "property" | "key" | "location")
                }
                None => {
                    matches!(name.as_str(), "parameter" | "param" | "name" | "field" | "location")
                }
            };
            let at = std::slice::from_ref(&member.name);
            if is_location && !is_pointer {
                put(value, at, &self.location(of, false));
            } else if matches!(name.as_str(), "detail" | "message" | "reason" | "description")
                && matches!(typed.name, TypeName::String)
                && !(member.optional && self.pointers.is_some())
            {
                put(value, at, &Value::from(fitting_words(&of.words, typed)));
            } else if let TypeName::OneOf(values) = &typed.name
                && let Some(code) = code_for(of.kind, values)
            {
                put(value, at, code);
            }
        }
    }

    /// The location, spelled as the contract has it; as a pointer where that is what the member holds.
    fn location(&self, of: &Violation, is_pointer: bool) -> Value {
        let rule = &self.style.validation_errors;
        let Some(steps) = &of.steps else { return Value::from(of.parameter.as_str()) };
        if let Some(root) = rule.root.as_ref().filter(|_| steps.is_empty()) {
            return Value::from(root.as_str());
        }
        let usual = if is_pointer { LocationSpelling::Pointers } else { LocationSpelling::Dotted };
        let spelling = rule.spelling.unwrap_or(usual);
        let text = spelling.of(steps);
        match spelling {
            LocationSpelling::Tokens => serde_json::from_str(&text).unwrap_or(Value::from(text)),
            LocationSpelling::Pointers if rule.pointer == PointerForm::Fragment => {
                Value::from(format!("#{text}"))
            }
            _ => Value::from(text),
        }
    }
}

/// The code for what is wrong, of those that there are: one whose name says so, else one that says the least.
fn code_for(kind: MismatchKind, codes: &[Value]) -> Option<&Value> {
    let wishes: &[&str] = match kind {
        MismatchKind::Missing => &["missing", "required", "presence"],
        MismatchKind::Unknown | MismatchKind::Extra => &["unknown", "additional", "notknown"],
        MismatchKind::WrongType => &["type"],
        MismatchKind::Range => &["range", "limit"],
        MismatchKind::TooShort => &["tooshort", "short", "length"],
        MismatchKind::TooLong => &["toolong", "long", "length"],
        MismatchKind::TooFew => &["toofew", "few", "size"],
        MismatchKind::TooMany => &["toomany", "many", "size"],
        MismatchKind::Form => &["format", "pattern", "form"],
        MismatchKind::Choice | MismatchKind::Listed | MismatchKind::Rule => &[],
    };
    let names =
        |code: &&Value, wish: &str| code.as_str().is_some_and(|code| folded(code).contains(wish));
    let mut all = wishes.iter().chain(&["wrong", "invalid", "rule"]);
    let says_other =
        |code: &&Value| ["missing", "required", "unknown"].iter().any(|other| names(code, other));
    let wished = all.find_map(|wish| codes.iter().find(|code| names(code, wish)));
    wished.or_else(|| codes.iter().find(|code| !says_other(code))).or(codes.first())
}

/// Words as long as their type has them.
fn fitting_words(words: &str, typed: &ConstrainedType) -> String {
    let least = typed.limits.iter().find_map(|limit| match limit {
        Limit::AtLeast(least) => Some(*least),
        _ => None,
    });
    let enough = (0..200_usize).find(|length| least.is_none_or(|least| *length as f64 >= least));
    let words = padded(words, enough.unwrap_or_default());
    let fits = value_fits(&Value::from(words.as_str()), typed, &ShapeTable::default());
    if fits { words } else { SOME_TEXT.to_owned() }
}

/// Words with so many characters, at least.
pub(super) fn padded(words: &str, least: usize) -> String {
    let lacking = least.saturating_sub(words.chars().count());
    match lacking {
        0 => words.to_owned(),
        lacking => format!("{words} {}", SOME_TEXT.repeat(lacking)),
    }
}
