//! What is read of an entry, still as the file holds it: by serde_json, member by member.
//!
//! It decides what is refused, and in which words. The quick way of `quick` gives the same or leaves the
//! entry to this one.

use std::borrow::Cow;

use serde::de::IgnoredAny;
use serde::{Deserialize, Deserializer};
use serde_json::value::RawValue;

use crate::headers::Headers;

#[derive(Debug, PartialEq, Deserialize)]
pub(super) struct Entry<'a> {
    #[serde(borrow)]
    pub(super) request: Request<'a>,
    #[serde(borrow)]
    pub(super) response: Option<Response<'a>>,
    #[serde(borrow, default)]
    pub(super) time: Option<Raw<'a>>,
    #[serde(borrow, default)]
    pub(super) timings: Option<Raw<'a>>,
}

#[derive(Debug, PartialEq, Deserialize)]
pub(super) struct Request<'a> {
    #[serde(borrow)]
    pub(super) method: Cow<'a, str>,
    #[serde(borrow)]
    pub(super) url: Cow<'a, str>,
    #[serde(borrow, default, deserialize_with = "headers")]
    pub(super) headers: Headers<'a>,
    #[serde(borrow, default, rename = "postData")]
    pub(super) post_data: Option<PostData<'a>>,
    #[serde(borrow, default, rename = "bodySize")]
    pub(super) body_size: Option<Raw<'a>>,
}

#[derive(Debug, Default, PartialEq, Deserialize)]
pub(super) struct PostData<'a> {
    #[serde(borrow, default, rename = "mimeType")]
    pub(super) mime_type: Option<Text<'a>>,
    #[serde(borrow, default)]
    pub(super) text: Option<Raw<'a>>,
    #[serde(borrow, default)]
    pub(super) encoding: Option<Text<'a>>,
    /// Are there any?
    #[serde(default, deserialize_with = "has_some")]
    pub(super) params: bool,
}

#[derive(Debug, PartialEq, Deserialize)]
pub(super) struct Response<'a> {
    #[serde(borrow)]
    pub(super) status: Raw<'a>,
    #[serde(borrow, default, deserialize_with = "headers")]
    pub(super) headers: Headers<'a>,
    #[serde(borrow, default)]
    pub(super) content: Option<Content<'a>>,
    #[serde(borrow, default, rename = "bodySize")]
    pub(super) body_size: Option<Raw<'a>>,
    #[serde(borrow, default, rename = "_error", alias = "_failureText")]
    pub(super) error: Option<Raw<'a>>,
}

#[derive(Debug, Default, PartialEq, Deserialize)]
pub(super) struct Content<'a> {
    #[serde(borrow, default, rename = "mimeType")]
    pub(super) mime_type: Option<Text<'a>>,
    #[serde(borrow, default)]
    pub(super) size: Option<Raw<'a>>,
    #[serde(borrow, default)]
    pub(super) text: Option<Raw<'a>>,
    #[serde(borrow, default)]
    pub(super) encoding: Option<Text<'a>>,
}

/// `Option<Cow<str>>` never borrows with serde; an option of this does.
#[derive(Debug, PartialEq, Deserialize)]
pub(super) struct Text<'a>(#[serde(borrow)] pub(super) Cow<'a, str>);

/// A value as it stands in the file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Raw<'a>(pub(super) &'a str);

impl<'de: 'a, 'a> Deserialize<'de> for Raw<'a> {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        <&'de RawValue>::deserialize(from).map(|raw| Self(raw.get()))
    }
}

fn headers<'de: 'a, 'a, D: Deserializer<'de>>(from: D) -> Result<Headers<'a>, D::Error> {
    #[derive(Deserialize)]
    struct Field<'a> {
        #[serde(borrow)]
        name: Cow<'a, str>,
        #[serde(borrow, default)]
        value: Option<Text<'a>>,
    }
    let fields = Option::<Vec<Field<'a>>>::deserialize(from)?.unwrap_or_default();
    let pair =
        |field: Field<'a>| (field.name, field.value.map_or(Cow::Borrowed(""), |text| text.0));
    Ok(fields.into_iter().map(pair).collect())
}

fn has_some<'de, D: Deserializer<'de>>(from: D) -> Result<bool, D::Error> {
    let list = Option::<Vec<IgnoredAny>>::deserialize(from)?;
    Ok(list.is_some_and(|list| !list.is_empty()))
}
