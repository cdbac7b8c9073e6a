//! The outline of a JSON document.

use serde::de::{Deserializer as _, MapAccess, Visitor};
use serde_json::value::RawValue;

use super::outline::{Content, Entry, Mapping, OutlineNode};

/// The outline of a text.
///
/// # Errors
/// Why it is no JSON.
pub(super) fn outline(text: &str) -> Result<OutlineNode, String> {
    let text_only = text.strip_prefix('\u{feff}').unwrap_or(text);
    let raw: &RawValue = serde_json::from_str(text_only).map_err(|error| error.to_string())?;
    node(raw, text).map_err(|error| error.to_string())
}

/// A value of a text, which it is a part of.
fn node(raw: &RawValue, text: &str) -> Result<OutlineNode, serde_json::Error> {
    let start = raw.get().as_ptr().addr() - text.as_ptr().addr();
    let span = start..start + raw.get().len();
    let content = match raw.get().starts_with('{') {
        false => Content::Other,
        true => {
            let mut deserializer = serde_json::Deserializer::from_str(raw.get());
            let members = deserializer.deserialize_map(Members)?;
            let mut entries = Vec::with_capacity(members.len());
            let mut from = span.start + 1;
            for (name, raw) in members {
                let value = node(raw, text)?;
                // The key is all between what came before and the colon.
                let before = text.get(from..value.span.start).unwrap_or_default();
                let quote = before.find('"').unwrap_or_default();
                let colon = before.rfind(':').unwrap_or(before.len());
                let key =
                    from + quote..from + before.get(..colon).unwrap_or_default().trim_end().len();
                from = value.span.end;
                entries.push(Entry { name, key, value });
            }
            Content::Mapping(Mapping { is_flow: true, entries })
        }
    };
    Ok(OutlineNode { span, content, is_shared: false })
}

/// The members of an object, each with its text.
struct Members;

impl<'de> Visitor<'de> for Members {
    type Value = Vec<(String, &'de RawValue)>;

    fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("an object")
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<Self::Value, A::Error> {
        let mut members = Vec::new();
        while let Some(member) = map.next_entry()? {
            members.push(member);
        }
        Ok(members)
    }
}
