//! The parts of an exchange that a map can place.

use super::pointers::{MapPointer, PointerTree, no_json};

/// A part of an exchange.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum MapField {
    RequestLine,
    Method,
    Url,
    Scheme,
    Host,
    Port,
    Path,
    Query,
    RequestHeaders,
    RequestMedia,
    RequestBody,
    RequestBase64,
    RequestTruncated,
    Status,
    ResponseHeaders,
    ResponseMedia,
    ResponseBody,
    ResponseBase64,
    ResponseTruncated,
    Failure,
    Started,
    Ended,
    Duration,
}

/// Where the parts of one side stand.
pub(super) struct MessageFields {
    pub(super) headers: MapField,
    pub(super) media: MapField,
    pub(super) body: MapField,
    pub(super) base64: MapField,
    pub(super) truncated: MapField,
}

pub(super) const REQUEST: MessageFields = MessageFields {
    headers: MapField::RequestHeaders,
    media: MapField::RequestMedia,
    body: MapField::RequestBody,
    base64: MapField::RequestBase64,
    truncated: MapField::RequestTruncated,
};

pub(super) const RESPONSE: MessageFields = MessageFields {
    headers: MapField::ResponseHeaders,
    media: MapField::ResponseMedia,
    body: MapField::ResponseBody,
    base64: MapField::ResponseBase64,
    truncated: MapField::ResponseTruncated,
};

/// How many there are.
const FIELDS: usize = MapField::Duration as usize + 1;

/// Where the parts stand: for each the pointers in the order in which they are tried.
#[derive(Debug, Clone)]
pub(super) struct FieldPlaces {
    tree: PointerTree,
    places: [Vec<(usize, MapPointer)>; FIELDS],
    count: usize,
}

impl Default for FieldPlaces {
    fn default() -> Self {
        let places = std::array::from_fn(|_| Vec::new());
        Self { tree: PointerTree::default(), places, count: 0 }
    }
}

impl FieldPlaces {
    pub(super) fn add(&mut self, field: MapField, pointers: Vec<MapPointer>) {
        for pointer in pointers {
            self.tree.add(&pointer, self.count);
            self.places[field as usize].push((self.count, pointer));
            self.count += 1;
        }
    }

    /// Does a map place it?
    pub(super) fn has(&self, field: MapField) -> bool {
        !self.places[field as usize].is_empty()
    }

    /// Where it is looked for.
    pub(super) fn told(&self, field: MapField) -> String {
        let pointers: Vec<String> =
            self.places[field as usize].iter().map(|(_, pointer)| pointer.to_string()).collect();
        pointers.join(" or ")
    }

    /// What stands in a line.
    pub(super) fn find<'a>(&self, line: &'a str) -> Result<FoundFields<'a, '_>, String> {
        let mut found = vec![None; self.count];
        self.tree.find(line, &mut found).ok_or_else(|| no_json(line))?;
        Ok(FoundFields { places: self, found })
    }
}

/// The JSON texts of what a line holds of an exchange.
#[derive(Debug)]
pub(super) struct FoundFields<'a, 'm> {
    places: &'m FieldPlaces,
    found: Vec<Option<&'a str>>,
}

impl<'a> FoundFields<'a, '_> {
    /// What stands at the first of its pointers at which anything does.
    pub(super) fn get(&self, field: MapField) -> Option<&'a str> {
        let mut numbers = self.places.places[field as usize].iter().map(|(number, _)| *number);
        numbers.find_map(|number| self.found.get(number).copied().flatten())
    }
}
