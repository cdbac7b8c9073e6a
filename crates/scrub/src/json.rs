//! JSON text, whole or broken, gone over without reading it: strings and numbers are found where they
//! stand, with the names before them.

use std::borrow::Cow;

use super::Scrubber;
use super::layers::{in_literal, plain};
use super::personal::{is_card, is_personal_name};
use super::replacements::Replacements;
use super::scrubber::{SecretLocation, looks_random};
use faithful_clerk_model::json::scan::{plain_string_end, string_end};
use faithful_clerk_model::secret::SecretKind;

/// JSON in strings in JSON is followed so deep.
pub(super) const DEEPEST: usize = 6;

/// Whose body it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum MessageSide {
    /// A request's, or a success: what stands under a secret's name is one.
    Request,
    /// An error's: under a field's name stands, as a rule, what is wrong with the field.
    Response,
}

impl MessageSide {
    /// That of an error, or of anything else.
    pub(super) fn of(is_error: bool) -> Self {
        if is_error { Self::Response } else { Self::Request }
    }
}

/// An open bracket.
#[derive(Debug)]
struct OpenBracket<'t> {
    is_object: bool,
    /// All below is secret.
    inherited: Option<SecretKind>,
    /// It is below an object with a secret's name, in which not everything has to be secret.
    is_below: bool,
    /// The name before the value that comes.
    name: Option<Cow<'t, str>>,
    /// The nearest level around this one that has a name.
    around: Option<usize>,
    /// The value that comes is secret.
    named: Option<SecretKind>,
}

impl Scrubber<'_> {
    /// Replaces in JSON text.
    pub(super) fn json(&mut self, text: &str, side: MessageSide, depth: usize) -> Option<String> {
        let bytes = text.as_bytes();
        let mut levels: Vec<OpenBracket<'_>> = Vec::new();
        let (mut edits, mut at) = (Replacements::of(text), 0);
        while let Some(byte) = bytes.get(at) {
            let start = at;
            at += 1;
            match byte {
                b'{' | b'[' => {
                    let (kind, is_below) = inherited(&levels);
                    let inherited = kind.filter(|_| side == MessageSide::Request);
                    levels.push(OpenBracket {
                        is_object: *byte == b'{',
                        inherited,
                        is_below: is_below || *byte == b'{' && inherited.is_some(),
                        name: None,
                        around: nearest(&levels),
                        named: None,
                    });
                }
                b'}' | b']' => {
                    levels.pop();
                }
                b',' => {
                    if let Some(level) = levels.last_mut() {
                        (level.name, level.named) = (None, None);
                    }
                }
                b'"' => {
                    let plain_end = plain_string_end(bytes, at);
                    let end = plain_end.or_else(|| string_end(bytes, at));
                    let range = at..end.map_or(bytes.len(), |end| end - 1);
                    at = end.unwrap_or(bytes.len());
                    let inner = text.get(range.clone()).unwrap_or_default();
                    let is_plain = plain_end.is_some();
                    let is_name = levels.last().is_some_and(|l| l.is_object && l.name.is_none())
                        && bytes.get(at..).unwrap_or_default().trim_ascii_start().starts_with(b":");
                    let new = match is_name {
                        true => self.member(inner, is_plain, &mut levels),
                        false => self.member_value(inner, is_plain, &levels, (side, depth)),
                    };
                    if let Some(new) = new {
                        edits.replace(range, &new);
                    }
                }
                b'-' | b'0'..=b'9' => {
                    let rest = bytes.get(at..).unwrap_or_default();
                    let is_number = |byte: &u8| byte.is_ascii_digit() || b"+-.eE".contains(byte);
                    at += rest.iter().position(|byte| !is_number(byte)).unwrap_or(rest.len());
                    let number = text.get(start..at).unwrap_or_default();
                    if let Some(new) = self.number(number, &levels, side) {
                        edits.replace(start..at, &new);
                    }
                }
                _ => {}
            }
        }
        edits.done()
    }

    /// The name of a member, as it stands there: what comes is its value.
    fn member<'t>(
        &mut self,
        inner: &'t str,
        is_plain: bool,
        levels: &mut [OpenBracket<'t>],
    ) -> Option<String> {
        let name = if is_plain { Cow::Borrowed(inner) } else { plain(inner) };
        let facts = self.name_facts(&name);
        let named = facts.kind.or_else(|| {
            let around = nearest(levels).and_then(|at| levels.get(at)?.name.as_deref());
            let is_one = self.is_personal && is_personal_name(&name, around.unwrap_or_default());
            is_one.then_some(SecretKind::Personal)
        });
        if let Some(level) = levels.last_mut() {
            (level.name, level.named) = (Some(name), named);
        }
        if self.memory.is_plain_name(facts) {
            return None;
        }
        // A map may be keyed by tokens.
        let location = SecretLocation::of("the names of members");
        in_literal(inner, &mut |inner| self.name(inner, facts, location))
    }

    /// A text that is a value, as it stands there.
    fn member_value(
        &mut self,
        inner: &str,
        is_plain: bool,
        levels: &[OpenBracket<'_>],
        (side, depth): (MessageSide, usize),
    ) -> Option<String> {
        let (kind, is_below) = inherited(levels);
        let level = nearest(levels).and_then(|at| levels.get(at));
        let name = level.and_then(|level| level.name.as_deref()).unwrap_or_default();
        let mut value = |inner: &str| {
            let kind = kind.filter(|_| !is_below || looks_random(inner));
            self.value(inner, name, kind, side, depth)
        };
        if is_plain { value(inner) } else { in_literal(inner, &mut value) }
    }

    /// A number that is a value.
    fn number(
        &mut self,
        number: &str,
        levels: &[OpenBracket<'_>],
        side: MessageSide,
    ) -> Option<String> {
        let (kind, is_below) = inherited(levels);
        let is_card = self.is_personal && is_card(number);
        let kind = kind.filter(|_| side == MessageSide::Request && !is_below);
        let kind = kind.or(is_card.then_some(SecretKind::Personal))?;
        let name = levels.last().and_then(|level| level.name.as_deref());
        let location = SecretLocation::named("member", name.unwrap_or_default());
        let pseudonym = self.secret(number, kind, location)?;
        Some(digits(number, &pseudonym))
    }

    /// The value of a member, decoded.
    fn value(
        &mut self,
        value: &str,
        name: &str,
        kind: Option<SecretKind>,
        side: MessageSide,
        depth: usize,
    ) -> Option<String> {
        let location = SecretLocation::named("member", name);
        match kind {
            Some(kind) if side == MessageSide::Request || looks_random(value) => {
                self.secret(value, kind, location)
            }
            _ => self.any(value, location, depth),
        }
    }
}

/// What the value that comes is a secret by, and whether it is below an object with a secret's name.
fn inherited(levels: &[OpenBracket<'_>]) -> (Option<SecretKind>, bool) {
    let Some(level) = levels.last() else { return (None, false) };
    (level.named.or(level.inherited), level.is_below && level.named.is_none())
}

/// The innermost level that has a name. It is known without going through them: there may be a million.
fn nearest(levels: &[OpenBracket<'_>]) -> Option<usize> {
    let level = levels.last()?;
    if level.name.is_some() { Some(levels.len() - 1) } else { level.around }
}

/// The pseudonym of a number has to be a number: no zero before other digits, and no digit of the exponent
/// changed.
fn digits(number: &str, pseudonym: &str) -> String {
    let exponent = number.find(['e', 'E']).unwrap_or(number.len());
    let first = number.find(|c: char| c.is_ascii_digit()).unwrap_or_default();
    let pair = number.char_indices().zip(pseudonym.chars());
    let digits: String = pair
        .map(|((at, old), new)| match new {
            _ if at >= exponent || old == '0' && at == first => old,
            '0' if at == first => '7',
            new => new,
        })
        .collect();
    // A number of one digit may come out as itself.
    let is_digit = |c: char| ('1'..='9').contains(&c);
    let mantissa = number.get(..exponent).unwrap_or_default();
    match mantissa.find(is_digit) {
        Some(at) if digits == number => {
            let other =
                if number.get(at..).is_some_and(|rest| rest.starts_with('1')) { "2" } else { "1" };
            number.replacen(is_digit, other, 1)
        }
        _ => digits,
    }
}
