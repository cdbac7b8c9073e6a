//! The rules for bodies, as the contract has them.

use jiff::civil::Date;
use serde_json::{Map, Value};

use crate::problem::Invalid;

/// The members of a body that is not valid, in the order of the rules.
pub(crate) struct InvalidMembers<'b> {
    body: &'b Map<String, Value>,
    /// Where that is, as a JSON Pointer.
    at: String,
    pub(crate) invalid: Vec<Invalid>,
}

impl<'b> InvalidMembers<'b> {
    pub(crate) fn of(body: &'b Map<String, Value>) -> Self {
        Self { body, at: String::new(), invalid: Vec::new() }
    }

    /// An object within the body, if it is there.
    pub(crate) fn object(&mut self, name: &str, check: impl FnOnce(&mut Self)) {
        let Some(value) = self.body.get(name) else { return };
        let at = format!("{}/{name}", self.at);
        self.within(value, at, check);
    }

    /// A list of objects, if it is there: each of the first `looked_at`.
    pub(crate) fn objects(
        &mut self,
        name: &str,
        most: usize,
        looked_at: usize,
        check: impl Fn(&mut Self),
    ) {
        match self.body.get(name) {
            None => {}
            Some(Value::Array(list)) if list.len() > most => {
                self.wrong(name, "too_long", "has too many items");
            }
            Some(Value::Array(list)) => {
                for (number, item) in list.iter().enumerate().take(looked_at) {
                    self.within(item, format!("{}/{name}/{number}", self.at), &check);
                }
            }
            Some(_) => self.wrong(name, "wrong_kind", "has to be a list"),
        }
    }

    fn within(&mut self, value: &'b Value, at: String, check: impl FnOnce(&mut Self)) {
        let Value::Object(body) = value else {
            self.invalid.push(("pointer", at, "wrong_kind", "has to be an object"));
            return;
        };
        let mut inner = InvalidMembers { body, at, invalid: Vec::new() };
        check(&mut inner);
        self.invalid.append(&mut inner.invalid);
    }

    fn wrong(&mut self, name: &str, code: &'static str, detail: &'static str) {
        self.invalid.push(("pointer", format!("{}/{name}", self.at), code, detail));
    }

    /// The value, if it is there; if it is not and has to be, that is said.
    fn value(&mut self, name: &str, is_needed: bool) -> Option<&'b Value> {
        let value = self.body.get(name);
        if value.is_none() && is_needed {
            self.wrong(name, "missing", "is needed");
        }
        value
    }

    pub(crate) fn number(
        &mut self,
        name: &str,
        range: std::ops::RangeInclusive<f64>,
        detail: &'static str,
    ) -> Option<f64> {
        let value = self.value(name, true)?;
        match value.as_f64() {
            None => self.wrong(name, "wrong_kind", "has to be a number"),
            Some(number) if !range.contains(&number) => self.wrong(name, "out_of_range", detail),
            Some(number) => return Some(number),
        }
        None
    }

    pub(crate) fn integer(
        &mut self,
        name: &str,
        is_needed: bool,
        range: std::ops::RangeInclusive<i64>,
        detail: &'static str,
    ) -> Option<i64> {
        let value = self.value(name, is_needed)?;
        match value.as_i64() {
            None => self.wrong(name, "wrong_kind", "has to be a whole number"),
            Some(number) if !range.contains(&number) => self.wrong(name, "out_of_range", detail),
            Some(number) => return Some(number),
        }
        None
    }

    /// A text of so many characters at the most, and of one at least if it is needed.
    pub(crate) fn text(
        &mut self,
        name: &str,
        is_needed: bool,
        most: usize,
        detail: &'static str,
    ) -> Option<&'b str> {
        let value = self.value(name, is_needed)?;
        match value.as_str() {
            None => self.wrong(name, "wrong_kind", "has to be a text"),
            Some("") if is_needed => self.wrong(name, "too_short", detail),
            Some(text) if text.chars().count() > most => self.wrong(name, "too_long", detail),
            Some(text) => return Some(text),
        }
        None
    }

    /// A text of a form.
    pub(crate) fn form(
        &mut self,
        name: &str,
        is_needed: bool,
        fits: fn(&str) -> bool,
        detail: &'static str,
    ) -> Option<&'b str> {
        let value = self.value(name, is_needed)?;
        match value.as_str() {
            None => self.wrong(name, "wrong_kind", "has to be a text"),
            Some(text) if !fits(text) => self.wrong(name, "wrong_form", detail),
            Some(text) => return Some(text),
        }
        None
    }
}

pub(crate) fn is_day(text: &str) -> bool {
    text.len() == 10 && text.parse::<Date>().is_ok()
}

/// A date and time with an offset (RFC 3339 section 5.6).
pub(crate) fn is_moment(text: &str) -> bool {
    text.contains('T') && text.parse::<jiff::Timestamp>().is_ok()
}

/// A number with the prefix of its country.
pub(crate) fn is_phone(text: &str) -> bool {
    let digits = text.strip_prefix('+').unwrap_or_default();
    (6..=20).contains(&digits.len()) && digits.bytes().all(|b| b.is_ascii_digit() || b == b' ')
}

/// What somebody does on board.
pub(crate) fn is_role(text: &str) -> bool {
    matches!(text, "skipper" | "mate" | "hand")
}

/// Two letters and four digits.
pub(crate) fn is_vessel_id(text: &str) -> bool {
    let (letters, digits) = text.split_at_checked(2).unwrap_or_default();
    letters.bytes().all(|b| b.is_ascii_uppercase())
        && digits.len() == 4
        && digits.bytes().all(|b| b.is_ascii_digit())
}

/// Two letters.
pub(crate) fn is_flag(text: &str) -> bool {
    text.len() == 2 && text.bytes().all(|b| b.is_ascii_uppercase())
}
