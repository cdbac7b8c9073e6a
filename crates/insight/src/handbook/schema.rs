//! Shapes as JSON Schema (2020-12), and as components of an OpenAPI description (3.1).
//!
//! A schema asks for what a schema can hold. What it can't, such as that a pointer resolves in the request,
//! stays with the contract.

use std::collections::{BTreeMap, BTreeSet};

use serde_json::{Map, Value, json};

use faithful_clerk_contract::{ErrorContract, Fault, FaultId, RegionId};
use faithful_clerk_model::status;
use faithful_clerk_shape::{ConstrainedType, Limit, Shape, ShapeTable, TypeName};

const DIALECT: &str = "https://json-schema.org/draft/2020-12/schema";

/// A shape as a schema of its own, with those that it is made of.
#[must_use]
pub fn shape_schema(shape: &Shape, shapes: &ShapeTable) -> Value {
    let mut schema = object(shape, shapes, "#/$defs/");
    let mut found = BTreeSet::new();
    for member in &shape.members {
        reached(&member.constrained, shapes, &mut found);
    }
    if let Value::Object(members) = &mut schema {
        members.insert("$schema".to_owned(), json!(DIALECT));
        members.insert("title".to_owned(), json!(shape.name));
        if !found.is_empty() {
            let inner = found.iter().filter_map(|name| {
                let shape = shapes.get(shapes.find(name)?)?;
                Some((component_name(name), object(shape, shapes, "#/$defs/")))
            });
            members.insert("$defs".to_owned(), Value::Object(inner.collect()));
        }
    }
    schema
}

/// The schemas of all shapes that the contract's responses can have, by their names.
#[must_use]
pub fn shape_schemas(contract: &ErrorContract) -> BTreeMap<String, Value> {
    let named = used(contract).into_iter().filter_map(|name| {
        let shape = contract.shapes.get(contract.shapes.find(&name)?)?;
        Some((component_name(&name), shape_schema(shape, &contract.shapes)))
    });
    named.collect()
}

/// A fragment of an OpenAPI description: `components` with a schema for each shape, and a response for each
/// fault.
#[must_use]
pub fn components(contract: &ErrorContract) -> Value {
    let shapes = &contract.shapes;
    let at = "#/components/schemas/";
    let schemas = used(contract).into_iter().filter_map(|name| {
        let shape = shapes.get(shapes.find(&name)?)?;
        Some((component_name(&name), object(shape, shapes, at)))
    });
    let schemas: Map<String, Value> = schemas.collect();
    let mut responses = Map::new();
    for (at_place, fault) in contract.faults.iter().enumerate() {
        let regions = contract.regions_of_fault(FaultId(at_place));
        // The first is called as the fault is, the others have their region behind the name.
        for (index, region) in regions.into_iter().enumerate() {
            let name = match contract.region(region).filter(|_| index > 0) {
                Some(region) => format!("{} in {}", fault.name, region.name),
                None => fault.name.clone(),
            };
            responses
                .insert(component_name(&name), response(contract, fault, fault.status, region, at));
        }
    }
    json!({"components": {"schemas": schemas, "responses": responses}})
}

/// The response with a fault, under one of its statuses.
pub(super) fn response(
    contract: &ErrorContract,
    fault: &Fault,
    status: u16,
    region: Option<RegionId>,
    at: &str,
) -> Value {
    let error = &contract.style(region).error;
    let phrase = status::phrase(status).unwrap_or_default();
    let description = fault.title.clone().unwrap_or_else(|| phrase.to_owned());
    let mut response = json!({"description": format!("{status} {description}")});
    let media = fault.media.as_deref().or(error.media.as_deref());
    let shape = fault.shape_in(region).or(error.shape).and_then(|id| contract.shapes.get(id));
    if let (Some(media), Some(shape)) = (media, shape) {
        let mut exact = Map::new();
        if shape.is_problem {
            exact.insert("status".to_owned(), json!({"const": status}));
            exact.extend(
                fault.type_uri.iter().map(|uri| ("type".to_owned(), json!({"const": uri}))),
            );
        }
        let schema = json!({"allOf": [{"$ref": format!("{at}{}", component_name(&shape.name))}, {"properties": exact}]});
        response["content"] = json!({media: {"schema": schema}});
    }
    let rules = error.headers.iter().chain(&fault.headers);
    let headers: Map<String, Value> = rules
        .map(|rule| {
            let header =
                json!({"description": rule.requirement.words(), "schema": {"type": "string"}});
            (rule.name.clone(), header)
        })
        .collect();
    if !headers.is_empty() {
        response["headers"] = Value::Object(headers);
    }
    response
}

/// The names of the shapes of errors, and of those that they are made of.
fn used(contract: &ErrorContract) -> BTreeSet<String> {
    let shapes = &contract.shapes;
    let ids = (0..contract.faults.len()).map(FaultId);
    let own = ids.flat_map(|id| {
        let regions = contract.regions_of_fault(id).into_iter();
        regions.filter_map(move |region| contract.fault(id)?.shape_in(region))
    });
    let every = contract.styles().filter_map(|(_, style)| style.error.shape);
    let mut found = BTreeSet::new();
    for shape in own.chain(every).filter_map(|id| shapes.get(id)) {
        found.insert(shape.name.clone());
        shape.of.iter().for_each(|of| reached(of, shapes, &mut found));
        for member in &shape.members {
            reached(&member.constrained, shapes, &mut found);
        }
    }
    found
}

fn reached(typed: &ConstrainedType, shapes: &ShapeTable, found: &mut BTreeSet<String>) {
    match &typed.name {
        TypeName::Shape(id) => {
            let Some(shape) = shapes.get(*id) else { return };
            if found.insert(shape.name.clone()) {
                shape.of.iter().for_each(|of| reached(of, shapes, found));
                shape.members.iter().for_each(|member| reached(&member.constrained, shapes, found));
            }
        }
        TypeName::Array(inner) | TypeName::Map(inner) => reached(inner, shapes, found),
        TypeName::Either(alternatives) => {
            alternatives.iter().for_each(|one| reached(one, shapes, found));
        }
        _ => {}
    }
}

/// A name that can be a component's (OpenAPI 3.1 section 4.8.7), and a file's.
#[must_use]
pub fn component_name(name: &str) -> String {
    let keeps = |c: char| if c.is_ascii_alphanumeric() || "._-".contains(c) { c } else { '-' };
    name.chars().map(keeps).collect()
}

fn object(shape: &Shape, shapes: &ShapeTable, at: &str) -> Value {
    if let Some(of) = &shape.of {
        return typed(of, shapes, at);
    }
    let mut schema = Map::from_iter([("type".to_owned(), json!("object"))]);
    let required: Vec<&str> = shape
        .members
        .iter()
        .filter(|member| !member.optional)
        .map(|member| member.name.as_str())
        .collect();
    if !required.is_empty() {
        schema.insert("required".to_owned(), json!(required));
    }
    let properties: Map<String, Value> = shape
        .members
        .iter()
        .map(|member| (member.name.clone(), typed(&member.constrained, shapes, at)))
        .collect();
    schema.insert("properties".to_owned(), Value::Object(properties));
    if shape.closed {
        schema.insert("additionalProperties".to_owned(), json!(false));
    }
    let each = |names: &mut dyn Iterator<Item = &str>| -> Vec<Value> {
        names.map(|name| json!({"required": [name]})).collect()
    };
    if !shape.without.is_empty() {
        let names = each(&mut shape.without.iter().map(String::as_str));
        schema.insert("not".to_owned(), json!({"anyOf": names}));
    }
    if shape.not_bare {
        let names = each(&mut shape.members.iter().map(|member| member.name.as_str()));
        schema.insert("anyOf".to_owned(), json!(names));
    }
    Value::Object(schema)
}

fn typed(of: &ConstrainedType, shapes: &ShapeTable, at: &str) -> Value {
    let mut schema = match &of.name {
        TypeName::String => json!({"type": "string"}),
        TypeName::Number => json!({"type": "number"}),
        TypeName::Integer => json!({"type": "integer"}),
        TypeName::Boolean => json!({"type": "boolean"}),
        TypeName::Null => json!({"type": "null"}),
        // Which header a value repeats is beyond a schema.
        TypeName::Anything | TypeName::SameAsHeader(_) => json!({}),
        TypeName::Object => json!({"type": "object"}),
        TypeName::Uri => json!({"type": "string", "format": "uri"}),
        TypeName::UriReference => json!({"type": "string", "format": "uri-reference"}),
        TypeName::Date => json!({"type": "string", "format": "date"}),
        TypeName::DateTime => json!({"type": "string", "format": "date-time"}),
        // RFC 9110 section 5.6.7: the preferred format.
        TypeName::HttpDate => {
            json!({"type": "string", "pattern": "^[A-Z][a-z]{2}, [0-9]{2} [A-Z][a-z]{2} [0-9]{4} [0-9:]{8} GMT$"})
        }
        TypeName::Absent => json!(false),
        // Plain or as a fragment.
        TypeName::JsonPointer => json!({"type": "string", "pattern": "^(#?(/.*)?)$"}),
        TypeName::Status => json!({"type": "integer", "minimum": 100, "maximum": 599}),
        TypeName::LanguageTag => {
            json!({"type": "string", "pattern": "^([A-Za-z]{2,8}|[xX])(-[A-Za-z0-9]{1,8})*$"})
        }
        TypeName::OneOf(values) => json!({"enum": values}),
        TypeName::Exactly(value) => json!({"const": value}),
        TypeName::NotExactly(value) => json!({"not": {"const": value}}),
        TypeName::Array(item) => json!({"type": "array", "items": typed(item, shapes, at)}),
        TypeName::Map(member) => {
            json!({"type": "object", "additionalProperties": typed(member, shapes, at)})
        }
        TypeName::Shape(id) => {
            let name = shapes.get(*id).map_or("", |shape| shape.name.as_str());
            json!({"$ref": format!("{at}{}", component_name(name))})
        }
        TypeName::Either(alternatives) => {
            let each = alternatives.iter().map(|one| typed(one, shapes, at));
            json!({"anyOf": each.collect::<Vec<_>>()})
        }
    };
    for limit in &of.limits {
        let (keyword, value) = match limit {
            // A schema can't compare two members.
            Limit::NotBefore(_) => continue,
            Limit::Matching(pattern) => ("pattern", json!(pattern.as_str())),
            Limit::AtLeast(least) => (
                bound(&of.name, ["minLength", "minItems", "minProperties", "minimum"]),
                number(*least),
            ),
            Limit::AtMost(most) => (
                bound(&of.name, ["maxLength", "maxItems", "maxProperties", "maximum"]),
                number(*most),
            ),
        };
        schema[keyword] = value;
    }
    schema
}

fn bound(kind: &TypeName, [text, list, map, number]: [&'static str; 4]) -> &'static str {
    match kind {
        TypeName::String | TypeName::Uri | TypeName::UriReference => text,
        TypeName::Array(_) => list,
        TypeName::Map(_) => map,
        _ => number,
    }
}

/// A limit as a number without a fraction, where it has none.
#[allow(clippy::cast_possible_truncation, reason = "it was looked at before")]
fn number(limit: f64) -> Value {
    if limit.fract() == 0.0 && limit.abs() < 9e15 { json!(limit as i64) } else { json!(limit) }
}
