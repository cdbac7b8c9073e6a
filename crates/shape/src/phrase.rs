//! The phrase grammar: `["optional"] KIND ["or" KIND]… [LIMIT…]`.
//!
//! ```text
//! phrase = ["optional"] kind *("or" kind) *("," limit)
//! kind   = word / "array of" kind / "map of" kind / "one of" values / "exactly" value  *limit
//!          / "same as header" NAME
//! limit  = "at least" N / "at most" N / "from" N "to" N / "matching" PATTERN / "not before" MEMBER
//! ```
//! A limit right behind a kind belongs to that kind; one behind a comma belongs to the whole phrase.
//! `matching` takes all the rest of the type expression, since a pattern may hold anything; so does `one of`,
//! up to a limit behind a comma.

use std::ops::Range;

use serde_json::Value;

use super::kind::{ConstrainedType, Limit, ShapeId, TypeName};

/// A phrase that was understood.
#[derive(Debug, Clone)]
pub struct TypeExpression {
    /// Did it start with `optional`?
    pub optional: bool,
    /// What the value has to be.
    pub typed: ConstrainedType,
}

/// A phrase that was not understood.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct TypeExpressionError {
    /// Where in the type expression, in bytes.
    pub range: Range<usize>,
    /// What is wrong there.
    pub message: String,
    /// What would be right.
    pub help: String,
}

/// The kinds of one or two words, in the order of the documents.
static KINDS: [(&str, TypeName); 16] = [
    ("string", TypeName::String),
    ("number", TypeName::Number),
    ("integer", TypeName::Integer),
    ("boolean", TypeName::Boolean),
    ("null", TypeName::Null),
    ("anything", TypeName::Anything),
    ("object", TypeName::Object),
    ("uri reference", TypeName::UriReference),
    ("uri", TypeName::Uri),
    ("date-time", TypeName::DateTime),
    ("date", TypeName::Date),
    ("http-date", TypeName::HttpDate),
    ("absent", TypeName::Absent),
    ("json pointer", TypeName::JsonPointer),
    ("status", TypeName::Status),
    ("language tag", TypeName::LanguageTag),
];

/// Every word or pair of words that can start a kind, for suggestions.
pub fn type_names() -> impl Iterator<Item = &'static str> {
    KINDS.iter().map(|(name, _)| *name).chain([
        "one of",
        "exactly",
        "not exactly",
        "same as header",
        "array of",
        "map of",
    ])
}

/// A pattern needs no more than this to be compiled; a greater one is a mistake.
const PATTERN_LIMIT: usize = 1 << 20;

/// Lists within lists end somewhere.
const MOST_NESTED: usize = 16;

/// Reads a type expression; `shape` finds a shape by its name.
///
/// # Errors
/// The first thing that is not understood, with its place and what would be right.
pub fn parse(
    text: &str,
    shape: &dyn Fn(&str) -> Option<ShapeId>,
) -> Result<TypeExpression, TypeExpressionError> {
    let mut reader = ExpressionParser { text, at: 0, shape, open: 0 };
    let optional = reader.take("optional");
    let mut alternatives = reader.alternatives(0)?;
    while reader.comma() {
        let start = reader.at;
        let Some(limits) = reader.limits()? else {
            return Err(reader.no_limit(start));
        };
        for limit in limits {
            reader.attach(&mut alternatives, &limit, start)?;
        }
    }
    reader.end()?;
    let typed = either(alternatives);
    // What must not be there can be left out.
    let optional = optional || matches!(typed.name, TypeName::Absent);
    Ok(TypeExpression { optional, typed })
}

/// One of these, or the only one.
fn either(mut alternatives: Vec<ConstrainedType>) -> ConstrainedType {
    match alternatives.len() {
        1 => alternatives.remove(0),
        _ => ConstrainedType { name: TypeName::Either(alternatives), limits: Vec::new() },
    }
}

struct ExpressionParser<'t> {
    text: &'t str,
    at: usize,
    /// So many parentheses are open.
    open: usize,
    shape: &'t dyn Fn(&str) -> Option<ShapeId>,
}

impl<'t> ExpressionParser<'t> {
    fn rest(&self) -> &'t str {
        self.text.get(self.at..).unwrap_or_default()
    }

    fn space(&mut self) {
        self.at += self.rest().len() - self.rest().trim_start().len();
    }

    /// Takes these words if they stand next, as whole words.
    fn take(&mut self, words: &str) -> bool {
        self.space();
        let mut rest = self.rest();
        for word in words.split(' ') {
            match rest.trim_start().strip_prefix(word) {
                Some(after) if after.is_empty() || after.starts_with([' ', ',', ')']) => {
                    rest = after;
                }
                _ => return false,
            }
        }
        self.at = self.text.len() - rest.len();
        true
    }

    /// Kinds with `or` between them.
    fn alternatives(&mut self, depth: usize) -> Result<Vec<ConstrainedType>, TypeExpressionError> {
        let start = self.at;
        let mut alternatives = Vec::new();
        loop {
            // A choice among the choices is part of them, so that a limit behind reaches each.
            match self.kind(depth)? {
                ConstrainedType { name: TypeName::Either(each), .. } => alternatives.extend(each),
                one => alternatives.push(one),
            }
            if !self.take("or") {
                break;
            }
        }
        let is_absent = |one: &ConstrainedType| matches!(one.name, TypeName::Absent);
        if alternatives.iter().any(is_absent) && (alternatives.len() > 1 || depth > 0) {
            let help = "write `absent` alone; what may be left out is `optional`";
            return Err(error(start..self.at, "`absent` stands alone", help));
        }
        Ok(alternatives)
    }

    /// A choice in parentheses, where one stands here.
    fn parenthesised(
        &mut self,
        depth: usize,
    ) -> Result<Option<ConstrainedType>, TypeExpressionError> {
        self.space();
        let start = self.at;
        if !self.rest().starts_with('(') {
            return Ok(None);
        }
        self.at += 1;
        self.open += 1;
        let alternatives = self.alternatives(depth + 1)?;
        self.space();
        if !self.rest().starts_with(')') {
            let help = "close it with `)`, as in `array of (string or integer)`";
            return Err(error(start..self.at, "this parenthesis is not closed", help));
        }
        self.at += 1;
        self.open -= 1;
        Ok(Some(either(alternatives)))
    }

    fn comma(&mut self) -> bool {
        self.space();
        let found = self.rest().starts_with(',');
        self.at += usize::from(found);
        self.space();
        found
    }

    /// The next word, and its place, without taking it.
    fn word(&mut self) -> (&'t str, Range<usize>) {
        self.space();
        let rest = self.rest();
        let word = rest.split([' ', ',', ')']).next().unwrap_or_default();
        (word, self.at..self.at + word.len())
    }

    fn kind(&mut self, depth: usize) -> Result<ConstrainedType, TypeExpressionError> {
        if depth > MOST_NESTED {
            let (_, range) = self.word();
            return Err(error(range, "too many lists within lists", "name a shape in between"));
        }
        if let Some(choice) = self.parenthesised(depth)? {
            return Ok(choice);
        }
        let kind = if self.take("array of") {
            TypeName::Array(Box::new(self.kind(depth + 1)?))
        } else if self.take("map of") {
            TypeName::Map(Box::new(self.kind(depth + 1)?))
        } else if self.take("one of") {
            TypeName::OneOf(self.values()?)
        } else if self.take("exactly") {
            TypeName::Exactly(self.value()?)
        } else if self.take("not exactly") {
            TypeName::NotExactly(self.value()?)
        } else if self.take("same as header") {
            TypeName::SameAsHeader(self.name("a header", "same as header X-Request-Id")?)
        } else if let Some((_, kind)) = KINDS.iter().find(|(name, _)| self.take(name)) {
            kind.clone()
        } else {
            let (word, range) = self.word();
            match (self.shape)(word) {
                Some(id) => {
                    self.at = range.end;
                    TypeName::Shape(id)
                }
                None => return Err(self.no_kind(word, range)),
            }
        };
        let mut typed = ConstrainedType { name: kind, limits: Vec::new() };
        let start = self.at;
        if let Some(limits) = self.limits()? {
            for limit in limits {
                self.attach(std::slice::from_mut(&mut typed), &limit, start)?;
            }
        }
        Ok(typed)
    }

    /// The one value of `exactly`.
    fn value(&mut self) -> Result<Value, TypeExpressionError> {
        let mut values = self.values()?;
        if values.len() > 1 {
            let range = self.at..self.at;
            return Err(error(range, "`exactly` takes one value", "write `one of A, B`"));
        }
        Ok(values.pop().unwrap_or_default())
    }

    /// The values of `one of` and `exactly`: JSON where they are JSON, else plain text.
    fn values(&mut self) -> Result<Vec<Value>, TypeExpressionError> {
        let mut values = Vec::new();
        loop {
            self.space();
            let (start, rest) = (self.at, self.rest());
            let (value, length) = if rest.starts_with('"') {
                let mut stream = serde_json::Deserializer::from_str(rest).into_iter::<Value>();
                match stream.next() {
                    Some(Ok(value)) => (value, stream.byte_offset()),
                    _ => {
                        let range = start..self.text.len();
                        return Err(error(
                            range,
                            "this quoted value does not end",
                            "close it with `\"`",
                        ));
                    }
                }
            } else {
                let ends: &[char] = if self.open > 0 { &[',', ')'] } else { &[','] };
                let word = rest.split(ends).next().unwrap_or_default();
                let text = word.trim_end();
                let value = serde_json::from_str(text).unwrap_or_else(|_| Value::from(text));
                (value, word.len())
            };
            if length == 0 || value.as_str() == Some("") && !rest.starts_with('"') {
                return Err(error(
                    start..start,
                    "a value is missing here",
                    "name at least one value",
                ));
            }
            values.push(value);
            self.at += length;
            self.space();
            let here = self.at;
            if !self.comma() {
                return Ok(values);
            }
            if ["at least", "at most", "from", "not before"].iter().any(|word| self.stands(word)) {
                self.at = here;
                return Ok(values);
            }
        }
    }

    fn stands(&mut self, words: &str) -> bool {
        let here = self.at;
        let found = self.take(words);
        self.at = here;
        found
    }

    /// The next limit, if one stands here. `from A to B` is two.
    fn limits(&mut self) -> Result<Option<Vec<Limit>>, TypeExpressionError> {
        Ok(Some(if self.take("at least") {
            vec![Limit::AtLeast(self.number()?)]
        } else if self.take("at most") {
            vec![Limit::AtMost(self.number()?)]
        } else if self.take("from") {
            let start = self.at;
            let least = self.number()?;
            if !self.take("to") {
                let (_, range) = self.word();
                return Err(error(range, "`from` needs `to`", "write `from 1 to 28`"));
            }
            let most = self.number()?;
            if least > most {
                let range = start + 1..self.at;
                return Err(error(range, "the range is empty", "write the smaller number first"));
            }
            vec![Limit::AtLeast(least), Limit::AtMost(most)]
        } else if self.take("not before") {
            vec![Limit::NotBefore(self.name("a member", "not before arrives")?)]
        } else if self.take("matching") {
            self.space();
            if self.open > 0 {
                let help =
                    "a pattern takes all the rest; name a shape, or leave the parentheses out";
                let range = self.at..self.text.len();
                return Err(error(range, "`matching` can't stand in parentheses", help));
            }
            let (start, pattern) = (self.at, self.rest().trim_end());
            self.at = self.text.len();
            if pattern.is_empty() {
                return Err(error(
                    start..start,
                    "`matching` needs a pattern",
                    "write `matching ^[a-z]+$`",
                ));
            }
            let built = regex::RegexBuilder::new(pattern).size_limit(PATTERN_LIMIT).build();
            vec![Limit::Matching(built.map_err(|reason| bad_pattern(start, pattern, &reason))?)]
        } else {
            return Ok(None);
        }))
    }

    /// A name of one word.
    fn name(&mut self, of: &str, example: &str) -> Result<String, TypeExpressionError> {
        let (word, range) = self.word();
        if word.is_empty() {
            let message = format!("the name of {of} is missing here");
            return Err(error(range, &message, &format!("write `{example}`")));
        }
        self.at = range.end;
        Ok(word.to_owned())
    }

    fn number(&mut self) -> Result<f64, TypeExpressionError> {
        let (word, range) = self.word();
        match word.parse::<f64>() {
            Ok(number) if number.is_finite() => {
                self.at = range.end;
                Ok(number)
            }
            _ => Err(error(
                range,
                &format!("expected a number, found `{word}`"),
                "write `at most 200`",
            )),
        }
    }

    /// Gives a limit to every alternative that can have it.
    fn attach(
        &self,
        to: &mut [ConstrainedType],
        limit: &Limit,
        start: usize,
    ) -> Result<(), TypeExpressionError> {
        let mut taken = false;
        for typed in to.iter_mut().filter(|typed| typed.name.admits(limit)) {
            typed.limits.push(limit.clone());
            taken = true;
        }
        if taken {
            return Ok(());
        }
        let start =
            start + self.text.get(start..).map_or(0, |rest| rest.len() - rest.trim_start().len());
        let help = match limit {
            Limit::Matching(_) => "`matching` goes with string, uri and uri reference",
            Limit::NotBefore(_) => "`not before` goes with date, date-time, http-date and numbers",
            Limit::AtLeast(_) | Limit::AtMost(_) => {
                "sizes go with string, number, integer, array and map"
            }
        };
        Err(error(start..self.at, "this limit means nothing for this type", help))
    }

    fn end(&mut self) -> Result<(), TypeExpressionError> {
        self.space();
        if self.rest().is_empty() { Ok(()) } else { Err(self.no_limit(self.at)) }
    }

    fn no_limit(&mut self, start: usize) -> TypeExpressionError {
        let (word, _) = self.word();
        let range = start..self.text.len().max(start);
        let help = "a limit is `at least N`, `at most N`, `from A to B`, `not before MEMBER` or `matching PATTERN`";
        error(range, &format!("`{word}` starts no limit"), help)
    }

    fn no_kind(&self, word: &str, range: Range<usize>) -> TypeExpressionError {
        if word.is_empty() {
            return error(
                range,
                "a type name is missing here",
                "a type name is string, integer, date, array of …",
            );
        }
        let message = format!("`{word}` is neither a type name nor a shape of this contract");
        error(range, &message, "")
    }
}

fn error(range: Range<usize>, message: &str, help: &str) -> TypeExpressionError {
    TypeExpressionError { range, message: message.to_owned(), help: help.to_owned() }
}

fn bad_pattern(start: usize, pattern: &str, reason: &regex::Error) -> TypeExpressionError {
    let reason = reason.to_string();
    let last = reason.lines().last().unwrap_or_default().trim_start_matches("error: ").to_owned();
    let help = "patterns are regular expressions without look-around and back references";
    error(start..start + pattern.len(), &format!("the pattern does not compile: {last}"), help)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(text: &str) -> Result<String, String> {
        let shapes = |name: &str| (name == "crew").then_some(ShapeId(0));
        match parse(text, &shapes) {
            Ok(expression) => Ok(format!("{expression:?}")),
            Err(error) => Err(format!("{}@{:?}", error.message, error.range)),
        }
    }

    #[test]
    fn phrases_that_are_right() {
        for text in [
            "string",
            "optional string, at most 200",
            "optional string at most 200",
            "string matching ^[A-Z]{2}, or [0-9]$",
            "integer from 1 to 28",
            "number at least -0.5, at most 1e3",
            "array of crew, at least 1",
            "array of array of string",
            "map of array of uri reference",
            "one of missing, too_short, out_of_range",
            "one of \"a, b\", c",
            "array of one of a, b, at least 1",
            "exactly 3",
            "date or null",
            "string or array of string",
            "string or null, at most 80",
            "date-time",
        ] {
            assert!(read(text).is_ok(), "{text}: {:?}", read(text));
        }
    }

    #[test]
    fn phrases_that_are_wrong_say_where() {
        for (text, error) in [
            ("", "a type name is missing here@0..0"),
            ("txt", "`txt` is neither a type name nor a shape of this contract@0..3"),
            ("optional", "a type name is missing here@8..8"),
            (
                "array of sailor",
                "`sailor` is neither a type name nor a shape of this contract@9..15",
            ),
            ("string, at leest 3", "`at` starts no limit@8..18"),
            ("string most 3", "`most` starts no limit@7..13"),
            ("string, at most ten", "expected a number, found `ten`@16..19"),
            ("integer from 28 to 1", "the range is empty@13..20"),
            ("integer from 1", "`from` needs `to`@14..14"),
            ("boolean, at most 3", "this limit means nothing for this type@9..18"),
            ("array of boolean matching ^a$", "this limit means nothing for this type@17..29"),
            ("string matching", "`matching` needs a pattern@15..15"),
            ("string matching (a", "the pattern does not compile: unclosed group@16..18"),
            ("one of", "a value is missing here@6..6"),
            ("one of a,", "a value is missing here@9..9"),
            ("one of \"a", "this quoted value does not end@7..9"),
            ("string or", "a type name is missing here@9..9"),
        ] {
            assert_eq!(read(text), Err(error.to_owned()), "{text}");
        }
    }

    #[test]
    fn a_limit_belongs_to_the_kind_before_it_or_behind_a_comma_to_the_whole() {
        let inner = read("array of string at most 3").unwrap();
        let outer = read("array of string, at most 3").unwrap();
        assert!(inner.contains("name: String, limits: [AtMost(3.0)]"), "{inner}");
        assert!(outer.contains("name: String, limits: []"), "{outer}");
    }

    #[test]
    fn a_hundred_lists_within_each_other_are_refused() {
        assert!(read(&"array of ".repeat(100)).unwrap_err().contains("too many"));
    }

    #[test]
    fn a_pattern_that_would_grow_without_end_is_refused() {
        assert!(read("string matching (a{1000}){1000}").unwrap_err().contains("does not compile"));
    }
}
