//! Values that fit a type or a shape, and values that do not.

use faithful_clerk_shape::{ConstrainedType, Limit, Shape, ShapeTable, TypeName, value_fits};
use serde_json::{Map, Value};

/// What stands for text that nobody can make up.
pub const SOME_TEXT: &str = "…";

/// Shapes within shapes end somewhere, even if they name each other.
const MOST_NESTED: usize = 6;

/// A value that fits, as far as one can be made up: for some patterns it only stands for one.
#[must_use]
pub fn fitting(typed: &ConstrainedType, shapes: &ShapeTable) -> Value {
    fits(typed, shapes, 0)
}

/// An object of a shape, with the members that have to be there.
#[must_use]
pub fn of_shape(shape: &Shape, shapes: &ShapeTable) -> Value {
    object(shape, shapes, 0)
}

fn object(shape: &Shape, shapes: &ShapeTable, depth: usize) -> Value {
    if let Some(of) = &shape.of {
        return fits(of, shapes, depth + 1);
    }
    let required = shape.members.iter().filter(|member| !member.optional);
    let members =
        required.map(|member| (member.name.clone(), fits(&member.constrained, shapes, depth + 1)));
    Value::Object(members.collect())
}

fn fits(typed: &ConstrainedType, shapes: &ShapeTable, depth: usize) -> Value {
    let least = typed.limits.iter().find_map(|limit| match limit {
        Limit::AtLeast(least) => Some(*least),
        Limit::AtMost(_) | Limit::Matching(_) | Limit::NotBefore(_) => None,
    });
    let most = typed.limits.iter().find_map(|limit| match limit {
        Limit::AtMost(most) => Some(*most),
        Limit::AtLeast(_) | Limit::Matching(_) | Limit::NotBefore(_) => None,
    });
    let number = least.or(most.filter(|most| *most < 1.0)).unwrap_or(1.0);
    match &typed.name {
        TypeName::String => {
            let made_up = || Value::from(SOME_TEXT.repeat(at_least(least)));
            matching(typed, shapes).unwrap_or_else(made_up)
        }
        TypeName::Number => rounded(number).unwrap_or_else(|| Value::from(number)),
        TypeName::Integer => rounded(number.ceil()).unwrap_or(Value::from(1)),
        TypeName::Boolean => Value::from(true),
        TypeName::Null => Value::Null,
        TypeName::Anything | TypeName::SameAsHeader(_) => Value::from(SOME_TEXT),
        TypeName::Object | TypeName::Map(_) => Value::Object(Map::new()),
        TypeName::Uri | TypeName::UriReference => {
            matching(typed, shapes).unwrap_or_else(|| Value::from("https://example.org/"))
        }
        TypeName::Date => Value::from("2027-01-31"),
        TypeName::DateTime => Value::from("2027-01-31T12:00:00Z"),
        TypeName::HttpDate => Value::from("Sun, 31 Jan 2027 12:00:00 GMT"),
        TypeName::Absent => Value::Null,
        TypeName::JsonPointer => Value::from("/…"),
        TypeName::Status => Value::from(400),
        TypeName::LanguageTag => Value::from("en"),
        TypeName::OneOf(values) => values.first().cloned().unwrap_or_default(),
        TypeName::Exactly(value) => value.clone(),
        TypeName::NotExactly(unwanted) if unwanted.as_str() != Some(SOME_TEXT) => {
            Value::from(SOME_TEXT)
        }
        TypeName::NotExactly(_) => Value::from(format!("{SOME_TEXT}{SOME_TEXT}")),
        TypeName::Array(_) if depth >= MOST_NESTED || least == Some(0.0) => {
            Value::Array(Vec::new())
        }
        TypeName::Array(item) => Value::Array(vec![fits(item, shapes, depth + 1)]),
        TypeName::Shape(id) if depth < MOST_NESTED => {
            shapes.get(*id).map_or(Value::Null, |shape| object(shape, shapes, depth))
        }
        TypeName::Shape(_) => Value::Object(Map::new()),
        TypeName::Either(alternatives) => {
            alternatives.first().map_or(Value::Null, |one| fits(one, shapes, depth + 1))
        }
    }
}

/// A text that one of its patterns asks for, and that keeps all its limits.
fn matching(typed: &ConstrainedType, shapes: &ShapeTable) -> Option<Value> {
    let patterns = typed.limits.iter().filter_map(|limit| match limit {
        Limit::Matching(pattern) => Some(super::pattern::matching(pattern).map(Value::from)),
        Limit::AtLeast(_) | Limit::AtMost(_) | Limit::NotBefore(_) => None,
    });
    patterns.flatten().find(|text| value_fits(text, typed, shapes))
}

/// How often some text is repeated to be as long as it has to be; nobody wants more than a line of it.
fn at_least(least: Option<f64>) -> usize {
    let is_enough = |length: &u8| least.is_none_or(|least| f64::from(*length) >= least);
    usize::from((1..100).find(is_enough).unwrap_or(100))
}

/// A value that does not fit, the most telling one; `None` where every value fits.
#[must_use]
pub fn misfitting(typed: &ConstrainedType, shapes: &ShapeTable) -> Option<Value> {
    let beyond = typed.limits.iter().find_map(|limit| match limit {
        Limit::AtLeast(least) => rounded((least - 1.0).floor()),
        Limit::AtMost(most) => rounded((most + 1.0).ceil()),
        Limit::Matching(_) | Limit::NotBefore(_) => None,
    });
    let unwanted = match &typed.name {
        TypeName::NotExactly(unwanted) => Some(unwanted.clone()),
        _ => None,
    };
    let candidates = [
        unwanted,
        beyond.filter(|_| matches!(typed.name, TypeName::Integer | TypeName::Number)),
        Some(Value::from("?")),
        Some(Value::from("")),
        Some(Value::from(-1)),
        Some(Value::Object(Map::new())),
    ];
    let misfits = |value: &Value| !value_fits(value, typed, shapes);
    candidates.into_iter().flatten().find(misfits)
}

/// A whole number as JSON writes it.
fn rounded(number: f64) -> Option<Value> {
    const EXACT: f64 = 9_007_199_254_740_992.0;
    let is_whole = number.fract() == 0.0 && number.abs() < EXACT;
    is_whole.then(|| format!("{number:.0}").parse::<i64>().ok().map(Value::from)).flatten()
}

#[cfg(test)]
mod tests {
    use super::*;
    use faithful_clerk_shape::{parse, value_fits};

    /// Whatever can be said in a type expression has a sample that fits, and one that does not.
    #[test]
    fn samples_fit_and_misfit() {
        let shapes = ShapeTable::default();
        for text in [
            "string",
            "string from 3 to 5",
            "string matching ^[A-Z]{2}[0-9]{4}$",
            "number from 2 to 60",
            "number at most 0.5",
            "integer from 1 to 28",
            "integer",
            "boolean",
            "null",
            "object",
            "uri",
            "date",
            "date-time",
            "status",
            "language tag",
            "one of a, b",
            "exactly 4",
            "array of integer",
            "array of string, at least 1",
            "map of string",
            "date or null",
            "not exactly a",
            "not exactly 4",
            "http-date",
            "array of (string or integer), at least 1",
            "(one of a, b) or integer",
        ] {
            let typed = parse(text, &|_| None).map(|phrase| phrase.typed).unwrap();
            let fits = fitting(&typed, &shapes);
            assert!(value_fits(&fits, &typed, &shapes), "{text}: {fits}");
            let misfits = misfitting(&typed, &shapes).unwrap();
            assert!(!value_fits(&misfits, &typed, &shapes), "{text}: {misfits}");
        }
        let anything = parse("anything", &|_| None).map(|phrase| phrase.typed).unwrap();
        assert_eq!(misfitting(&anything, &shapes), None);
    }
}
