//! JSON Pointers (RFC 6901), plain or as a URI fragment.

use std::borrow::Cow;
use std::fmt::Write as _;

use serde_json::Value;

use crate::json::MemberLookup as _;

/// Adds one reference token to a pointer, escaping `~` and `/` (RFC 6901 section 4).
#[must_use]
pub fn join(pointer: &str, token: &str) -> String {
    let mut joined = String::with_capacity(pointer.len() + token.len() + 1);
    joined.push_str(pointer);
    joined.push('/');
    if !token.contains(['~', '/']) {
        joined.push_str(token);
        return joined;
    }
    for c in token.chars() {
        match c {
            '~' => joined.push_str("~0"),
            '/' => joined.push_str("~1"),
            c => joined.push(c),
        }
    }
    joined
}

/// The path to a value; its pointer is only written down where it is needed.
#[derive(Debug, Clone, Copy)]
pub enum JsonPath<'w> {
    /// The whole.
    Top,
    /// A member of what is there.
    Member(&'w Self, &'w str),
    /// An item of what is there.
    Item(&'w Self, usize),
}

impl JsonPath<'_> {
    /// The way as a pointer.
    pub fn pointer(&self) -> String {
        match self {
            Self::Top => String::new(),
            Self::Member(above, name) => join(&above.pointer(), name),
            Self::Item(above, index) => join_index(&above.pointer(), *index),
        }
    }
}

/// Adds an array index to a pointer.
#[must_use]
pub fn join_index(pointer: &str, index: usize) -> String {
    let mut joined = pointer.to_owned();
    let _ = write!(joined, "/{index}");
    joined
}

/// The reference tokens of a pointer, unescaped; `#…` is read as a URI fragment (section 6).
///
/// `None` where the text is no JSON Pointer: it neither is empty nor starts with `/`, or a `~` is
/// not followed by `0` or `1`.
#[must_use]
pub fn tokens(text: &str) -> Option<Vec<String>> {
    let plain = plain(text)?;
    if plain.is_empty() {
        return Some(Vec::new());
    }
    plain.strip_prefix('/')?.split('/').map(unescape).collect()
}

/// Is this a pointer: does it have [`tokens`]?
#[must_use]
pub fn is_pointer(text: &str) -> bool {
    let escapes = |rest: &str| rest.split('~').skip(1).all(|behind| behind.starts_with(['0', '1']));
    plain(text).is_some_and(|plain| plain.is_empty() || (plain.starts_with('/') && escapes(&plain)))
}

/// A pointer without the encoding that it has as a fragment.
fn plain(text: &str) -> Option<Cow<'_, str>> {
    match text.strip_prefix('#') {
        Some(fragment) => crate::percent::decode(fragment).map(Cow::Owned),
        None => Some(Cow::Borrowed(text)),
    }
}

/// The pointer that these tokens make.
#[must_use]
pub fn from_tokens<T: AsRef<str>>(tokens: &[T]) -> String {
    tokens.iter().fold(String::new(), |pointer, token| join(&pointer, token.as_ref()))
}

/// The value at these tokens; array steps are digits without leading zeros (section 4).
#[must_use]
pub fn resolve<'v, T: AsRef<str>>(document: &'v Value, tokens: &[T]) -> Option<&'v Value> {
    tokens.iter().try_fold(document, |value, token| match value {
        Value::Object(members) => members.member(token.as_ref()),
        Value::Array(items) => items.get(index(token.as_ref())?),
        _ => None,
    })
}

/// A value that a pointer with `*` in it leads to.
#[derive(Debug, Clone)]
pub struct Resolved<'v> {
    /// Its pointer.
    pub pointer: String,
    /// The name of the member that the last `*` stands for, if that is one.
    pub key: Option<&'v str>,
    /// The value; none where only the last steps lead to nothing, with no `*` among them.
    pub value: Option<&'v Value>,
}

/// The values at these tokens, in which `*` stands for each item of an array and each member of an object.
#[must_use]
pub fn resolve_each<'v, T: AsRef<str>>(document: &'v Value, tokens: &[T]) -> Vec<Resolved<'v>> {
    let mut found = vec![Resolved { pointer: String::new(), key: None, value: Some(document) }];
    for token in tokens.iter().map(AsRef::as_ref) {
        let mut next = Vec::new();
        for Resolved { pointer, key, value } in found {
            match value {
                Some(Value::Array(items)) if token == "*" => {
                    next.extend(items.iter().enumerate().map(|(at, item)| Resolved {
                        pointer: join_index(&pointer, at),
                        key: None,
                        value: Some(item),
                    }));
                }
                Some(Value::Object(members)) if token == "*" => {
                    next.extend(members.iter().map(|(name, item)| Resolved {
                        pointer: join(&pointer, name),
                        key: Some(name),
                        value: Some(item),
                    }));
                }
                _ if token == "*" => {}
                value => next.push(Resolved {
                    pointer: join(&pointer, token),
                    key,
                    value: value.and_then(|value| resolve(value, &[token])),
                }),
            }
        }
        found = next;
    }
    found
}

fn index(token: &str) -> Option<usize> {
    let digits = !token.is_empty() && token.bytes().all(|b| b.is_ascii_digit());
    let plain = token == "0" || !token.starts_with('0');
    if digits && plain { token.parse().ok() } else { None }
}

fn unescape(token: &str) -> Option<String> {
    if !token.contains('~') {
        return Some(token.to_owned());
    }
    let mut plain = String::with_capacity(token.len());
    let mut rest = token.chars();
    while let Some(c) = rest.next() {
        match c {
            '~' => match rest.next()? {
                '0' => plain.push('~'),
                '1' => plain.push('/'),
                _ => return None,
            },
            c => plain.push(c),
        }
    }
    Some(plain)
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    /// The examples of RFC 6901 sections 5 and 6.
    #[test]
    fn the_examples_of_the_rfc_resolve_in_both_forms() {
        let document = json!({"foo": ["bar", "baz"], "": 0, "a/b": 1, "c%d": 2, "e^f": 3,
            "g|h": 4, "i\\j": 5, "k\"l": 6, " ": 7, "m~n": 8});
        for (pointer, fragment, value) in [
            ("/foo/0", "#/foo/0", json!("bar")),
            ("/", "#/", json!(0)),
            ("/a~1b", "#/a~1b", json!(1)),
            ("/c%d", "#/c%25d", json!(2)),
            ("/e^f", "#/e%5Ef", json!(3)),
            ("/g|h", "#/g%7Ch", json!(4)),
            ("/i\\j", "#/i%5Cj", json!(5)),
            ("/k\"l", "#/k%22l", json!(6)),
            ("/ ", "#/%20", json!(7)),
            ("/m~0n", "#/m~0n", json!(8)),
        ] {
            for form in [pointer, fragment] {
                let tokens = tokens(form).unwrap();
                assert_eq!(resolve(&document, &tokens), Some(&value), "{form}");
                assert!(is_pointer(form), "{form}");
            }
            assert_eq!(from_tokens(&tokens(fragment).unwrap()), pointer);
        }
        assert_eq!(resolve(&document, &tokens("").unwrap()), Some(&document));
    }

    #[test]
    fn what_is_no_pointer_has_no_tokens() {
        for text in ["year", "/a~2", "/a~", "#year", "#/%zz", "#/%ff"] {
            assert_eq!(tokens(text), None, "{text}");
            assert!(!is_pointer(text), "{text}");
        }
    }

    #[test]
    fn array_steps_are_plain_numbers() {
        let list = json!(["a", "b"]);
        for step in ["01", "-", "2", "+1", "99999999999999999999999"] {
            assert_eq!(resolve(&list, &[step]), None, "{step}");
        }
    }
}
