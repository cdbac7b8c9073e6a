//! Answers' bodies with what follows from them, and those that came lately.
//!
//! A service answers the same fault with the same bytes again and again. So what follows from the bytes
//! alone is kept for a body that came twice, and is not found out anew when it comes once more.

use std::cell::RefCell;
use std::hash::{BuildHasher as _, RandomState};
use std::ops::Deref;
use std::sync::{Arc, OnceLock};

use super::{AnswerBody, Named};
use crate::address::Place;
use crate::disclosure::Hit;
use crate::exchange::{Content, Response, ResponseBody};
use crate::shape::ShapeId;

/// A body, and what follows from its bytes as soon as somebody has asked.
#[derive(Debug)]
pub(super) struct Looked {
    pub(super) body: AnswerBody,
    pub(super) text: OnceLock<TextForm>,
    pub(super) repeated: OnceLock<Option<String>>,
    pub(super) hits: OnceLock<Vec<(Hit, Place)>>,
    /// What the first that asked for entries found, and by which agreed shape.
    pub(super) entries: OnceLock<(Option<ShapeId>, Vec<Named>)>,
}

/// How the text of a body is written.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum TextForm {
    /// UTF-8.
    Plain,
    /// A byte order mark stands before it.
    Marked,
    /// It is no UTF-8.
    Other,
}

impl TextForm {
    /// The form of these bytes.
    pub(super) fn of(bytes: &[u8]) -> Self {
        match bytes.starts_with(b"\xef\xbb\xbf") {
            true => Self::Marked,
            false if simdutf8::basic::from_utf8(bytes).is_ok() => Self::Plain,
            false => Self::Other,
        }
    }
}

impl From<AnswerBody> for Looked {
    fn from(body: AnswerBody) -> Self {
        let (text, repeated, hits, entries) = Default::default();
        Self { body, text, repeated, hits, entries }
    }
}

/// The body of one exchange: its own, or one that came before.
#[derive(Debug)]
pub(super) enum Body {
    Own(Looked),
    Kept(Arc<Looked>),
}

impl Deref for Body {
    type Target = Looked;

    fn deref(&self) -> &Looked {
        match self {
            Self::Own(looked) => looked,
            Self::Kept(looked) => looked,
        }
    }
}

/// So many bodies are kept at most.
const MOST_KEPT: usize = 64;

/// What is kept gives way when others wanted its place more often than it was asked for; being asked for more often
/// than this counts no more.
const MOST_ASKED: u8 = 8;

/// A longer text, as the recording holds it, is not kept.
const LONGEST: usize = 1 << 10;

/// Nor is one with more marks than this that stand before values: a value with what follows from it may take 100 times as
/// much as its text.
const MOST_MARKS: usize = 128;

/// The bodies that came lately under one contract, for whoever places many exchanges.
#[derive(Debug, Default)]
pub struct Bodies {
    hasher: RandomState,
    slots: RefCell<Vec<Slot>>,
}

#[derive(Debug, Default)]
struct Slot {
    /// Of the text that was seen last here, or that is kept.
    hash: u64,
    kept: Option<(Box<str>, Arc<Looked>)>,
    /// How often what is kept was asked for, less how often another text wanted the slot.
    asked: u8,
}

impl Bodies {
    /// The body of an answer, which `read` reads where it is not known.
    pub(super) fn of(&self, response: &Response<'_>, read: impl FnOnce() -> AnswerBody) -> Body {
        let Some(text) = plain(response) else { return Body::Own(read().into()) };
        let hash = self.hasher.hash_one(text);
        match self.find(hash, text) {
            Seen::Kept(looked) => return Body::Kept(looked),
            Seen::Never => return Body::Own(read().into()),
            Seen::Once => {}
        }
        let body = read();
        let marks = text.bytes().filter(|byte| b"{[,:".contains(byte)).count();
        if body.json().is_none() || marks > MOST_MARKS {
            return Body::Own(body.into());
        }
        let looked = Arc::new(Looked::from(body));
        if let Some(slot) = self.slots.borrow_mut().get_mut(place_of(hash)) {
            slot.kept = Some((text.into(), Arc::clone(&looked)));
        }
        Body::Kept(looked)
    }

    fn find(&self, hash: u64, text: &str) -> Seen {
        let mut slots = self.slots.borrow_mut();
        if slots.is_empty() {
            slots.resize_with(MOST_KEPT, Slot::default);
        }
        let Some(slot) = slots.get_mut(place_of(hash)) else { return Seen::Never };
        match &slot.kept {
            Some((known, looked)) if slot.hash == hash && **known == *text => {
                slot.asked = (slot.asked + 1).min(MOST_ASKED);
                Seen::Kept(Arc::clone(looked))
            }
            None if slot.hash == hash => Seen::Once,
            // What is asked for again and again is not given up for what may never come again.
            Some(_) if slot.asked > 0 => {
                slot.asked -= 1;
                Seen::Never
            }
            _ => {
                *slot = Slot { hash, ..Slot::default() };
                Seen::Never
            }
        }
    }
}

enum Seen {
    Never,
    Once,
    Kept(Arc<Looked>),
}

fn place_of(hash: u64) -> usize {
    usize::try_from(hash % MOST_KEPT as u64).unwrap_or_default()
}

/// The text of a body as the recording holds it, where that alone says what the body is: whatever media
/// type stands beside it, what is UTF-8 and starts so is JSON or broken.
fn plain<'r>(response: &'r Response<'_>) -> Option<&'r str> {
    let ResponseBody::Present(content) = &response.body else { return None };
    let (text, start) = match content {
        Content::Literal(raw) if raw.len() <= LONGEST => (*raw, raw.as_bytes().get(1)?),
        Content::Bytes(bytes) if bytes.len() <= LONGEST => {
            (simdutf8::basic::from_utf8(bytes).ok()?, bytes.first()?)
        }
        _ => return None,
    };
    matches!(start, b'{' | b'[').then_some(text)
}

#[cfg(test)]
mod tests {
    use std::borrow::Cow;

    use super::*;
    use crate::headers::Headers;

    fn answer(text: &str) -> Response<'_> {
        let body = ResponseBody::Present(Content::Bytes(Cow::Borrowed(text.as_bytes())));
        Response { status: 404, headers: Headers::new(), recorded_media: None, body }
    }

    /// How often of so many times a body had to be read.
    fn reads(bodies: &Bodies, text: &str, times: usize) -> usize {
        let response = answer(text);
        let mut reads = 0;
        for _ in 0..times {
            let body = bodies.of(&response, || {
                reads += 1;
                AnswerBody::read(&response)
            });
            assert_eq!(format!("{:?}", body.body), format!("{:?}", AnswerBody::read(&response)));
        }
        reads
    }

    #[test]
    fn a_body_that_came_twice_is_known() {
        for text in [r#"{"a": 1}"#, r#"[{"a": 1}]"#] {
            assert_eq!(reads(&Bodies::default(), text, 9), 2);
        }
    }

    #[test]
    fn what_is_no_json_or_large_is_not_kept() {
        let [long, dense] = [LONGEST, MOST_MARKS].map(|count| format!("[{}1]", "1,".repeat(count)));
        for text in ["{", "text", "", " {}", "<p>", "\u{feff}{}", &long, &dense] {
            assert_eq!(reads(&Bodies::default(), text, 5), 5, "{text}");
        }
    }

    /// What came a thousand times is still known behind what came once, and no more than a few are kept.
    #[test]
    fn what_comes_again_and_again_stays_known_and_no_more_is_kept() {
        let bodies = Bodies::default();
        let mut again = reads(&bodies, "[0]", 5);
        for number in 1..2000 {
            reads(&bodies, &format!("[{number}]"), 1 + number % 2);
            again += reads(&bodies, "[0]", 1);
        }
        assert_eq!(again, 2);
        assert_eq!(bodies.slots.borrow().len(), MOST_KEPT);
    }
}
