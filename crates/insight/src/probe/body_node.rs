//! A place in a body and what may stand there, whether a contract or a JSON Schema says so.

use serde_json::{Value, json};

use super::bodies::{misfits, on_limits};
use crate::sample::{self, schema};
use faithful_clerk_shape::{ConstrainedType, Limit, Shape, ShapeTable, TypeName};

/// What a body can have in a place.
pub(super) trait BodyNode: Copy {
    /// A value that fits, as far as one can be made up.
    fn fitting(self) -> Value;
    /// Values that may not fit, one for each way not to.
    fn misfits(self) -> Vec<(&'static str, Value)>;
    /// Values that fit, and stand on a limit.
    fn on_limits(self) -> Vec<(&'static str, Value)>;
    /// What it is made of.
    fn form(self) -> NodeForm<Self>;
    /// What may stand there instead, behind the first alternative.
    fn others(self) -> Vec<Self>;
}

/// What a place is made of.
pub(super) enum NodeForm<N> {
    Object {
        /// Each with its name, and whether it has to be there.
        members: Vec<(String, bool, N)>,
        is_closed: bool,
        /// What any other member is.
        each: Option<N>,
    },
    List {
        item: N,
        most: Option<usize>,
        is_unique: bool,
    },
    Plain,
}

/// A place that a contract's type describes.
#[derive(Clone, Copy)]
pub(super) struct ShapeNode<'c> {
    pub(super) of: ShapeOrType<'c>,
    pub(super) shapes: &'c ShapeTable,
}

#[derive(Clone, Copy)]
pub(super) enum ShapeOrType<'c> {
    Shape(&'c Shape),
    Type(&'c ConstrainedType),
}

impl<'c> ShapeNode<'c> {
    pub(super) fn of_shape(shape: &'c Shape, shapes: &'c ShapeTable) -> Self {
        let of = match &shape.of {
            Some(of) => ShapeOrType::Type(of),
            None => ShapeOrType::Shape(shape),
        };
        Self { of, shapes }
    }

    fn typed(self, of: &'c ConstrainedType) -> Self {
        Self { of: ShapeOrType::Type(of), ..self }
    }

    fn object(self, shape: &'c Shape) -> NodeForm<Self> {
        if let Some(of) = &shape.of {
            return self.typed(of).form();
        }
        let is_there =
            |constrained: &ConstrainedType| !matches!(constrained.name, TypeName::Absent);
        let members = shape.members.iter().filter(|member| is_there(&member.constrained));
        let members = members
            .map(|member| (member.name.clone(), !member.optional, self.typed(&member.constrained)));
        NodeForm::Object { members: members.collect(), is_closed: shape.closed, each: None }
    }
}

impl BodyNode for ShapeNode<'_> {
    fn fitting(self) -> Value {
        match self.of {
            ShapeOrType::Shape(shape) => sample::of_shape(shape, self.shapes),
            ShapeOrType::Type(of) => sample::fitting(of, self.shapes),
        }
    }

    fn misfits(self) -> Vec<(&'static str, Value)> {
        match self.of {
            ShapeOrType::Shape(_) => {
                vec![("of another JSON type", json!(true)), ("null", Value::Null)]
            }
            ShapeOrType::Type(of) => misfits(of, self.shapes),
        }
    }

    fn on_limits(self) -> Vec<(&'static str, Value)> {
        match self.of {
            ShapeOrType::Shape(_) => Vec::new(),
            ShapeOrType::Type(of) => on_limits(of, self.shapes),
        }
    }

    fn form(self) -> NodeForm<Self> {
        let of = match self.of {
            ShapeOrType::Shape(shape) => return self.object(shape),
            ShapeOrType::Type(of) => of,
        };
        let most = of.limits.iter().find_map(|limit| match limit {
            Limit::AtMost(most) => Some(*most),
            Limit::AtLeast(_) | Limit::Matching(_) | Limit::NotBefore(_) => None,
        });
        match &of.name {
            TypeName::Shape(id) => match self.shapes.get(*id) {
                Some(shape) => self.object(shape),
                None => NodeForm::Plain,
            },
            TypeName::Array(item) => NodeForm::List {
                item: self.typed(item),
                most: most.map(super::bodies::length),
                is_unique: false,
            },
            TypeName::Map(member) => NodeForm::Object {
                members: Vec::new(),
                is_closed: false,
                each: Some(self.typed(member)),
            },
            TypeName::Either(alternatives) => {
                alternatives.first().map_or(NodeForm::Plain, |first| self.typed(first).form())
            }
            _ => NodeForm::Plain,
        }
    }

    fn others(self) -> Vec<Self> {
        match self.of {
            ShapeOrType::Type(ConstrainedType { name: TypeName::Either(alternatives), .. }) => {
                alternatives.iter().skip(1).map(|one| self.typed(one)).collect()
            }
            _ => Vec::new(),
        }
    }
}

/// A place that a JSON Schema describes, spelled out.
#[derive(Clone, Copy)]
pub(super) struct SchemaNode<'s>(pub(super) &'s Value);

impl BodyNode for SchemaNode<'_> {
    fn fitting(self) -> Value {
        schema::fitting(self.0)
    }

    fn misfits(self) -> Vec<(&'static str, Value)> {
        schema::misfitting(self.0)
    }

    fn on_limits(self) -> Vec<(&'static str, Value)> {
        schema::on_limits(self.0)
    }

    fn form(self) -> NodeForm<Self> {
        match schema::structure(self.0) {
            schema::SchemaStructure::Object { members, is_closed, each } => {
                let node = |(name, is_required, of)| (name, is_required, Self(of));
                let members = members.into_iter().map(node).collect();
                NodeForm::Object { members, is_closed, each: each.map(Self) }
            }
            schema::SchemaStructure::List { item, most, is_unique } => {
                NodeForm::List { item: Self(item), most, is_unique }
            }
            schema::SchemaStructure::Plain => NodeForm::Plain,
        }
    }

    fn others(self) -> Vec<Self> {
        schema::others(self.0).into_iter().map(Self).collect()
    }
}
