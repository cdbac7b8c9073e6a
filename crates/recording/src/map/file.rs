//! A map as it is written: a TOML of three tables.

use std::fmt;
use std::marker::PhantomData;
use std::ops::Range;
use std::sync::Arc;

use serde::Deserialize;
use serde::de::value::MapAccessDeserializer;
use serde::de::{self, Deserializer, MapAccess, SeqAccess, Visitor};

use super::fields::{FieldPlaces, MapField, MessageFields, REQUEST, RESPONSE};
use super::pointers::{self, MapPointer};
use super::values::TimeUnit;

/// Says where in a line of JSON the parts of an exchange stand.
#[derive(Debug, Clone)]
pub struct LineMap {
    each: Option<MapPointer>,
    pub(super) places: FieldPlaces,
    pub(super) request: MessageRules,
    pub(super) response: MessageRules,
    pub(super) started: Option<TimeUnit>,
    pub(super) ended: Option<TimeUnit>,
    pub(super) duration: Option<TimeUnit>,
}

/// How one side's header fields and body are written.
#[derive(Debug, Clone, Default)]
pub(super) struct MessageRules {
    /// What the names of header fields begin with among other attributes.
    pub(super) prefix: String,
    /// The names, in lower case, that are recorded; `None` where all are.
    pub(super) recorded: Option<Arc<[String]>>,
    /// Is every body base64?
    pub(super) is_base64: bool,
}

#[derive(Debug, Default, Deserialize)]
#[serde(deny_unknown_fields)]
struct MapFile {
    each: Option<MapPointer>,
    request: RequestTable,
    response: ResponseTable,
    #[serde(default)]
    time: TimeTable,
}

#[derive(Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
struct RequestTable {
    line: Option<PointerList>,
    method: Option<PointerList>,
    url: Option<PointerList>,
    scheme: Option<PointerList>,
    host: Option<PointerList>,
    port: Option<PointerList>,
    path: Option<PointerList>,
    query: Option<PointerList>,
    headers: Option<ShortOr<HeadersTable>>,
    media: Option<PointerList>,
    body: Option<ShortOr<BodyTable>>,
}

#[derive(Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
struct ResponseTable {
    status: Option<PointerList>,
    headers: Option<ShortOr<HeadersTable>>,
    media: Option<PointerList>,
    body: Option<ShortOr<BodyTable>>,
    failure: Option<PointerList>,
}

#[derive(Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
struct TimeTable {
    started: Option<ShortOr<MomentTable>>,
    ended: Option<ShortOr<MomentTable>>,
    duration: Option<DurationTable>,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct HeadersTable {
    at: PointerList,
    #[serde(default)]
    prefix: String,
    recorded: Option<Vec<String>>,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct BodyTable {
    at: PointerList,
    #[serde(default)]
    base64: Base64Rule,
    /// What says that the log cut it.
    truncated: Option<MapPointer>,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct MomentTable {
    at: PointerList,
    unit: Option<TimeUnit>,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct DurationTable {
    at: PointerList,
    unit: TimeUnit,
}

/// Is a body base64: always, or where something says so?
#[derive(Debug, Default)]
enum Base64Rule {
    #[default]
    Never,
    Always,
    Where(MapPointer),
}

/// One pointer, or several in the order in which they are tried.
#[derive(Debug, Default)]
struct PointerList(Vec<MapPointer>);

/// Pointers alone, or a table with more.
#[derive(Debug)]
struct ShortOr<T>(T);

impl From<PointerList> for HeadersTable {
    fn from(at: PointerList) -> Self {
        Self { at, prefix: String::new(), recorded: None }
    }
}

impl From<PointerList> for BodyTable {
    fn from(at: PointerList) -> Self {
        Self { at, base64: Base64Rule::Never, truncated: None }
    }
}

impl From<PointerList> for MomentTable {
    fn from(at: PointerList) -> Self {
        Self { at, unit: None }
    }
}

impl LineMap {
    /// Reads a map.
    ///
    /// # Errors
    /// What is wrong with it, with its line.
    pub fn parse(text: &str) -> Result<Self, String> {
        let MapFile { each, request, response, time } =
            toml::from_str(text).map_err(|error| error.to_string().trim_end().to_owned())?;
        let mut map = Self {
            each,
            places: FieldPlaces::default(),
            request: MessageRules::default(),
            response: MessageRules::default(),
            started: None,
            ended: None,
            duration: None,
        };
        for (field, places) in [
            (MapField::RequestLine, request.line),
            (MapField::Method, request.method),
            (MapField::Url, request.url),
            (MapField::Scheme, request.scheme),
            (MapField::Host, request.host),
            (MapField::Port, request.port),
            (MapField::Path, request.path),
            (MapField::Query, request.query),
            (MapField::RequestMedia, request.media),
            (MapField::Status, response.status),
            (MapField::ResponseMedia, response.media),
            (MapField::Failure, response.failure),
        ] {
            map.places.add(field, places.unwrap_or_default().0);
        }
        map.request = map.message(&REQUEST, request.headers, request.body);
        map.response = map.message(&RESPONSE, response.headers, response.body);
        map.started = map.moment(MapField::Started, time.started);
        map.ended = map.moment(MapField::Ended, time.ended);
        if let Some(DurationTable { at, unit }) = time.duration {
            map.places.add(MapField::Duration, at.0);
            map.duration = Some(unit);
        }
        map.is_enough().map(|()| map)
    }

    fn message(
        &mut self,
        fields: &MessageFields,
        headers: Option<ShortOr<HeadersTable>>,
        body: Option<ShortOr<BodyTable>>,
    ) -> MessageRules {
        let mut rules = MessageRules::default();
        if let Some(ShortOr(HeadersTable { at, prefix, recorded })) = headers {
            self.places.add(fields.headers, at.0);
            // Among other attributes stand those that somebody chose.
            let recorded = recorded.or_else(|| (!prefix.is_empty()).then(Vec::new));
            let lower =
                |names: Vec<String>| names.iter().map(|one| one.to_ascii_lowercase()).collect();
            rules.recorded = recorded.map(lower);
            rules.prefix = prefix;
        }
        if let Some(ShortOr(BodyTable { at, base64, truncated })) = body {
            self.places.add(fields.body, at.0);
            self.places.add(fields.truncated, truncated.into_iter().collect());
            match base64 {
                Base64Rule::Never => {}
                Base64Rule::Always => rules.is_base64 = true,
                Base64Rule::Where(pointer) => self.places.add(fields.base64, vec![pointer]),
            }
        }
        rules
    }

    fn moment(
        &mut self,
        field: MapField,
        moment: Option<ShortOr<MomentTable>>,
    ) -> Option<TimeUnit> {
        let ShortOr(MomentTable { at, unit }) = moment?;
        self.places.add(field, at.0);
        unit
    }

    /// Does it place what every exchange needs?
    fn is_enough(&self) -> Result<(), String> {
        let has = |field: MapField| self.places.has(field);
        if !has(MapField::RequestLine) {
            if !has(MapField::Method) {
                return Err("[request] needs `method`, or `line` for the first line of a request"
                    .to_owned());
            }
            if !has(MapField::Url) && !has(MapField::Path) {
                return Err("[request] needs `url`, or `path` with what else of the URL there is, or `line`".to_owned());
            }
        }
        match has(MapField::Status) {
            true => Ok(()),
            false => Err("[response] needs `status`".to_owned()),
        }
    }

    /// Where the exchanges of a line stand in it; the line itself is one, unless the map says where each is.
    ///
    /// # Errors
    /// Where it is no JSON, or holds more than anybody writes in a line.
    pub(crate) fn exchanges(&self, line: &[u8]) -> Result<Vec<Range<usize>>, String> {
        let Some(each) = &self.each else {
            return Ok(std::iter::once(0..line.len()).collect());
        };
        let text = std::str::from_utf8(line).map_err(|_| "it is not UTF-8".to_owned())?;
        pointers::items(text, each)
    }
}

impl<'de> Deserialize<'de> for Base64Rule {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        struct RuleVisitor;
        impl Visitor<'_> for RuleVisitor {
            type Value = Base64Rule;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("true, false, or a JSON Pointer to what says so")
            }

            fn visit_bool<E>(self, is_base64: bool) -> Result<Base64Rule, E> {
                Ok(if is_base64 { Base64Rule::Always } else { Base64Rule::Never })
            }

            fn visit_str<E: de::Error>(self, text: &str) -> Result<Base64Rule, E> {
                MapPointer::read(text).map(Base64Rule::Where).map_err(E::custom)
            }
        }
        from.deserialize_any(RuleVisitor)
    }
}

impl<'de> Deserialize<'de> for PointerList {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        from.deserialize_any(PointersVisitor::<Self>(PhantomData))
    }
}

impl<'de, T: From<PointerList> + Deserialize<'de>> Deserialize<'de> for ShortOr<T> {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        from.deserialize_any(PointersVisitor::<Self>(PhantomData))
    }
}

/// What can be made of pointers, and perhaps of a table.
trait FromPointers<'de>: Sized {
    const EXPECTED: &'static str;

    fn of_pointers(places: PointerList) -> Self;

    fn of_table<A: MapAccess<'de>>(_: A) -> Result<Self, A::Error> {
        Err(de::Error::invalid_type(de::Unexpected::Map, &Self::EXPECTED))
    }
}

impl FromPointers<'_> for PointerList {
    const EXPECTED: &'static str = "a JSON Pointer, or an array of them";

    fn of_pointers(places: PointerList) -> Self {
        places
    }
}

impl<'de, T: From<PointerList> + Deserialize<'de>> FromPointers<'de> for ShortOr<T> {
    const EXPECTED: &'static str = "a JSON Pointer, an array of them, or a table with `at`";

    fn of_pointers(places: PointerList) -> Self {
        Self(places.into())
    }

    fn of_table<A: MapAccess<'de>>(table: A) -> Result<Self, A::Error> {
        T::deserialize(MapAccessDeserializer::new(table)).map(Self)
    }
}

struct PointersVisitor<T>(PhantomData<T>);

impl<'de, T: FromPointers<'de>> Visitor<'de> for PointersVisitor<T> {
    type Value = T;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(T::EXPECTED)
    }

    fn visit_str<E: de::Error>(self, text: &str) -> Result<T, E> {
        let pointer = MapPointer::read(text).map_err(E::custom)?;
        Ok(T::of_pointers(PointerList(vec![pointer])))
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut seq: A) -> Result<T, A::Error> {
        let mut pointers = Vec::new();
        while let Some(pointer) = seq.next_element()? {
            pointers.push(pointer);
        }
        Ok(T::of_pointers(PointerList(pointers)))
    }

    fn visit_map<A: MapAccess<'de>>(self, table: A) -> Result<T, A::Error> {
        T::of_table(table)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_wrong_with_a_map_is_told_with_its_line() {
        let right = "[request]\nmethod = \"/m\"\nurl = \"/u\"\n[response]\nstatus = \"/s\"\n";
        LineMap::parse(right).unwrap();
        for (from, to, words) in [
            ("method = \"/m\"", "", "[request] needs `method`"),
            ("url = \"/u\"", "", "[request] needs `url`"),
            ("status = \"/s\"", "", "[response] needs `status`"),
            ("\"/m\"", "\"m\"", "`m` is not a JSON Pointer: it starts with `/`"),
            ("\"/m\"", "7", "a JSON Pointer, or an array of them"),
            ("method", "methods", "unknown field `methods`"),
            ("[response]", "[answer]", "unknown field `answer`"),
            ("url = \"/u\"", "url = \"/u\"\nbody = { base64 = true }", "missing field `at`"),
            (
                "url = \"/u\"",
                "url = \"/u\"\nbody = { at = \"/b\", base64 = 1 }",
                "true, false, or a JSON Pointer",
            ),
            (
                "[response]",
                "[time]\nduration = { at = \"/d\", unit = \"min\" }\n[response]",
                "unknown variant `min`",
            ),
            ("[response]", "[time]\nduration = \"/d\"\n[response]", "line 5"),
        ] {
            assert!(right.contains(from), "{from}");
            let why = LineMap::parse(&right.replacen(from, to, 1)).unwrap_err();
            assert!(why.contains(words), "{words}: {why}");
        }
    }
}
