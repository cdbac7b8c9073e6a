//! Shapes that are another type than an object with members: `list = "array of entry"`.

use faithful_clerk_shape::{ConstrainedType, ShapeId, ShapeTable, TypeName};

use crate::diagnostics::Diagnostic;
use crate::parse::parser::ContractParser;
use crate::parse::values::{Node, SpannedText};

/// One name may stand for another through so many.
const MOST_NAMES: usize = 64;

impl<'t> ContractParser<'t> {
    /// The type that stands for a shape, where a type expression does.
    pub(super) fn named_type(&mut self, id: ShapeId, owner: &str, node: &Node<'t>) {
        let Some(text) = self.diagnostics.text(node, owner) else { return };
        let Some(read) = self.member(String::new(), &text) else { return };
        if read.optional {
            let diagnostic = Diagnostic::new(text.span, "a shape can't be optional");
            self.diagnostics.report(diagnostic.help("write `optional` where the shape is used"));
        } else if let Some(shape) = self.contract.shapes.shapes.get_mut(id.0) {
            shape.of = Some(Box::new(read.constrained));
        }
    }

    /// A type that is itself, with no array or member between, is no type. It is taken out, and told.
    pub(super) fn check_named_types(&mut self, from: usize, named: &[(SpannedText, &Node<'t>)]) {
        for (at, (_, node)) in (from..).zip(named) {
            let shapes = &self.contract.shapes;
            let of = shapes.get(ShapeId(at)).and_then(|shape| shape.of.as_deref());
            if of.is_some_and(|of| reaches(of, ShapeId(at), shapes, &mut Vec::new())) {
                let diagnostic = Diagnostic::new(node.span(), "a shape can't be itself");
                self.diagnostics.report(
                    diagnostic.label(
                        "this leads back to where it started, or through more than 64 names",
                    ),
                );
                if let Some(shape) = self.contract.shapes.shapes.get_mut(at) {
                    shape.of = None;
                }
            }
        }
    }

    /// Is the shape an object, so that members can be added to it? If not, that is told.
    pub(super) fn takes_members(&mut self, id: ShapeId, span: &std::ops::Range<usize>) -> bool {
        let Some(shape) = self.contract.shapes.get(id).filter(|shape| shape.of.is_some()) else {
            return true;
        };
        let message =
            format!("the shape `{}` is not an object, so it takes no members", shape.name);
        self.diagnostics.report(Diagnostic::new(span.clone(), message));
        false
    }
}

/// Does a type lead to that shape without anything between?
fn reaches(
    of: &ConstrainedType,
    to: ShapeId,
    shapes: &ShapeTable,
    seen: &mut Vec<ShapeId>,
) -> bool {
    match &of.name {
        TypeName::Shape(id) if *id == to => true,
        TypeName::Shape(id) => {
            if seen.contains(id) {
                return false;
            }
            if seen.len() == MOST_NAMES {
                return true;
            }
            seen.push(*id);
            let next = shapes.get(*id).and_then(|shape| shape.of.as_deref());
            next.is_some_and(|next| reaches(next, to, shapes, seen))
        }
        TypeName::Either(each) => each.iter().any(|one| reaches(one, to, shapes, seen)),
        _ => false,
    }
}
