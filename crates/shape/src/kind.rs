//! What a value may be: kinds, limits, members, shapes.

use regex::Regex;
use serde_json::Value;

/// The members that RFC 9457 section 3.1 gives to problem details.
pub const PROBLEM_MEMBERS: [&str; 5] = ["type", "title", "status", "detail", "instance"];

/// Is this a name that an extension member of a problem can have in every format (RFC 9457 section 3.2)?
#[must_use]
pub fn is_extension_name(name: &str) -> bool {
    let letters = name.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'_');
    letters && name.starts_with(|c: char| c.is_ascii_alphabetic()) && name.len() >= 3
}

/// The kind of a value, as a type expression names it.
#[derive(Debug, Clone)]
pub enum TypeName {
    /// Any string.
    String,
    /// Any number.
    Number,
    /// A number without a fraction, by value: `10`, `10.0` and `1e1` are one integer.
    Integer,
    /// `true` or `false`.
    Boolean,
    /// `null`.
    Null,
    /// Any value.
    Anything,
    /// Any object.
    Object,
    /// A URI with a scheme (RFC 3986 section 3).
    Uri,
    /// A URI or a relative reference (RFC 3986 section 4.1).
    UriReference,
    /// A full date (RFC 3339 section 5.6).
    Date,
    /// A date and time with an offset (RFC 3339 section 5.6).
    DateTime,
    /// An HTTP date: `Tue, 15 Nov 2033 08:12:31 GMT` (RFC 9110 section 5.6.7).
    HttpDate,
    /// Nothing at all: the member, header or parameter must not be there.
    Absent,
    /// A JSON Pointer, plain or as a URI fragment (RFC 6901).
    JsonPointer,
    /// An HTTP status code as a number, 100 to 599 (RFC 9110 section 15).
    Status,
    /// A language tag (RFC 5646).
    LanguageTag,
    /// One of these values.
    OneOf(Vec<Value>),
    /// This value.
    Exactly(Value),
    /// Any value but this one.
    NotExactly(Value),
    /// The value of this header field.
    SameAsHeader(String),
    /// A list whose items are all of one kind.
    Array(Box<ConstrainedType>),
    /// An object whose members are all of one kind, whatever their names.
    Map(Box<ConstrainedType>),
    /// An object of a named shape.
    Shape(ShapeId),
    /// Any one of these.
    Either(Vec<ConstrainedType>),
}

/// A kind with the limits that hold for it.
#[derive(Debug, Clone)]
pub struct ConstrainedType {
    /// The kind.
    pub name: TypeName,
    /// Every limit has to be kept.
    pub limits: Vec<Limit>,
}

/// A limit: of a number its value, of text its characters, of a list its items, of a map its members.
#[derive(Debug, Clone)]
pub enum Limit {
    /// Not below.
    AtLeast(f64),
    /// Not above.
    AtMost(f64),
    /// The text has a match for this pattern somewhere.
    Matching(Regex),
    /// Not earlier, or less, than this other member of the same object.
    NotBefore(String),
}

/// The position of a shape in a [`ShapeTable`].
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct ShapeId(pub usize);

/// One member of a shape.
#[derive(Debug, Clone)]
pub struct ShapeMember {
    /// Its name in the JSON object.
    pub name: String,
    /// The phrase as it was written, for messages.
    pub text: String,
    /// May it be left out?
    pub optional: bool,
    /// What its value has to be.
    pub constrained: ConstrainedType,
}

/// An object's structure.
#[derive(Debug, Clone, Default)]
pub struct Shape {
    /// Its name in the contract.
    pub name: String,
    /// Its members, those of the shape that it is like included.
    pub members: Vec<ShapeMember>,
    /// Does it forbid members that it does not name?
    pub closed: bool,
    /// Are members that it does not name a note?
    pub notes_unknown: bool,
    /// What it is, where it is no object with members but another type, such as an array at the top of a body.
    pub of: Option<Box<ConstrainedType>>,
    /// Is it, or is it like, the built-in `problem`?
    pub is_problem: bool,
    /// Is it, or is it like, the built-in `jsonapi-errors`?
    pub is_json_api: bool,
    /// Members that must not be there.
    pub without: Vec<String>,
    /// Does it need at least one of its members, whichever?
    pub not_bare: bool,
}

impl Shape {
    /// This shape with the other's members added, which win; the name and `closed` are the other's.
    pub fn with(mut self, other: Self) -> Self {
        for member in other.members {
            match self.members.iter_mut().find(|known| known.name == member.name) {
                Some(known) => *known = member,
                None => self.members.push(member),
            }
        }
        self.name = other.name;
        self.closed = other.closed;
        self.notes_unknown = other.notes_unknown;
        self
    }

    /// Is it an object all of whose members may be left out?
    #[must_use]
    pub fn is_all_optional(&self) -> bool {
        self.of.is_none() && self.members.iter().all(|member| member.optional)
    }

    /// The member of that name.
    #[must_use]
    pub fn member(&self, name: &str) -> Option<&ShapeMember> {
        self.members.iter().find(|member| member.name == name)
    }
}

/// All shapes of a contract.
#[derive(Debug, Clone, Default)]
pub struct ShapeTable {
    pub shapes: Vec<Shape>,
}

impl ShapeTable {
    /// The shape at that place.
    #[must_use]
    pub fn get(&self, id: ShapeId) -> Option<&Shape> {
        self.shapes.get(id.0)
    }

    /// The place of the shape of that name.
    #[must_use]
    pub fn find(&self, name: &str) -> Option<ShapeId> {
        self.shapes.iter().position(|shape| shape.name == name).map(ShapeId)
    }
}

impl TypeName {
    /// How the type expression grammar calls it, for messages.
    #[must_use]
    pub fn name(&self, shapes: &ShapeTable) -> String {
        let words = |values: &[Value]| {
            let words: Vec<String> = values.iter().map(plain).collect();
            words.join(", ")
        };
        match self {
            Self::String => "string".to_owned(),
            Self::Number => "number".to_owned(),
            Self::Integer => "integer".to_owned(),
            Self::Boolean => "boolean".to_owned(),
            Self::Null => "null".to_owned(),
            Self::Anything => "anything".to_owned(),
            Self::Object => "object".to_owned(),
            Self::Uri => "uri".to_owned(),
            Self::UriReference => "uri reference".to_owned(),
            Self::Date => "date".to_owned(),
            Self::DateTime => "date-time".to_owned(),
            Self::HttpDate => "http-date".to_owned(),
            Self::Absent => "absent".to_owned(),
            Self::JsonPointer => "json pointer".to_owned(),
            Self::Status => "status".to_owned(),
            Self::LanguageTag => "language tag".to_owned(),
            Self::OneOf(values) => format!("one of {}", words(values)),
            Self::Exactly(value) => format!("exactly {}", plain(value)),
            Self::NotExactly(value) => format!("not exactly {}", plain(value)),
            Self::SameAsHeader(name) => format!("same as header {name}"),
            Self::Array(item) => format!("array of {}", item.name.as_part(shapes)),
            Self::Map(member) => format!("map of {}", member.name.as_part(shapes)),
            Self::Shape(id) => shapes.get(*id).map_or_else(String::new, |shape| shape.name.clone()),
            Self::Either(alternatives) => {
                let names: Vec<String> =
                    alternatives.iter().map(|typed| typed.name.name(shapes)).collect();
                names.join(" or ")
            }
        }
    }

    /// Its name where it stands behind `of`: a choice needs parentheses there.
    fn as_part(&self, shapes: &ShapeTable) -> String {
        match self {
            Self::Either(_) => format!("({})", self.name(shapes)),
            other => other.name(shapes),
        }
    }

    /// Does that limit mean anything for this kind?
    pub(super) fn admits(&self, limit: &Limit) -> bool {
        match limit {
            Limit::Matching(_) => matches!(self, Self::String | Self::Uri | Self::UriReference),
            Limit::NotBefore(_) => matches!(
                self,
                Self::Date | Self::DateTime | Self::HttpDate | Self::Number | Self::Integer
            ),
            Limit::AtLeast(_) | Limit::AtMost(_) => matches!(
                self,
                Self::String
                    | Self::Number
                    | Self::Integer
                    | Self::Status
                    | Self::Array(_)
                    | Self::Map(_)
            ),
        }
    }
}

/// A value as a type expression would write it: text without quotes.
fn plain(value: &Value) -> String {
    value.as_str().map_or_else(|| value.to_string(), str::to_owned)
}
