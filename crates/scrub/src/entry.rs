//! An entry of HAR: each string in it is gone over as what it is.

use std::borrow::Cow;
use std::ops::Range;

use super::Scrubber;
use super::blank::{self, BlankReason};
use super::json::{DEEPEST, MessageSide};
use super::layers::{in_literal, plain};
use super::outline::EntryOutline;
use super::scrubber::SecretLocation;
use faithful_clerk_model::json::scan::string_end;
use faithful_clerk_model::secret::SecretKind;

/// A step on the way to a string.
#[derive(Debug)]
pub(super) enum PathStep<'t> {
    /// Into a member.
    Member(Cow<'t, str>),
    /// Into an item of a list.
    Item(usize),
}

impl PathStep<'_> {
    /// The member's name; nothing for an item.
    fn name(&self) -> &str {
        match self {
            Self::Member(name) => name,
            Self::Item(_) => "",
        }
    }
}

/// Where a string stands that a recorder wrote for itself.
const OWN: &str = "the recorder's own members";

/// The longest way to a string that the standard knows.
const KNOWN: usize = 5;

impl Scrubber<'_> {
    /// Replaces in an entry of HAR.
    pub(super) fn har_entry(&mut self, text: &str) -> Option<String> {
        let Some(outline) = EntryOutline::read(text) else {
            self.blanked("an entry", BlankReason::Unreadable);
            return Some(String::from_utf8_lossy(&blank::unread(text.as_bytes())).into_owned());
        };
        let (mut out, mut copied) = (String::new(), 0);
        strings(text, &outline, &mut |found, range| {
            let inner = text.get(range.clone()).unwrap_or_default();
            let new = in_literal(inner, &mut |value| match &found {
                FoundString::Name => self.name(value, SecretLocation::of(OWN)),
                FoundString::Value(path, around) => self.leaf((&outline, *around), path, value),
            });
            if let Some(new) = new {
                out.push_str(text.get(copied..range.start).unwrap_or_default());
                out.push_str(&new);
                copied = range.end;
            }
        });
        if copied == 0 {
            return None;
        }
        out.push_str(text.get(copied..).unwrap_or_default());
        Some(out)
    }

    /// A string that is a value in an entry, and in that object or list of it.
    fn leaf(
        &mut self,
        (entry, around): (&EntryOutline<'_>, Option<&EntryOutline<'_>>),
        path: &[PathStep<'_>],
        value: &str,
    ) -> Option<String> {
        // What stands beside the string, under another name.
        let word =
            |name: &str| around.and_then(|around| around.member(name)?.text()).unwrap_or_default();
        let status = || entry.member("response")?.member("status")?.number();
        let side = || MessageSide::of(status().unwrap_or_default() >= 400);
        let mut names = [""; KNOWN];
        for (name, step) in names.iter_mut().zip(path) {
            *name = step.name();
        }
        match (path.len(), names) {
            (4, [_, "headers" | "_trailers", _, "value", _]) => self.header(word("name"), value),
            (4, [_, "cookies", _, "value", _]) => self.secret(
                value,
                SecretKind::Cookie,
                SecretLocation::named("cookie", word("name")),
            ),
            (4, ["request", "queryString", _, "value", _])
            | (5, ["request", "postData", "params", _, "value"]) => {
                self.parameter(word("name"), value)
            }
            (2, ["request", "url", ..] | ["response", "redirectURL", ..]) => self.url(value),
            (3, ["request", "postData", "text", ..]) => match word("encoding") {
                "base64" => {
                    let codings = entry.coding("request");
                    self.encoded(value, word("mimeType"), codings, MessageSide::Request)
                }
                _ => self.body(value, word("mimeType"), MessageSide::Request),
            },
            (3, ["response", "content", "text", ..]) => match word("encoding") {
                "base64" => self.encoded(value, word("mimeType"), entry.coding("response"), side()),
                _ => self.body(value, word("mimeType"), side()),
            },
            _ => self.other(path, value),
        }
    }

    /// A string that a recorder wrote for itself.
    fn other(&mut self, path: &[PathStep<'_>], value: &str) -> Option<String> {
        // Dates, versions, media types and the like.
        if let Some(PathStep::Member(name)) = path.last()
            && matches!(
                &**name,
                "name" | "mimeType" | "encoding" | "startedDateTime" | "httpVersion" | "method"
            )
        {
            return None;
        }
        let location = SecretLocation::of(OWN);
        let names = path.iter().rev().filter_map(|step| match step {
            PathStep::Member(name) => Some(&**name),
            PathStep::Item(_) => None,
        });
        let name = names.into_iter().find(|name| name.parse::<usize>().is_err());
        match name.and_then(|name| self.is_secret(name)) {
            Some(kind) => self.secret(value, kind, location),
            None => self.any(value, location, DEEPEST),
        }
    }
}

/// A string of an entry.
enum FoundString<'p, 't> {
    /// The name of a member.
    Name,
    /// A value, with the way to it and what it is in.
    Value(&'p [PathStep<'t>], Option<&'p EntryOutline<'t>>),
}

/// Goes over the strings of a JSON document, each with where it stands between its quotation marks.
fn strings<'t>(
    text: &'t str,
    outline: &EntryOutline<'t>,
    found: &mut impl FnMut(FoundString<'_, 't>, Range<usize>),
) {
    let bytes = text.as_bytes();
    let mut path: Vec<PathStep<'t>> = Vec::new();
    // The objects and lists that are open.
    let mut around: Vec<Option<&EntryOutline<'t>>> = Vec::new();
    let mut at = 0;
    while let Some(byte) = bytes.get(at) {
        match byte {
            b'{' | b'[' => {
                around.push(match (around.last(), path.last()) {
                    (Some(outer), Some(step)) => outer.and_then(|outer| outer.step(step)),
                    _ => Some(outline),
                });
                path.push(match byte {
                    b'{' => PathStep::Member(Cow::Borrowed("")),
                    _ => PathStep::Item(0),
                });
            }
            b'}' | b']' => {
                path.pop();
                around.pop();
            }
            b',' => {
                if let Some(PathStep::Item(index)) = path.last_mut() {
                    *index += 1;
                }
            }
            b'"' => {
                let Some(end) = string_end(bytes, at + 1) else { return };
                let range = at + 1..end - 1;
                let is_named =
                    bytes.get(end..).unwrap_or_default().trim_ascii_start().starts_with(b":");
                match path.last_mut() {
                    Some(PathStep::Member(name)) if is_named => {
                        *name = plain(text.get(range.clone()).unwrap_or_default());
                        found(FoundString::Name, range);
                    }
                    _ => found(FoundString::Value(&path, around.last().copied().flatten()), range),
                }
                at = end - 1;
            }
            _ => {}
        }
        at += 1;
    }
}
