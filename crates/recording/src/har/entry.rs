//! The members of an entry that are read, still as the file holds them.
//!
//! As serde_json reads them they decide which entries are refused, and with which words; `parser` gives the same or leaves
//! the entry to serde_json.

use std::borrow::Cow;

use serde::de::IgnoredAny;
use serde::{Deserialize, Deserializer};
use serde_json::value::RawValue as RawJson;

use faithful_clerk_model::headers::Headers;

#[derive(Debug, PartialEq, Deserialize)]
pub(super) struct HarEntry<'a> {
    #[serde(borrow)]
    pub(super) request: HarRequest<'a>,
    #[serde(borrow)]
    pub(super) response: Option<HarResponse<'a>>,
    #[serde(borrow, default)]
    pub(super) time: Option<RawValue<'a>>,
    #[serde(borrow, default)]
    pub(super) timings: Option<RawValue<'a>>,
    #[serde(borrow, default, rename = "_intended")]
    pub(super) intended: Option<RawValue<'a>>,
}

#[derive(Debug, PartialEq, Deserialize)]
pub(super) struct HarRequest<'a> {
    #[serde(borrow)]
    pub(super) method: Cow<'a, str>,
    #[serde(borrow)]
    pub(super) url: Cow<'a, str>,
    #[serde(borrow, default, deserialize_with = "headers")]
    pub(super) headers: Headers<'a>,
    #[serde(borrow, default, rename = "postData")]
    pub(super) post_data: Option<HarPostData<'a>>,
    #[serde(borrow, default, rename = "bodySize")]
    pub(super) body_size: Option<RawValue<'a>>,
    #[serde(default, rename = "_recordedHeaders")]
    pub(super) recorded: Option<Vec<String>>,
}

#[derive(Debug, Default, PartialEq, Deserialize)]
pub(super) struct HarPostData<'a> {
    #[serde(default, rename = "mimeType")]
    pub(super) mime_type: Option<Cow<'a, str>>,
    #[serde(borrow, default)]
    pub(super) text: Option<RawValue<'a>>,
    #[serde(default)]
    pub(super) encoding: Option<Cow<'a, str>>,
    /// Are there any?
    #[serde(default, rename = "params", deserialize_with = "has_items")]
    pub(super) has_params: bool,
}

#[derive(Debug, PartialEq, Deserialize)]
pub(super) struct HarResponse<'a> {
    #[serde(borrow)]
    pub(super) status: RawValue<'a>,
    #[serde(borrow, default, deserialize_with = "headers")]
    pub(super) headers: Headers<'a>,
    #[serde(borrow, default)]
    pub(super) content: Option<HarContent<'a>>,
    #[serde(borrow, default, rename = "bodySize")]
    pub(super) body_size: Option<RawValue<'a>>,
    #[serde(borrow, default, rename = "_error", alias = "_failureText")]
    pub(super) error: Option<RawValue<'a>>,
    #[serde(default, rename = "_recordedHeaders")]
    pub(super) recorded: Option<Vec<String>>,
}

#[derive(Debug, Default, PartialEq, Deserialize)]
pub(super) struct HarContent<'a> {
    #[serde(default, rename = "mimeType")]
    pub(super) mime_type: Option<Cow<'a, str>>,
    #[serde(borrow, default)]
    pub(super) size: Option<RawValue<'a>>,
    #[serde(borrow, default)]
    pub(super) text: Option<RawValue<'a>>,
    #[serde(default)]
    pub(super) encoding: Option<Cow<'a, str>>,
}

/// A value as it stands in the file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct RawValue<'a>(pub(super) &'a str);

impl<'de: 'a, 'a> Deserialize<'de> for RawValue<'a> {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        <&'de RawJson>::deserialize(from).map(|raw| Self(raw.get()))
    }
}

fn headers<'de: 'a, 'a, D: Deserializer<'de>>(from: D) -> Result<Headers<'a>, D::Error> {
    #[derive(Deserialize)]
    struct HarField<'a> {
        #[serde(borrow)]
        name: Cow<'a, str>,
        #[serde(default)]
        value: Option<Cow<'a, str>>,
    }
    let fields = Option::<Vec<HarField<'a>>>::deserialize(from)?.unwrap_or_default();
    let pair = |field: HarField<'a>| (field.name, field.value.unwrap_or_default());
    Ok(fields.into_iter().map(pair).collect())
}

fn has_items<'de, D: Deserializer<'de>>(from: D) -> Result<bool, D::Error> {
    let list = Option::<Vec<IgnoredAny>>::deserialize(from)?;
    Ok(list.is_some_and(|list| !list.is_empty()))
}
