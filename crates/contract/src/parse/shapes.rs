//! `[shape.*]`, and members described in type expressions wherever they stand.

use std::ops::Range;

use toml::de::DeTable;

use crate::diagnostics::Diagnostic;
use crate::nearest::nearest;
use crate::parse::keys;
use crate::parse::parser::{ContractParser, as_table};
use crate::parse::values::{Node, SpannedText};
use faithful_clerk_shape::{
    ConstrainedType, Limit, Shape, ShapeId, ShapeMember, TypeExpressionError, TypeName, parse,
    type_names,
};

/// RFC 9457 section 3.1: five members, none of them required by the RFC.
const PROBLEM: [(&str, &str); 5] = [
    ("type", "optional uri reference"),
    ("title", "optional string"),
    ("status", "optional status"),
    ("detail", "optional string"),
    ("instance", "optional uri reference"),
];

/// The word of this language for one of another.
fn other_word(word: &str) -> Option<&'static str> {
    Some(match word.to_ascii_lowercase().as_str() {
        "text" | "txt" | "str" | "varchar" => "string",
        "bool" => "boolean",
        "int" | "long" => "integer",
        "float" | "double" | "decimal" => "number",
        "list" | "list of" | "array" => "array of",
        "dict" | "dictionary" | "hash" => "map of",
        "any" => "anything",
        "enum" | "either" => "one of",
        "const" => "exactly",
        "url" | "link" => "uri",
        "timestamp" => "date-time",
        "nil" | "none" => "null",
        _ => return None,
    })
}

/// The shape that a shape is like, and where it says so.
type Like = Option<(ShapeId, Range<usize>)>;

/// So many members may be taken over by `like`, all together: a chain of shapes has as many as the square of its length.
const MOST_TAKEN_OVER: usize = 200_000;

/// How far a shape is with taking over what it is like.
#[derive(Debug, Clone, Copy, PartialEq)]
enum ResolutionState {
    New,
    InProgress,
    Done,
}

/// Tables of members within tables of members end somewhere.
const MOST_NESTED: usize = 16;

/// The built-in shapes: each with its members, and what else there is to it.
///
/// `problem` is RFC 9457's, `oauth-error` RFC 6749's (section 5.2), the others are JSON:API 1.1's.
const BUILT_IN: [(&str, &[(&str, &str)]); 5] = [
    ("problem", &PROBLEM),
    (
        "jsonapi-errors",
        &[
            ("errors", "array of jsonapi-error, at least 1"),
            ("meta", "optional object"),
            ("jsonapi", "optional object"),
            ("links", "optional object"),
        ],
    ),
    (
        "jsonapi-error",
        &[
            ("id", "optional string"),
            ("links", "optional object"),
            ("status", "optional string matching ^[1-5][0-9][0-9]$"),
            ("code", "optional string"),
            ("title", "optional string"),
            ("detail", "optional string"),
            ("source", "optional jsonapi-source"),
            ("meta", "optional object"),
        ],
    ),
    (
        "jsonapi-source",
        &[
            ("pointer", "optional json pointer"),
            ("parameter", "optional string"),
            ("header", "optional string"),
        ],
    ),
    (
        "oauth-error",
        &[
            ("error", "string matching ^[!#-\\[\\]-~ ]+$"),
            ("error_description", "optional string"),
            ("error_uri", "optional uri reference"),
        ],
    ),
];

/// The built-in shapes, in the order of the table.
fn built_in() -> Vec<Shape> {
    let location = |name: &str| BUILT_IN.iter().position(|(known, _)| *known == name).map(ShapeId);
    let member = |(name, text): &(&str, &str)| {
        let read = parse(text, &location).ok()?;
        Some(ShapeMember {
            name: (*name).to_owned(),
            text: (*text).to_owned(),
            optional: read.optional,
            constrained: read.typed,
        })
    };
    let shape = |(name, members): &(&str, &[(&str, &str)])| Shape {
        name: (*name).to_owned(),
        members: members.iter().filter_map(member).collect(),
        is_problem: *name == "problem",
        is_json_api: *name == "jsonapi-errors",
        // JSON:API 1.1, 'Top Level' and 'Error Objects'.
        without: if *name == "jsonapi-errors" { vec!["data".to_owned()] } else { Vec::new() },
        not_bare: *name == "jsonapi-error",
        ..Shape::default()
    };
    BUILT_IN.iter().map(shape).collect()
}

impl<'t> ContractParser<'t> {
    /// Declares all shapes, then reads them, so that they can name one another in any order.
    pub(super) fn shapes(&mut self, named: &[(SpannedText, &Node<'t>)]) {
        // Those of a contract that this one is like come with the built-in ones.
        if self.contract.shapes.shapes.is_empty() {
            self.contract.shapes.shapes.extend(built_in());
        }
        let first = self.contract.shapes.shapes.len();
        for (name, _) in named {
            if let Some(base) = &self.base
                && self.contract.shapes.find(&name.text).is_some_and(|id| id.0 >= BUILT_IN.len())
            {
                let message = format!("the shape `{}` is declared in {}", name.text, base.path);
                let help =
                    format!("give yours another name and begin it with `like = \"{}\"`", name.text);
                self.diagnostics.report(Diagnostic::new(name.span.clone(), message).help(help));
            }
            if BUILT_IN.iter().any(|(known, _)| *known == name.text) {
                let known = &name.text;
                let help =
                    format!("give yours another name and begin it with `like = \"{known}\"`");
                let message = format!("the shape `{known}` is built in");
                self.diagnostics.report(Diagnostic::new(name.span.clone(), message).help(help));
            } else if name.text.is_empty() || parse(&name.text, &|_| None).is_ok() {
                let message =
                    format!("`{}` is a built-in type name, so a shape can't have it", name.text);
                self.diagnostics.report(Diagnostic::new(name.span.clone(), message));
            } else if name.text.contains([' ', ',', '.']) {
                self.diagnostics.report(
                    Diagnostic::new(name.span.clone(), "a shape's name is one word")
                        .label("no space, comma or dot is allowed in it"),
                );
            }
            let shape = Shape { name: name.text.clone(), ..Shape::default() };
            self.contract.shapes.shapes.push(shape);
        }
        // By the place of the shape; the first are there already.
        let mut likes: Vec<Like> = vec![None; named.len() + first];
        for (at, (name, node)) in (first..).zip(named) {
            let owner = format!("[shape.{}]", name.text);
            if node.get_ref().is_str() {
                self.named_type(ShapeId(at), &owner, node);
                continue;
            }
            let Some(table) = self.diagnostics.table(node, &owner) else { continue };
            let (closed, notes_unknown) = match table.get("closed") {
                Some(node) if node.get_ref().as_str() == Some("note") => (None, true),
                Some(node) => (self.closed(node), false),
                None => (None, false),
            };
            likes[at] = table.get("like").and_then(|node| {
                let span = node.span();
                self.shape_named(node).map(|id| (id, span))
            });
            self.note_member_names(ShapeId(at), table, keys::SHAPE);
            let mut members = self.members(table, &name.text, 0, keys::SHAPE);
            if let Some(more) =
                table.get("members").and_then(|node| self.diagnostics.table(node, "`members`"))
            {
                self.note_member_names(ShapeId(at), more, &[]);
                members.extend(self.members(more, &name.text, 0, &[]));
            }
            if let Some(shape) = self.contract.shapes.shapes.get_mut(at) {
                shape.members = members;
                shape.closed = closed.unwrap_or(false);
                shape.notes_unknown = notes_unknown;
            }
        }
        self.check_named_types(first, named);
        for like in &mut likes {
            // Taken out, so that nothing else is told about it.
            *like = like.take().filter(|(base, span)| self.takes_members(*base, span));
        }
        self.inherit(&likes);
        let based = likes.iter().enumerate();
        self.shape_bases.extend(based.filter_map(|(at, like)| Some((at, like.as_ref()?.0.0))));
        for (at, (_, node)) in (first..).zip(named) {
            let members = self.contract.shapes.get(ShapeId(at)).map(|shape| shape.members.clone());
            if let (Some(members), Some(table)) = (members, as_table(node)) {
                self.note_not_before(&members, table);
            }
        }
    }

    fn closed(&mut self, node: &Node<'t>) -> Option<bool> {
        if let Some(text) = node.get_ref().as_str() {
            let message = format!("`closed` can't be \"{text}\"");
            let label = "use true, false or \"note\"";
            self.diagnostics.report(Diagnostic::new(node.span(), message).label(label));
            return None;
        }
        self.diagnostics.boolean(node, "`closed`")
    }

    /// Keeps the names of a shape's own members, to see later whether every format can hold them.
    pub(super) fn note_member_names(&mut self, id: ShapeId, table: &DeTable<'t>, without: &[&str]) {
        let keys = table.keys().filter(|key| !without.contains(&key.get_ref().as_ref()));
        let names =
            keys.map(|key| SpannedText { text: key.get_ref().to_string(), span: key.span() });
        self.unmatched.members.extend(names.map(|name| (id, name)));
    }

    /// Keeps the limits by a member that does not stand beside the limited one.
    pub(super) fn note_not_before(&mut self, members: &[ShapeMember], table: &DeTable<'t>) {
        for member in members {
            let each: &[ConstrainedType] = match &member.constrained.name {
                TypeName::Either(each) => each,
                _ => &[],
            };
            let limits = each.iter().flat_map(|one| &one.limits).chain(&member.constrained.limits);
            for limit in limits {
                let Limit::NotBefore(other) = limit else { continue };
                let span = table.get(member.name.as_str()).map(Node::span);
                if let Some(span) = span.filter(|_| !members.iter().any(|one| one.name == *other)) {
                    self.unmatched.not_before.push((other.clone(), span));
                }
            }
        }
    }

    /// Adds the members of the shape that each is like, bases first.
    fn inherit(&mut self, likes: &[Like]) {
        let mut visited = vec![ResolutionState::New; likes.len()];
        let mut taken = 0;
        for at in 0..likes.len() {
            let mut line = Vec::new();
            let mut next = Some(at);
            while let Some(shape) = next
                && visited.get(shape) == Some(&ResolutionState::New)
            {
                visited[shape] = ResolutionState::InProgress;
                line.push(shape);
                next = likes[shape].as_ref().map(|(base, _)| base.0);
            }
            // A ring is one mistake, told where the way came back to.
            let ring =
                next.filter(|shape| visited.get(*shape) == Some(&ResolutionState::InProgress));
            if let Some((_, span)) = ring.and_then(|shape| likes[shape].clone()) {
                let diagnostic = Diagnostic::new(span, "a shape can't be like itself");
                self.diagnostics.report(diagnostic.label("this leads back to where it started"));
            }
            for shape in line.into_iter().rev() {
                visited[shape] = ResolutionState::Done;
                let Some((base, span)) = likes[shape].as_ref().filter(|_| ring.is_none()) else {
                    continue;
                };
                let Some(base) = self.contract.shapes.get(*base) else { continue };
                let before = taken;
                taken += base.members.len();
                if taken > MOST_TAKEN_OVER {
                    if before <= MOST_TAKEN_OVER {
                        let label = format!("all together take over more than {MOST_TAKEN_OVER}");
                        let message = "shapes take over too many members by `like`";
                        self.diagnostics
                            .report(Diagnostic::new(span.clone(), message).label(label));
                    }
                    continue;
                }
                let base = base.clone();
                if let Some(own) = self.contract.shapes.shapes.get_mut(shape) {
                    *own = base.with(std::mem::take(own));
                }
            }
        }
    }

    /// The members of a table; those with these names are left out.
    pub(super) fn members(
        &mut self,
        table: &DeTable<'t>,
        owner: &str,
        depth: usize,
        without: &[&str],
    ) -> Vec<ShapeMember> {
        let mut members = Vec::new();
        for (key, node) in table {
            let name = key.get_ref().to_string();
            if without.contains(&name.as_str()) {
                continue;
            }
            if let Some(nested) = as_table(node) {
                if depth >= MOST_NESTED {
                    self.diagnostics
                        .report(Diagnostic::new(key.span(), "too many tables within tables"));
                    continue;
                }
                let owner = format!("{owner}.{name}");
                let inner = self.members(nested, &owner, depth + 1, &[]);
                self.note_not_before(&inner, nested);
                let shape = Shape { members: inner, name: owner, ..Shape::default() };
                let kind = TypeName::Shape(self.add_shape(shape));
                let typed = ConstrainedType { name: kind, limits: Vec::new() };
                members.push(ShapeMember {
                    name,
                    text: "object".to_owned(),
                    optional: false,
                    constrained: typed,
                });
            } else if let Some(text) =
                self.diagnostics.text(node, &format!("the member `{name}` of `{owner}`"))
            {
                members.extend(self.member(name, &text));
            }
        }
        members
    }

    pub(super) fn member(&mut self, name: String, text: &SpannedText) -> Option<ShapeMember> {
        let shapes = &self.contract.shapes;
        match parse(&text.text, &|shape| shapes.find(shape)) {
            Ok(read) => {
                self.note_shapes(&read.typed);
                Some(ShapeMember {
                    name,
                    text: text.text.clone(),
                    optional: read.optional,
                    constrained: read.typed,
                })
            }
            Err(error) => {
                self.bad_phrase(text, error);
                None
            }
        }
    }

    fn bad_phrase(&mut self, text: &SpannedText, error: TypeExpressionError) {
        let rest = text.text.get(error.range.start..).unwrap_or_default();
        let word = text.text.get(error.range.clone()).unwrap_or_default();
        // Some kinds have two words.
        let two: Vec<&str> = rest.split([' ', ',']).take(2).collect();
        let shapes = self.contract.shapes.shapes.iter().map(|shape| shape.name.as_str());
        let known: Vec<&str> =
            type_names().map(|kind| -> &str { kind }).chain(shapes).chain(["optional"]).collect();
        let near = nearest(word, known.iter().copied())
            .or_else(|| other_word(word))
            .or_else(|| nearest(&two.join(" "), known.iter().copied().filter(|k| k.contains(' '))))
            .map(str::to_owned);
        let diagnostic = Diagnostic::new(self.diagnostics.within(text, error.range), error.message);
        self.diagnostics.report(match near {
            _ if !error.help.is_empty() => diagnostic.help(error.help),
            Some(near) => diagnostic.label(format!("did you mean `{near}`?")),
            None => diagnostic.help(
                "a type name is string, number, integer, boolean, null, anything, object, uri,\nuri reference, date, date-time, json pointer, status, language tag, one of …,\nexactly …, array of …, map of …, or the name of a shape",
            ),
        });
    }

    pub(super) fn add_shape(&mut self, shape: Shape) -> ShapeId {
        self.contract.shapes.shapes.push(shape);
        ShapeId(self.contract.shapes.shapes.len() - 1)
    }

    fn note_shapes(&mut self, typed: &ConstrainedType) {
        match &typed.name {
            TypeName::Shape(id) => {
                self.used_shapes.insert(id.0);
            }
            TypeName::Array(inner) | TypeName::Map(inner) => self.note_shapes(inner),
            TypeName::Either(alternatives) => {
                alternatives.iter().for_each(|one| self.note_shapes(one));
            }
            _ => {}
        }
    }
}
