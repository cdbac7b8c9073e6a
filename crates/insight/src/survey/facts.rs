//! What was seen at one method of one path: kinds of responses, each counted and with its first addresses.
//!
//! Facts add up in any order, like everything that workers gather.

use std::borrow::Cow;
use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};

use super::pairs;
use super::refused_bodies::RefusedBodies;
use super::resource_shape::{ReadShape, ResourceShape};
use super::sample::PathSample;
use faithful_clerk_model::address::Address;
use faithful_clerk_shape::InferredShape;

/// Of the exchanges of one kind, the addresses of so many are kept.
pub(super) const MOST_ADDRESSES: usize = 5;

/// At one method of one path, so many kinds of responses are told apart.
pub(super) const MOST_ROWS: usize = 64;

/// So many different forms of a success are remembered, to tell one thing from another.
const MOST_TOPS: usize = 8;

/// A count, and where it was counted first.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Occurrences {
    /// How many exchanges.
    pub count: u64,
    /// The first of them.
    pub first: BTreeSet<Address>,
}

impl Occurrences {
    /// One exchange.
    #[must_use]
    pub fn at(address: Address) -> Self {
        Self { count: 1, first: BTreeSet::from([address]) }
    }

    /// Adds one exchange.
    pub fn note(&mut self, address: Address) {
        self.count += 1;
        if self.first.len() < MOST_ADDRESSES
            || self.first.last().is_some_and(|last| address < *last)
        {
            self.first.insert(address);
            self.shorten();
        }
    }

    /// Adds others.
    pub fn add(&mut self, other: &Self) {
        self.count += other.count;
        self.first.extend(&other.first);
        self.shorten();
    }

    fn shorten(&mut self) {
        while self.first.len() > MOST_ADDRESSES {
            self.first.pop_last();
        }
    }
}

/// The place of each recording in the whole, by its place in the part.
pub(super) type RecordingPlaces = [u32];

/// An address with its recording's place in the whole; `None` where that is not known.
pub(super) fn renumbered(address: Address, places: &RecordingPlaces) -> Option<Address> {
    let recording = *places.get(usize::try_from(address.recording).ok()?)?;
    Some(Address { recording, ..address })
}

impl Occurrences {
    pub(super) fn renumber(&mut self, places: &RecordingPlaces) -> Option<()> {
        let all = std::mem::take(&mut self.first).into_iter();
        self.first = all.map(|address| renumbered(address, places)).collect::<Option<_>>()?;
        Some(())
    }
}

/// Which errors are compared with which.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub enum ErrorCategory {
    /// Errors that tell which parts of a request are invalid.
    Validation,
    /// All other errors.
    Other,
}

/// The bodies that are one group before shapes are made of them: their sort and their outline.
pub type GroupKey = (ErrorCategory, String);

/// What a response's body was.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub enum ObservedBody {
    /// JSON that tells of an error, of this group.
    Error(GroupKey),
    /// JSON that tells of an error, of one group among too many.
    Many(ErrorCategory),
    /// The JSON of a success; the word is its kind.
    Success(Cow<'static, str>),
    /// A body that is no JSON; the words say what.
    Other(Cow<'static, str>),
    /// It can't be known; the words say why.
    Unknown(Cow<'static, str>),
    /// No body.
    Empty,
    /// No response.
    Missing,
}

/// What an error says of itself that should stay the same each time.
#[derive(Debug, Clone, Default, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub struct StableMembers {
    /// The member `type` of a problem.
    pub type_uri: Option<String>,
    /// The member `title`.
    pub title: Option<String>,
    /// The language of the title, where the response or the request names one.
    pub language: Option<String>,
    /// An application's code, and where it stands, as a JSON Pointer.
    pub code: Option<(String, String)>,
}

/// One kind of response.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub struct ResponseSignature {
    /// The status, where a response.
    pub status: Option<u16>,
    /// The media type, where one was said.
    pub media: Option<String>,
    /// What the body was.
    pub body: ObservedBody,
    /// What it says of itself.
    pub stable: StableMembers,
}

/// Stands for a media type where there are too many.
const MANY_MEDIA: &str = "one of too many";

impl ResponseSignature {
    /// What is given up first where there are too many rows: what errors say, then their group, then the media
    /// type.
    fn told_apart_by(&self) -> u8 {
        let many = self.media.as_deref().is_none_or(|media| media == MANY_MEDIA);
        match (self.stable == StableMembers::default(), &self.body) {
            (false, _) => 3,
            (true, ObservedBody::Error(_)) => 2,
            (true, _) if !many => 1,
            _ => 0,
        }
    }

    /// The same with less to tell it by.
    fn shorter(self) -> Self {
        match (self.told_apart_by(), &self.body) {
            (3, _) => Self { stable: StableMembers::default(), ..self },
            (2, ObservedBody::Error((kind, _))) => Self { body: ObservedBody::Many(*kind), ..self },
            _ => Self { media: Some(MANY_MEDIA.to_owned()), ..self },
        }
    }
}

/// What was wrong with the requests that met a response, as far as a request shows it by itself.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct RequestFlaws {
    /// A body that sets out to be JSON and is not.
    pub malformed: u64,
    /// No body, with a method that usually has one.
    pub no_body: u64,
    /// A body of another media type than JSON.
    pub other_media: u64,
    /// No credentials.
    pub no_credentials: u64,
}

impl RequestFlaws {
    /// Adds others.
    pub fn add(&mut self, other: Self) {
        self.malformed += other.malformed;
        self.no_body += other.no_body;
        self.other_media += other.other_media;
        self.no_credentials += other.no_credentials;
    }
}

/// How often a kind of response was seen, and with what requests.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct ResponseStats {
    /// The exchanges.
    pub seen: Occurrences,
    /// What was wrong with their requests.
    pub causes: RequestFlaws,
}

/// What successes show.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct SuccessFacts {
    /// How many there were.
    pub count: u64,
    /// Which segments of the path came back as the value of a member, by their distance from the last: they are ids.
    pub echoes: BTreeSet<u8>,
    /// The paths that they came from.
    pub paths: PathSample,
    /// Their outermost forms.
    pub tops: BTreeSet<ResourceShape>,
    /// Those whose request carried credentials.
    pub with_credentials: u64,
    /// The media types of the requests' bodies.
    pub media: BTreeMap<String, u64>,
    /// The requests' bodies, where they are objects.
    pub bodies: InferredShape,
}

impl SuccessFacts {
    /// Adds the form of one success.
    pub(super) fn note_top(&mut self, shape: ReadShape<'_>) {
        if !self.tops.iter().any(|known| shape.is(known)) {
            self.tops.insert(shape.kept());
            self.shorten();
        }
    }

    fn shorten(&mut self) {
        while self.tops.len() > MOST_TOPS {
            self.tops.pop_last();
        }
    }

    fn add(&mut self, other: Self) {
        self.count += other.count;
        self.echoes.extend(other.echoes);
        self.paths.add(&other.paths);
        self.with_credentials += other.with_credentials;
        self.tops.extend(other.tops);
        self.shorten();
        for (media, count) in other.media {
            *self.media.entry(media).or_default() += count;
        }
        self.bodies.add(other.bodies);
    }
}

/// What was seen at one method of one path.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct EndpointFacts {
    /// How many exchanges.
    pub count: u64,
    /// The kinds of responses.
    #[serde(with = "pairs")]
    pub rows: BTreeMap<ResponseSignature, ResponseStats>,
    /// The successes.
    pub successes: SuccessFacts,
    /// The paths that 404 came from.
    pub missing: PathSample,
    /// What refusals say of bodies.
    pub refused: RefusedBodies,
}

impl EndpointFacts {
    /// Adds others.
    pub fn add(&mut self, other: Self) {
        self.count += other.count;
        for (row, kind) in other.rows {
            self.enter(row, &kind);
        }
        self.successes.add(other.successes);
        self.missing.add(&other.missing);
        self.refused.add(other.refused);
    }

    /// Adds one exchange.
    pub(super) fn note(&mut self, row: ResponseSignature, address: Address, causes: RequestFlaws) {
        self.count += 1;
        let sum = self.rows.entry(row).or_default();
        sum.seen.note(address);
        sum.causes.add(causes);
        self.shorten();
    }

    fn enter(&mut self, row: ResponseSignature, kind: &ResponseStats) {
        let sum = self.rows.entry(row).or_default();
        sum.seen.add(&kind.seen);
        sum.causes.add(kind.causes);
        self.shorten();
    }

    /// Titles that name the occurrence, bodies with ever other members, ever other media types: they are told
    /// apart only so far.
    fn shorten(&mut self) {
        while self.rows.len() > MOST_ROWS {
            let last = self.rows.keys().rev();
            let last = last.clone().max_by_key(|row| row.told_apart_by());
            let Some(row) = last.filter(|row| row.told_apart_by() > 0).cloned() else { return };
            let Some(kind) = self.rows.remove(&row) else { return };
            let sum = self.rows.entry(row.shorter()).or_default();
            sum.seen.add(&kind.seen);
            sum.causes.add(kind.causes);
        }
    }

    /// Was anything created?
    #[must_use]
    pub fn has_created(&self) -> bool {
        self.rows.keys().any(|row| row.status == Some(201))
    }

    /// Did it never respond with anything but these statuses?
    #[must_use]
    pub fn only_answers(&self, statuses: &[u16]) -> bool {
        self.rows.keys().all(|row| row.status.is_some_and(|status| statuses.contains(&status)))
    }
}
