//! What is taken of an entry on the walk along its layout.

use std::borrow::Cow;
use std::ops::Range;

use super::entry::{Content, Entry, PostData, Raw, Request, Response, Text};
use super::layout::{Has, Side, Slot, Value};
use super::literal::Literal;
use super::quick::USUAL_FIELDS;
use super::steady::Part;
use crate::headers::{Headers, NameKind};

/// What was taken of an entry.
#[derive(Default)]
pub(super) struct Taken<'a> {
    method: Option<Cow<'a, str>>,
    url: Option<Cow<'a, str>>,
    asked: Headers<'a>,
    asked_size: Option<Raw<'a>>,
    post: PostData<'a>,
    status: Option<Raw<'a>>,
    told: Headers<'a>,
    told_size: Option<Raw<'a>>,
    content: Content<'a>,
    error: Option<Raw<'a>>,
    time: Option<Raw<'a>>,
    timings: Option<Raw<'a>>,
}

impl<'a> Taken<'a> {
    pub(super) fn new() -> Self {
        Self {
            asked: Headers::with_capacity(USUAL_FIELDS),
            told: Headers::with_capacity(USUAL_FIELDS),
            ..Self::default()
        }
    }

    /// Takes a value out of a run that begins at `at`.
    #[inline]
    pub(super) fn part(&mut self, text: &'a str, at: usize, part: &Part) -> Option<()> {
        let value = at + part.value.start as usize..at + part.value.end as usize;
        match part.kind {
            Value::Field(side, kind) => {
                let string = Literal::of(text, value, part.is_plain);
                self.field(side, kind, text, at, &part.name, string)
            }
            Value::Text(slot) => self.text(slot, Literal::of(text, value, part.is_plain)),
            Value::Number(slot) | Value::Whole(slot) => self.raw(slot, text.get(value)?),
            Value::End(_) => None,
        }
    }

    /// Takes a header field. `at` is where the text begins that its name stands in.
    #[inline]
    pub(super) fn field(
        &mut self,
        side: Side,
        kind: NameKind,
        text: &'a str,
        at: usize,
        name: &Range<u32>,
        value: Literal<'a>,
    ) -> Option<()> {
        let fields = match side {
            Side::Request => &mut self.asked,
            Side::Answer => &mut self.told,
        };
        let name = text.get(at + name.start as usize..at + name.end as usize)?;
        fields.push_known(Cow::Borrowed(name), kind, value.text()?);
        Some(())
    }

    /// Takes a string.
    #[inline]
    pub(super) fn text(&mut self, slot: Slot, string: Literal<'a>) -> Option<()> {
        match slot {
            Slot::Other => {}
            Slot::Method => self.method = Some(string.text()?),
            Slot::Url => self.url = Some(string.text()?),
            Slot::PostMime => self.post.mime_type = Some(Text(string.text()?)),
            Slot::PostEncoding => self.post.encoding = Some(Text(string.text()?)),
            Slot::Mime => self.content.mime_type = Some(Text(string.text()?)),
            Slot::Encoding => self.content.encoding = Some(Text(string.text()?)),
            slot => *self.place(slot) = Some(Raw(string.whole()?)),
        }
        Some(())
    }

    /// Takes a value as it stands there.
    #[inline]
    pub(super) fn raw(&mut self, slot: Slot, text: &'a str) -> Option<()> {
        if slot != Slot::Other {
            *self.place(slot) = Some(Raw(text));
        }
        Some(())
    }

    fn place(&mut self, slot: Slot) -> &mut Option<Raw<'a>> {
        match slot {
            Slot::RequestSize => &mut self.asked_size,
            Slot::PostText => &mut self.post.text,
            Slot::Status => &mut self.status,
            Slot::AnswerSize => &mut self.told_size,
            Slot::Size => &mut self.content.size,
            Slot::Text => &mut self.content.text,
            Slot::Error => &mut self.error,
            Slot::Timings => &mut self.timings,
            _ => &mut self.time,
        }
    }

    pub(super) fn entry(self, has: Has) -> Option<Entry<'a>> {
        let post_data = has.post_data.then_some(PostData { params: has.params, ..self.post });
        let response = match has.response {
            true => Some(Response {
                status: self.status?,
                headers: self.told,
                content: has.content.then_some(self.content),
                body_size: self.told_size,
                error: self.error,
            }),
            false => None,
        };
        let request = Request {
            method: self.method?,
            url: self.url?,
            headers: self.asked,
            post_data,
            body_size: self.asked_size,
        };
        Some(Entry { request, response, time: self.time, timings: self.timings })
    }
}
