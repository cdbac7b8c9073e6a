//! Reads the entries of a validation error out of a response, whatever its form.
//!
//! Where the contract says where they stand, by `[envelope]` or by a shape whose list has a `json
//! pointer` in its items, that is where. Otherwise the usual forms are looked for: a array of objects, an
//! object keyed by field, errors that follow the body's own nesting, a list of sentences.

use serde_json::{Map, Value};

use super::member_names::{CODES, LISTS, LOCATIONS, REASONS};
use super::reported_field::{LocationForm, ReportedField, location_steps};
use faithful_clerk_contract::{ErrorStyle, LocationSource, ViolationPointers};
use faithful_clerk_model::json::pointer::{
    Resolved, from_tokens, join, join_index, resolve, resolve_each,
};
use faithful_clerk_model::json::{self, MemberLookup as _};
use faithful_clerk_shape::{Shape, ShapeTable, TypeName};

/// Nothing is nested deeper than this in a response that people read.
const MOST_NESTED: usize = 16;

/// So many entries are read.
const MOST_ENTRIES: usize = 1000;

/// Every entry of the response, in document order.
#[must_use]
pub fn find_reported_fields(
    body: &Value,
    shape: Option<&Shape>,
    style: &ErrorStyle,
    shapes: &ShapeTable,
) -> Vec<ReportedField> {
    let mut found = match &style.envelope.fields {
        Some(at) => said(body, at),
        None => agreed(body, shape, shapes),
    };
    if found.is_empty() && style.envelope.fields.is_none() {
        found = guessed(body);
    }
    found.truncate(MOST_ENTRIES);
    found
}

/// The entries that stand where `[envelope]` says.
fn said(body: &Value, at: &ViolationPointers) -> Vec<ReportedField> {
    let text = |item: &Value, steps: &Option<Vec<String>>| {
        let found = resolve(item, steps.as_deref()?)?;
        let text = found.as_str().map_or_else(|| json::strings(found), str::to_owned);
        (!text.trim().is_empty()).then_some(text)
    };
    let read = |Resolved { pointer: place, key, value }: Resolved<'_>| {
        let item = value?;
        let mut named = match &at.location {
            LocationSource::MemberName => {
                let key = key.map(Value::from);
                entry(item, key.as_ref(), place.clone(), &place)
            }
            LocationSource::Pointer(steps) => {
                let at = format!("{place}{}", from_tokens(steps));
                entry(item, resolve(item, steps), at, &place)
            }
        };
        if at.message.is_some() {
            named.reason = text(item, &at.message);
        }
        if let Some(steps) = &at.code {
            named.code = resolve(item, steps).and_then(code);
        }
        Some(named)
    };
    resolve_each(body, &at.each).into_iter().filter_map(read).collect()
}

/// The entries that stand where the agreed shape has a list with a `json pointer` in its items.
fn agreed(body: &Value, shape: Option<&Shape>, shapes: &ShapeTable) -> Vec<ReportedField> {
    let mut found = Vec::new();
    let Some(shape) = shape else { return found };
    // The list is a member, or the body itself.
    let top = shape.of.iter().map(|of| (&**of, Some(body), String::new()));
    let members = shape
        .members
        .iter()
        .map(|member| (&member.constrained, body.member(&member.name), join("", &member.name)));
    for (constrained, value, list) in top.chain(members) {
        let TypeName::Array(item) = &constrained.name else { continue };
        let TypeName::Shape(id) = item.name else { continue };
        let Some(Value::Array(items)) = value else { continue };
        let Some(path) = shapes.get(id).and_then(|entry| pointer_in_entry(entry, shapes)) else {
            continue;
        };
        for (index, item) in items.iter().enumerate() {
            let place = join_index(&list, index);
            let at = format!("{place}{}", from_tokens(&path));
            let mut named = match resolve(item, &path) {
                Some(location) => entry(item, Some(location), at, &place),
                None => other_entry(item, &place),
            };
            named.is_pointer = named.location.is_some() && resolve(item, &path).is_some();
            found.push(named);
        }
    }
    found
}

/// The steps to the member of a violation that is a `json pointer`, in it or in an object of it.
#[must_use]
pub fn pointer_in_entry(shape: &Shape, shapes: &ShapeTable) -> Option<Vec<String>> {
    way_to_pointer(shape, shapes, 0)
}

fn way_to_pointer(shape: &Shape, shapes: &ShapeTable, depth: usize) -> Option<Vec<String>> {
    let direct = shape.members.iter().find(|member| is_pointer(&member.constrained.name));
    if let Some(member) = direct {
        return Some(vec![member.name.clone()]);
    }
    shape.members.iter().filter(|_| depth < 3).find_map(|member| {
        let TypeName::Shape(id) = member.constrained.name else { return None };
        let inner = way_to_pointer(shapes.get(id)?, shapes, depth + 1)?;
        Some(std::iter::once(member.name.clone()).chain(inner).collect())
    })
}

/// Is this a `json pointer`, or a choice with one in it, such as `json pointer or null`?
fn is_pointer(kind: &TypeName) -> bool {
    match kind {
        TypeName::JsonPointer => true,
        TypeName::Either(alternatives) => alternatives.iter().any(|one| is_pointer(&one.name)),
        _ => false,
    }
}

/// The entries in one of the usual forms.
fn guessed(body: &Value) -> Vec<ReportedField> {
    let members = match body {
        Value::Array(items) => return listed(items, ""),
        Value::Object(members) => members,
        _ => return Vec::new(),
    };
    for (name, list) in LISTS.iter().filter_map(|name| Some((*name, members.member(name)?))) {
        let at = join("", name);
        let found = match list {
            Value::Array(items) => listed(items, &at),
            // One more envelope, such as `error: {fields: …}`, or an object keyed by field.
            Value::Object(fields) => match guessed(list) {
                inner if !inner.is_empty() => {
                    inner.into_iter().map(|named| named.moved(&at)).collect()
                }
                _ if is_leaf(fields) => Vec::new(),
                _ => keyed(fields, &at, &[], 0),
            },
            Value::String(text) => match serde_json::from_str::<Value>(text) {
                // JSON inside a string: the entries are read, and stand where the string does.
                Ok(inner @ (Value::Array(_) | Value::Object(_))) => {
                    let location = |named: ReportedField| ReportedField {
                        pointer: at.clone(),
                        entry: at.clone(),
                        ..named
                    };
                    guessed(&inner).into_iter().map(location).collect()
                }
                _ => Vec::new(),
            },
            _ => Vec::new(),
        };
        if !found.is_empty() {
            return found;
        }
    }
    // An object keyed by field at the top. Where all names are words for reasons, it is one error, and not fields.
    let is_word =
        |name: &String| REASONS.contains(&name.as_str()) || LISTS.contains(&name.as_str());
    let is_keyed =
        !members.keys().all(is_word) && members.values().all(|value| has_reasons(value, 0));
    if is_keyed { keyed(members, "", &[], 0) } else { Vec::new() }
}

/// Are these the reasons of one field: a list of sentences, a list of violations, or, nested as the body is, an
/// object or a list of such?
fn has_reasons(value: &Value, depth: usize) -> bool {
    if depth > MOST_NESTED {
        return false;
    }
    match value {
        Value::Array(items) => {
            let is_item = |item: &Value| match item {
                Value::String(_) => true,
                Value::Object(members) => {
                    members.is_empty() || is_leaf(members) || has_reasons(item, depth + 1)
                }
                _ => false,
            };
            !items.is_empty() && items.iter().all(is_item)
        }
        Value::Object(members) => {
            !members.is_empty() && members.values().all(|inner| has_reasons(inner, depth + 1))
        }
        _ => false,
    }
}

impl ReportedField {
    /// The same entry in a document in which its own stands at that place.
    fn moved(self, location: &str) -> Self {
        Self {
            pointer: format!("{location}{}", self.pointer),
            entry: format!("{location}{}", self.entry),
            ..self
        }
    }
}

fn listed(items: &[Value], at: &str) -> Vec<ReportedField> {
    let mut found = Vec::new();
    for (index, item) in items.iter().enumerate().take(MOST_ENTRIES) {
        let place = join_index(at, index);
        match item {
            Value::Object(members) => {
                let named = other_entry(item, &place);
                let has_reason = REASONS.iter().any(|name| members.member(name).is_some());
                // `[{"nights": "too many"}]`: each item is an object keyed by field.
                if named.location.is_none() && !has_reason {
                    let inner = keyed(members, &place, &[], 0);
                    if !inner.is_empty() {
                        found.extend(inner);
                        continue;
                    }
                }
                found.push(named);
            }
            Value::String(_) => found.push(entry(item, None, place.clone(), &place)),
            _ => {}
        }
    }
    found
}

/// An object keyed by field, perhaps nested as the body is.
fn keyed(
    fields: &Map<String, Value>,
    at: &str,
    above: &[String],
    depth: usize,
) -> Vec<ReportedField> {
    let mut found = Vec::new();
    for (field, value) in fields {
        let location = join(at, field);
        let mut path = above.to_vec();
        path.extend(location_steps(field));
        nested(value, &location, field, &path, depth, &mut found);
    }
    found
}

fn nested(
    value: &Value,
    location: &str,
    field: &str,
    path: &[String],
    depth: usize,
    found: &mut Vec<ReportedField>,
) {
    match value {
        Value::String(_) => found.push(leaf(value, location, field, path)),
        Value::Array(items) if items.iter().all(Value::is_string) && !items.is_empty() => {
            found.push(leaf(value, location, field, path));
        }
        Value::Array(items) if depth < MOST_NESTED => {
            for (index, item) in items.iter().enumerate().take(MOST_ENTRIES) {
                let location = join_index(location, index);
                match item {
                    Value::Object(members) if is_leaf(members) => {
                        found.push(leaf(item, &location, field, path));
                    }
                    Value::Object(members) => {
                        let path: Vec<String> =
                            path.iter().cloned().chain([index.to_string()]).collect();
                        found.extend(keyed(members, &location, &path, depth + 1));
                    }
                    _ => {}
                }
            }
        }
        Value::Object(members) if is_leaf(members) => {
            found.push(leaf(value, location, field, path));
        }
        Value::Object(members) if depth < MOST_NESTED => {
            found.extend(keyed(members, location, path, depth + 1));
        }
        _ => {}
    }
}

/// An entry that stands under its field's name.
fn leaf(value: &Value, location: &str, field: &str, path: &[String]) -> ReportedField {
    let named = entry(value, Some(&Value::from(field)), location.to_owned(), location);
    ReportedField { steps: path.to_vec(), ..named }
}

/// Does the object describe one violation, and not the members of one more object?
fn is_leaf(members: &Map<String, Value>) -> bool {
    let told = |names: &[&str]| {
        names.iter().any(|name| members.member(name).is_some_and(Value::is_string))
    };
    told(&["message", "msg", "detail", "reason", "description", "text", "code", "rule", "error"])
        // An object of rule → sentence: `{"isInt": "has to be a whole number"}`.
        || (!members.is_empty()
            && members.iter().all(|(_, v)| v.as_str().is_some_and(|text| text.contains(' ')))
            && members.keys().all(|name| name.starts_with("is") || name.starts_with("m") && name.contains(char::is_uppercase)))
}

/// An entry whose location stands under one of the usual names.
fn other_entry(item: &Value, place: &str) -> ReportedField {
    let location = LOCATIONS.iter().find_map(|name| Some((*name, item.member(name)?)));
    match location {
        Some((name, Value::Object(source))) => {
            let inner = ["pointer", "parameter", "header"]
                .iter()
                .find_map(|name| Some((*name, source.member(name)?)));
            let at = join(place, name);
            match inner {
                Some((inner, value)) => {
                    let mut named = entry(item, Some(value), join(&at, inner), place);
                    if inner != "pointer" {
                        named.form = LocationForm::Parameter;
                        named.steps = named.location.clone().into_iter().collect();
                    }
                    named
                }
                None => entry(item, None, at, place),
            }
        }
        // `name` is the field's in some violations, and in others that of the error or of the rule; and what is empty
        // names nothing, unless it is a pointer.
        Some((name, Value::String(text)))
            if (name == "name" && !may_name_field(text))
                || (name != "pointer" && text.trim().is_empty()) =>
        {
            entry(item, None, join(place, name), place)
        }
        Some((name, value)) => {
            let mut named = entry(item, Some(value), join(place, name), place);
            if name == "parameter" && named.location.is_some() {
                named.form = LocationForm::Parameter;
            }
            named
        }
        None => entry(item, None, place.to_owned(), place),
    }
}

/// Could the text be the name of a field or a path to one: a word without spaces, and not that of an error?
fn may_name_field(text: &str) -> bool {
    let is_error =
        ["Error", "Exception", "Failed", "Failure"].iter().any(|end| text.ends_with(end));
    !text.contains(char::is_whitespace) && !is_error
}

fn entry(item: &Value, location: Option<&Value>, at: String, place: &str) -> ReportedField {
    let (location, steps, form) = match location {
        Some(Value::String(text)) => {
            (Some(text.clone()), location_steps(text), LocationForm::of(text))
        }
        Some(Value::Array(items)) => {
            let step = |item: &Value| item.as_str().map_or_else(|| item.to_string(), str::to_owned);
            let steps: Vec<String> = items.iter().map(step).collect();
            (Some(steps.join(".")), steps, LocationForm::TokenArray)
        }
        _ => (None, Vec::new(), LocationForm::None),
    };
    ReportedField {
        location,
        steps,
        form,
        pointer: at,
        entry: place.to_owned(),
        is_pointer: false,
        reason: reason(item),
        code: CODES.iter().find_map(|name| code(item.member(name)?)),
        words: json::strings(item),
    }
}

/// The reason that an entry gives: its text, or what stands under one of the usual names.
fn reason(item: &Value) -> Option<String> {
    let text = match item {
        Value::String(text) => text.clone(),
        Value::Array(_) => json::strings(item),
        Value::Object(members) => {
            let named = REASONS.iter().filter_map(|name| members.member(name));
            let named = named.map(|value| match value {
                Value::String(text) => text.clone(),
                other => json::strings(other),
            });
            named.into_iter().find(|text| !text.trim().is_empty())?
        }
        _ => return None,
    };
    (!text.trim().is_empty()).then_some(text)
}

/// The member that holds the reason of a violation, by one of the usual names.
pub fn reason_member(item: &Value) -> Option<(&'static str, &Value)> {
    REASONS.iter().find_map(|name| Some((*name, item.member(name)?)))
}

fn code(value: &Value) -> Option<String> {
    json::scalar_text(value).filter(|code| !code.is_empty())
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    fn read(body: &Value) -> Vec<ReportedField> {
        find_reported_fields(body, None, &ErrorStyle::default(), &ShapeTable::default())
    }

    /// One and the same three invalid fields, in every form that services use.
    #[test]
    fn three_places_are_read_out_of_every_usual_form() {
        let locations = [vec!["crew", "0", "name"], vec!["nights"], vec!["vessel_id"]];
        let locations =
            locations.map(|steps| steps.into_iter().map(str::to_owned).collect::<Vec<_>>());
        for body in [
            // A array of objects, the field under one of several names.
            json!({"errors": [{"pointer": "/crew/0/name", "detail": "x"}, {"pointer": "/nights", "detail": "x"}, {"pointer": "/vessel_id", "detail": "x"}]}),
            json!({"errors": [{"field": "crew[0].name", "message": "x"}, {"field": "nights", "message": "x"}, {"field": "vessel_id", "message": "x"}]}),
            json!({"violations": [{"propertyPath": "crew.0.name", "title": "x"}, {"propertyPath": "nights", "title": "x"}, {"propertyPath": "vessel_id", "title": "x"}]}),
            json!({"details": [{"loc": ["body", "crew", 0, "name"], "msg": "x"}, {"loc": ["body", "nights"], "msg": "x"}, {"loc": ["body", "vessel_id"], "msg": "x"}]}),
            json!({"detail": "no", "extra": [{"key": "body.crew[0].name", "message": "x"}, {"key": "nights", "message": "x"}, {"key": "vessel_id", "message": "x"}]}),
            json!([{"path": "crew.0.name", "text": "x"}, {"path": "nights", "text": "x"}, {"path": "vessel_id", "text": "x"}]),
            json!({"error": {"code": 7, "fields": [{"name": "crew[0].name", "reason": "x"}, {"name": "nights", "reason": "x"}, {"name": "vessel_id", "reason": "x"}]}}),
            json!({"errors": [{"location": "body", "path": "crew[0].name", "msg": "x"}, {"location": "body", "path": "nights", "msg": "x"}, {"location": "body", "path": "vessel_id", "msg": "x"}]}),
            // JSON:API, and a pointer in a URI fragment.
            json!({"errors": [{"source": {"pointer": "/crew/0/name"}, "detail": "x"}, {"source": {"pointer": "/nights"}, "detail": "x"}, {"source": {"pointer": "/vessel_id"}, "detail": "x"}]}),
            json!({"errors": [{"pointer": "#/crew/0/name", "detail": "x"}, {"pointer": "#/nights", "detail": "x"}, {"pointer": "#/vessel_id", "detail": "x"}]}),
            // An object keyed by field, with a string, a list or an object for each.
            json!({"errors": {"crew[0].name": "too short", "nights": "too many", "vessel_id": "missing"}}),
            json!({"errors": {"crew.0.name": ["too short"], "nights": ["too many", "not whole"], "vessel_id": ["missing"]}}),
            json!({"errors": {"crew[0].name": {"message": "x", "rule": "r"}, "nights": {"message": "x"}, "vessel_id": {"message": "x"}}}),
            json!({"errors": {"crew[0].name": [{"message": "x"}], "nights": [{"message": "x"}], "vessel_id": [{"message": "x"}]}}),
            json!({"crew[0].name": ["too short"], "nights": ["too many"], "vessel_id": ["missing"]}),
            json!({"errors": [{"crew[0].name": "too short"}, {"nights": "too many"}, {"vessel_id": "missing"}]}),
            // Nested as the body is.
            json!({"errors": {"crew": {"0": {"name": ["too short"]}}, "nights": ["too many"], "vessel_id": ["missing"]}}),
            json!({"errors": {"crew": [{"name": ["too short"]}], "nights": ["too many"], "vessel_id": ["missing"]}}),
            // Another naming style, and JSON inside a string.
            json!({"fieldErrors": [{"field": "crew[0].name", "defaultMessage": "x"}, {"field": "nights", "defaultMessage": "x"}, {"field": "vesselId", "defaultMessage": "x"}]}),
            json!({"message": "no", "details": "[{\"path\":\"crew.0.name\",\"message\":\"x\"},{\"path\":\"nights\",\"message\":\"x\"},{\"path\":\"vessel_id\",\"message\":\"x\"}]"}),
        ] {
            let found = read(&body);
            assert_eq!(found.len(), 3, "{body}: {found:#?}");
            for (entry, location) in found.iter().zip(&locations) {
                assert!(entry.is_at_or_below(location), "{body}: {entry:?}");
                assert!(entry.reason.is_some(), "{body}: {entry:?}");
                assert!(!entry.is_at_or_below(&["berth".to_owned()]), "{body}");
            }
        }
    }

    #[test]
    fn reading_says_what_cannot_be_told() {
        let text = "contract = 1\n[envelope]\nfields = { each = \"/meta/bad/*\", location = \"/where\", message = \"/why/0\", code = \"/no\" }\n";
        let contract = crate::parse_contract(text).contract.unwrap();
        let body = json!({"meta": {"bad": [{"where": "nights", "why": ["too many"], "no": 3}]}, "errors": [{"field": "x"}]});
        let found = find_reported_fields(&body, None, &contract.style, &contract.shapes);
        assert_eq!(found.len(), 1);
        assert_eq!(
            (found[0].pointer.as_str(), found[0].steps.as_slice()),
            ("/meta/bad/0/where", &["nights".to_owned()][..])
        );
        assert_eq!(
            (found[0].reason.as_deref(), found[0].code.as_deref()),
            (Some("too many"), Some("3"))
        );
        let text = "contract = 1\n[envelope]\nfields = { each = \"/bad/*\", location = \"member-name\" }\n";
        let contract = crate::parse_contract(text).contract.unwrap();
        let body = json!({"bad": {"nights": 1, "crew": 2}});
        let found = find_reported_fields(&body, None, &contract.style, &contract.shapes);
        assert_eq!(found.iter().map(|n| n.steps.join(".")).collect::<Vec<_>>(), ["nights", "crew"]);
    }

    #[test]
    fn another_naming_style_names_the_same_field_and_a_wrong_pointer_does_not() {
        let found = read(&json!({"errors": [{"field": "vesselId"}, {"pointer": "/vesselId"}]}));
        let location = ["vessel_id".to_owned()];
        assert!(found[0].is_at_or_below(&location) && !found[1].is_at_or_below(&location));
    }

    #[test]
    fn sentences_are_entries_without_a_location_and_plain_words_are_none() {
        let found = read(&json!({"errors": ["nights is wrong"]}));
        assert_eq!((found.len(), found[0].location.as_deref()), (1, None));
        for body in [
            json!({"detail": "no"}),
            json!({"error": "Not Found", "message": "no"}),
            json!({"error": {"code": 7, "message": "no"}}),
            json!({"title": "no", "status": 404}),
        ] {
            assert_eq!(read(&body), [], "{body}");
        }
    }

    #[test]
    fn a_parameter_is_named_as_one() {
        let found = read(
            &json!({"errors": [{"source": {"parameter": "length_m"}}, {"parameter": "nights"}]}),
        );
        assert!(found.iter().all(|entry| entry.form == LocationForm::Parameter));
        assert!(found[0].is_parameter("length_m") && found[1].is_parameter("nights"));
    }
}
