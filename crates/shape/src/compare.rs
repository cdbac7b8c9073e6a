//! Compares a value with what was expected, and says at which places it differs.

use std::cmp::Ordering;

use serde_json::{Map, Number, Value};

use super::format::{is_date, is_date_time, is_language_tag, is_uri, is_uri_reference};
use super::kind::{ConstrainedType, Limit, Shape, ShapeTable, TypeName};
use super::order::order;
use faithful_clerk_model::finding::{Expected, Got, MismatchKind};
use faithful_clerk_model::headers::is_http_date;
use faithful_clerk_model::json::pointer::{JsonPath, is_pointer};
use faithful_clerk_model::json::{JsonType, MemberLookup as _, scalar_text};

/// One location at which a value is not what was expected.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Mismatch {
    /// The location, as a JSON Pointer. A missing member is named itself.
    pub pointer: String,
    /// What kind of difference it is.
    pub kind: MismatchKind,
    /// What is expected there.
    pub expected: Expected,
    /// What stands there.
    pub got: Got,
}

/// Every location at which `value` differs from `shape`, in document order.
#[must_use]
pub fn compare(value: &Value, shape: &Shape, shapes: &ShapeTable) -> Vec<Mismatch> {
    compare_in(value, shape, shapes, None)
}

/// The value of a header field, if there is one.
pub type HeaderLookup<'h> = &'h dyn Fn(&str) -> Option<String>;

/// The same where `same as header` can be told: what a header field of that name has.
#[must_use]
pub fn compare_with_headers(
    value: &Value,
    shape: &Shape,
    shapes: &ShapeTable,
    headers: HeaderLookup<'_>,
) -> Vec<Mismatch> {
    compare_in(value, shape, shapes, Some(headers))
}

fn compare_in(
    value: &Value,
    shape: &Shape,
    shapes: &ShapeTable,
    headers: Option<HeaderLookup<'_>>,
) -> Vec<Mismatch> {
    let mut comparison = ShapeComparer { shapes, headers, mismatches: Vec::new() };
    comparison.shape(value, shape, &JsonPath::Top, ExpectedType::Expression(&shape.name));
    comparison.mismatches
}

/// A list of 100,000 wrong items is said in the first hundred places.
pub const MOST_MISMATCHES: usize = 100;

/// The type that is expected; its expression is only made where a value differs.
#[derive(Clone, Copy)]
enum ExpectedType<'a> {
    /// The expression as the contract has it.
    Expression(&'a str),
    /// A part of one.
    Part(&'a TypeName),
    /// An object without a name.
    Object,
}

struct ShapeComparer<'s> {
    shapes: &'s ShapeTable,
    /// The header fields beside the body, where there are any.
    headers: Option<HeaderLookup<'s>>,
    mismatches: Vec<Mismatch>,
}

impl ShapeComparer<'_> {
    fn differ(
        &mut self,
        path: &JsonPath<'_>,
        kind: MismatchKind,
        expected: ExpectedType<'_>,
        got: Got,
    ) {
        let expected = |shapes: &ShapeTable| match expected {
            ExpectedType::Expression(words) => Expected::Type(words.to_owned()),
            ExpectedType::Part(part) => Expected::Type(part.name(shapes)),
            ExpectedType::Object => Expected::Object,
        };
        self.note(path, kind, expected, got);
    }

    /// Notes a mismatch, unless there are too many.
    fn note(
        &mut self,
        path: &JsonPath<'_>,
        kind: MismatchKind,
        expected: impl FnOnce(&ShapeTable) -> Expected,
        got: Got,
    ) {
        if self.mismatches.len() < MOST_MISMATCHES {
            let (pointer, expected) = (path.pointer(), expected(self.shapes));
            self.mismatches.push(Mismatch { pointer, kind, expected, got });
        }
    }

    fn shape(
        &mut self,
        value: &Value,
        shape: &Shape,
        path: &JsonPath<'_>,
        expected: ExpectedType<'_>,
    ) {
        if let Some(of) = &shape.of {
            return self.typed(value, of, path, expected);
        }
        let Value::Object(members) = value else {
            // The whole of a request body is declared without a name: it is an object.
            let expected = match expected {
                ExpectedType::Expression("") => ExpectedType::Object,
                expected => expected,
            };
            let got = Got::Type(JsonType::of(value));
            return self.differ(path, MismatchKind::WrongType, expected, got);
        };
        let mut has_any = false;
        for member in &shape.members {
            let location = JsonPath::Member(path, &member.name);
            let expected = ExpectedType::Expression(&member.text);
            let found = members.member(&member.name);
            has_any |= found.is_some();
            match found {
                None if member.optional => {}
                None => self.differ(&location, MismatchKind::Missing, expected, Got::Nothing),
                Some(value) => {
                    let before = self.mismatches.len();
                    self.typed(value, &member.constrained, &location, expected);
                    if self.mismatches.len() == before
                        && is_before_other(value, &member.constrained, members)
                    {
                        self.differ(&location, MismatchKind::Rule, expected, Got::value(value));
                    }
                }
            }
        }
        let name = || shape.name.clone();
        for unwanted in shape.without.iter().filter(|name| members.member(name).is_some()) {
            let location = JsonPath::Member(path, unwanted);
            let got = Got::Member(unwanted.clone());
            let expected = |_: &ShapeTable| Expected::NoSuchMember(name());
            self.note(&location, MismatchKind::Unknown, expected, got);
        }
        if shape.not_bare && !has_any {
            let expected = |_: &ShapeTable| Expected::AnyMemberOf(name());
            self.note(path, MismatchKind::TooFew, expected, Got::None);
        }
        if shape.closed || shape.notes_unknown {
            let kind = if shape.closed { MismatchKind::Unknown } else { MismatchKind::Extra };
            for (unknown, value) in members.iter().filter(|(name, _)| shape.member(name).is_none())
            {
                let location = JsonPath::Member(path, unknown);
                let expected = |_: &ShapeTable| Expected::OnlyMembersOf(name());
                self.note(&location, kind, expected, Got::value(value));
            }
        }
    }

    fn typed(
        &mut self,
        value: &Value,
        typed: &ConstrainedType,
        path: &JsonPath<'_>,
        expected: ExpectedType<'_>,
    ) {
        match (&typed.name, value) {
            (TypeName::Either(alternatives), _) => {
                let fits = alternatives.iter().any(|alternative| {
                    let (shapes, headers) = (self.shapes, self.headers);
                    let mut trial = ShapeComparer { shapes, headers, mismatches: Vec::new() };
                    trial.typed(value, alternative, path, expected);
                    trial.mismatches.is_empty()
                });
                if !fits {
                    // Which of the forms was meant can't be known, so the choice is named as a whole.
                    self.differ(path, MismatchKind::Choice, expected, Got::value(value));
                }
                return;
            }
            (TypeName::SameAsHeader(name), _) => {
                let header = self.headers.and_then(|headers| headers(name));
                // Without such a header there is nothing to compare with.
                if header.is_some_and(|header| scalar_text(value).as_ref() != Some(&header)) {
                    self.differ(path, MismatchKind::Listed, expected, Got::value(value));
                }
                return;
            }
            (TypeName::Absent, _) => {
                return self.differ(path, MismatchKind::Unknown, expected, Got::value(value));
            }
            (TypeName::Shape(id), _) => {
                if let Some(shape) = self.shapes.get(*id) {
                    self.shape(value, shape, path, expected);
                }
                return;
            }
            (TypeName::Array(item), Value::Array(items)) => {
                for (index, value) in items.iter().enumerate() {
                    self.typed(
                        value,
                        item,
                        &JsonPath::Item(path, index),
                        ExpectedType::Part(&item.name),
                    );
                }
            }
            (TypeName::Map(member), Value::Object(members)) => {
                for (name, value) in members {
                    self.typed(
                        value,
                        member,
                        &JsonPath::Member(path, name),
                        ExpectedType::Part(&member.name),
                    );
                }
            }
            (kind, value) => match fits(kind, value) {
                AlternativeFit::Yes => {}
                AlternativeFit::OtherKind => {
                    let got = Got::typed(value);
                    return self.differ(path, MismatchKind::WrongType, expected, got);
                }
                AlternativeFit::OtherValue => {
                    let sort = match kind {
                        TypeName::OneOf(_) | TypeName::Exactly(_) | TypeName::NotExactly(_) => {
                            MismatchKind::Listed
                        }
                        TypeName::Status => MismatchKind::Range,
                        _ => MismatchKind::Form,
                    };
                    return self.differ(path, sort, expected, Got::value(value));
                }
            },
        }
        let broken = typed.limits.iter().find(|limit| !keeps(value, limit));
        if let Some(limit) = broken {
            self.differ(path, sort_of(value, limit), expected, Got::value(value));
        }
    }
}

/// Is a value earlier, or less, than a member that it must not be before?
fn is_before_other(value: &Value, typed: &ConstrainedType, members: &Map<String, Value>) -> bool {
    let is_before = |limit: &Limit| {
        let Limit::NotBefore(other) = limit else { return false };
        let other = members.member(other);
        other.and_then(|other| order(value, other)).is_some_and(Ordering::is_lt)
    };
    let alternatives = match &typed.name {
        TypeName::Either(alternatives) => alternatives.as_slice(),
        _ => &[],
    };
    let of_each = alternatives.iter().flat_map(|one| &one.limits);
    typed.limits.iter().chain(of_each).any(is_before)
}

enum AlternativeFit {
    Yes,
    OtherKind,
    OtherValue,
}

/// Does the value fit a kind that has no parts?
fn fits(kind: &TypeName, value: &Value) -> AlternativeFit {
    let form = |is: fn(&str) -> bool| match value {
        Value::String(text) if is(text) => AlternativeFit::Yes,
        Value::String(_) => AlternativeFit::OtherValue,
        _ => AlternativeFit::OtherKind,
    };
    let of_kind = |is: bool| if is { AlternativeFit::Yes } else { AlternativeFit::OtherKind };
    match kind {
        TypeName::String => of_kind(value.is_string()),
        TypeName::Number => of_kind(value.is_number()),
        TypeName::Boolean => of_kind(value.is_boolean()),
        TypeName::Null => of_kind(value.is_null()),
        TypeName::Object | TypeName::Map(_) | TypeName::Shape(_) => of_kind(value.is_object()),
        TypeName::Array(_) => of_kind(value.is_array()),
        TypeName::Anything | TypeName::Either(_) | TypeName::SameAsHeader(_) => AlternativeFit::Yes,
        TypeName::Integer => match value {
            Value::Number(number) => {
                if is_whole(number) {
                    AlternativeFit::Yes
                } else {
                    AlternativeFit::OtherValue
                }
            }
            _ => AlternativeFit::OtherKind,
        },
        TypeName::Status => match value {
            Value::Number(number) => match number.as_f64() {
                Some(status) if is_whole(number) && (100.0..600.0).contains(&status) => {
                    AlternativeFit::Yes
                }
                _ => AlternativeFit::OtherValue,
            },
            _ => AlternativeFit::OtherKind,
        },
        TypeName::Uri => form(is_uri),
        TypeName::UriReference => form(is_uri_reference),
        TypeName::Date => form(is_date),
        TypeName::DateTime => form(is_date_time),
        TypeName::HttpDate => form(is_http_date),
        TypeName::Absent => AlternativeFit::OtherKind,
        TypeName::JsonPointer => form(is_pointer),
        TypeName::LanguageTag => form(is_language_tag),
        TypeName::OneOf(values) => one_of(values, value),
        TypeName::Exactly(expected) => one_of(std::slice::from_ref(expected), value),
        TypeName::NotExactly(unwanted) if values_equal(unwanted, value) => {
            AlternativeFit::OtherValue
        }
        TypeName::NotExactly(_) => AlternativeFit::Yes,
    }
}

fn one_of(values: &[Value], value: &Value) -> AlternativeFit {
    if values.iter().any(|expected| values_equal(expected, value)) {
        AlternativeFit::Yes
    } else if values.iter().any(|expected| JsonType::of(expected) == JsonType::of(value)) {
        AlternativeFit::OtherValue
    } else {
        AlternativeFit::OtherKind
    }
}

/// Numbers are equal by value, whatever their spelling.
#[must_use]
pub fn values_equal(one: &Value, other: &Value) -> bool {
    match (one, other) {
        (Value::Number(one), Value::Number(other)) => {
            one == other || (one.as_f64() == other.as_f64() && (one.is_f64() || other.is_f64()))
        }
        _ => one == other,
    }
}

fn is_whole(number: &Number) -> bool {
    number.is_i64() || number.is_u64() || number.as_f64().is_some_and(|value| value.fract() == 0.0)
}

/// What a value is that breaks a limit.
fn sort_of(value: &Value, limit: &Limit) -> MismatchKind {
    match (value, limit) {
        (_, Limit::Matching(_)) => MismatchKind::Form,
        (_, Limit::NotBefore(_)) => MismatchKind::Rule,
        (Value::String(_), Limit::AtLeast(_)) => MismatchKind::TooShort,
        (Value::String(_), Limit::AtMost(_)) => MismatchKind::TooLong,
        (Value::Array(_) | Value::Object(_), Limit::AtLeast(_)) => MismatchKind::TooFew,
        (Value::Array(_) | Value::Object(_), Limit::AtMost(_)) => MismatchKind::TooMany,
        _ => MismatchKind::Range,
    }
}

/// Does a text from a path, a query or a header fit? Numbers and switches are written as in JSON there,
/// and a list with commas.
#[must_use]
pub fn text_fits(text: &str, typed: &ConstrainedType, shapes: &ShapeTable) -> bool {
    let fits = |value: &Value| value_fits(value, typed, shapes);
    let items = || text.split(',').map(str::trim);
    let listed = || Value::Array(items().map(Value::from).collect());
    let listed_scalars = || {
        let scalar = |item| scalar(item).unwrap_or_else(|| Value::from(item));
        Value::Array(items().map(scalar).collect())
    };
    scalar(text).is_some_and(|value| fits(&value))
        || fits(&Value::from(text))
        || fits(&listed())
        || fits(&listed_scalars())
}

/// The number or the truth value that a text stands for.
fn scalar(text: &str) -> Option<Value> {
    let is_part =
        |byte: u8| byte.is_ascii_digit() || matches!(byte, b'-' | b'+' | b'.' | b'e' | b'E');
    // What is no number in Rust's eyes is none in JSON's; the reverse is left to serde_json.
    let is_number = || text.bytes().all(is_part) && text.parse::<f64>().is_ok();
    let is_scalar = matches!(text, "true" | "false") || is_number();
    is_scalar.then(|| serde_json::from_str(text).ok()).flatten()
}

/// Does a value fit, alone?
#[must_use]
pub fn value_fits(value: &Value, typed: &ConstrainedType, shapes: &ShapeTable) -> bool {
    let mut comparison = ShapeComparer { shapes, headers: None, mismatches: Vec::new() };
    comparison.typed(value, typed, &JsonPath::Top, ExpectedType::Expression(""));
    comparison.mismatches.is_empty()
}

/// Every location at which a value differs from what a type expression says.
#[must_use]
pub fn compare_value(
    value: &Value,
    typed: &ConstrainedType,
    expected: &str,
    shapes: &ShapeTable,
) -> Vec<Mismatch> {
    let mut comparison = ShapeComparer { shapes, headers: None, mismatches: Vec::new() };
    comparison.typed(value, typed, &JsonPath::Top, ExpectedType::Expression(expected));
    comparison.mismatches
}

#[allow(clippy::cast_precision_loss, reason = "no string or array here has 2^53 parts")]
fn keeps(value: &Value, limit: &Limit) -> bool {
    let measure = match value {
        Value::Number(number) => number.as_f64().unwrap_or(f64::NAN),
        Value::String(text) => text.chars().count() as f64,
        Value::Array(items) => items.len() as f64,
        Value::Object(members) => members.len() as f64,
        Value::Null | Value::Bool(_) => return true,
    };
    match limit {
        Limit::AtLeast(least) => measure >= *least,
        Limit::AtMost(most) => measure <= *most,
        Limit::Matching(pattern) => value.as_str().is_none_or(|text| pattern.is_match(text)),
        // The object that the value is in knows the other.
        Limit::NotBefore(_) => true,
    }
}

#[cfg(test)]
mod tests {
    use super::super::{ShapeMember, parse};
    use super::*;
    use serde_json::json;

    fn differs(expected: &str, value: &Value) -> Option<MismatchKind> {
        let shapes = ShapeTable::default();
        let parsed = parse(expected, &|_| None).unwrap();
        let shape = Shape {
            members: vec![ShapeMember {
                name: "x".to_owned(),
                text: expected.to_owned(),
                optional: parsed.optional,
                constrained: parsed.typed,
            }],
            ..Shape::default()
        };
        let found = compare(&json!({ "x": value }), &shape, &shapes);
        assert!(found.len() <= 1, "{found:?}");
        found.first().map(|mismatch| mismatch.kind)
    }

    /// As a list is written in a query: with commas, of texts or of numbers.
    #[test]
    fn a_text_is_what_is_written_in_it() {
        for (expected, text, fits) in [
            ("array of integer", "1,2,3", true),
            ("array of integer", "1,x", false),
            ("array of string", "1,x", true),
            ("array of (integer or boolean)", "1,true", true),
            ("array of integer, at most 2", "1,2,3", false),
            ("integer", "1", true),
            ("string", "1", true),
            ("boolean", "yes", false),
        ] {
            let typed = parse(expected, &|_| None).unwrap().typed;
            assert_eq!(text_fits(text, &typed, &ShapeTable::default()), fits, "{expected}: {text}");
        }
    }

    #[test]
    fn kinds_and_limits_hold_or_not() {
        use MismatchKind::{Choice, Form, Listed, Range, TooFew, TooLong, WrongType};
        for (expected, value, kind) in [
            ("string", json!("a"), None),
            ("string", json!(1), Some(WrongType)),
            ("string at least 3", json!("äöü"), None),
            ("string at most 2", json!("äöü"), Some(TooLong)),
            ("integer", json!(10.0), None),
            ("integer", json!(1e1), None),
            ("integer", json!(1.5), Some(Form)),
            ("integer", json!("1"), Some(WrongType)),
            ("integer from 1 to 28", json!(28), None),
            ("integer from 1 to 28", json!(0), Some(Range)),
            ("number at most 0.5", json!(0.50001), Some(Range)),
            ("status", json!(599), None),
            ("status", json!(600), Some(Range)),
            ("date", json!("2027-02-30"), Some(Form)),
            ("date or null", json!(null), None),
            ("date or null", json!("soon"), Some(Choice)),
            ("string matching ^[A-Z]{2}[0-9]{4}$", json!("AB1234"), None),
            ("string matching ^[A-Z]{2}[0-9]{4}$", json!("AB123"), Some(Form)),
            ("one of a, b", json!("c"), Some(Listed)),
            ("one of 1, 2", json!(2.0), None),
            ("exactly true", json!(false), Some(Listed)),
            ("exactly \"true\"", json!(true), Some(WrongType)),
            ("array of string, at least 1", json!([]), Some(TooFew)),
            ("array of string, at least 1", json!(["a"]), None),
            ("map of integer", json!({"a": 1, "b": 2}), None),
            ("json pointer", json!("/a/0"), None),
            ("json pointer", json!("a.b"), Some(Form)),
            ("anything", json!(null), None),
        ] {
            assert_eq!(differs(expected, &value), kind, "{expected}: {value}");
        }
    }

    #[test]
    fn a_list_names_the_item_that_differs() {
        let shapes = ShapeTable::default();
        let parsed = parse("array of integer", &|_| None).unwrap();
        let member = ShapeMember {
            name: "a/b".into(),
            text: "array of integer".into(),
            optional: false,
            constrained: parsed.typed,
        };
        let shape = Shape { members: vec![member], closed: true, ..Shape::default() };
        let found = compare(&json!({"a/b": [1, "2", 3], "c": 1}), &shape, &shapes);
        let locations: Vec<_> = found.iter().map(|m| (m.pointer.as_str(), m.kind)).collect();
        assert_eq!(
            locations,
            [("/a~1b/1", MismatchKind::WrongType), ("/c", MismatchKind::Unknown)]
        );
    }
}
