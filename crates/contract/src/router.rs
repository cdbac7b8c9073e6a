//! Finds the path template of a path.
//!
//! Templates stand in a tree of segments. At every step a literal segment is tried before one with a
//! parameter, and if that way leads nowhere the next is tried: so literal segments win over the whole
//! path, and methods are only looked at when the path is settled.

use crate::model::{CaseSensitivity, EndpointId};

/// One segment of a template: literal text, or a parameter with literal text around it.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub enum TemplateSegment {
    /// Exactly this text.
    Literal(String),
    /// Anything that is not empty, between these texts.
    Parameter {
        /// The text before the parameter.
        before: String,
        /// The text behind it.
        after: String,
    },
}

impl TemplateSegment {
    /// Reads one segment of a template.
    ///
    /// # Errors
    /// What is wrong with its braces.
    pub fn read(text: &str) -> Result<Self, String> {
        let Some((before, rest)) = text.split_once('{') else {
            if text.contains('}') {
                return Err("a `}` without a `{`".to_owned());
            }
            let literal = faithful_clerk_model::percent::decode(text);
            return Ok(Self::Literal(literal.unwrap_or_else(|| text.to_owned())));
        };
        let (name, after) = rest.split_once('}').ok_or("a `{` without a `}`")?;
        if name.is_empty() || name.contains('{') {
            return Err("a parameter needs a name, as in `{id}`".to_owned());
        }
        if after.contains(['{', '}']) {
            return Err("only one parameter in a segment".to_owned());
        }
        Ok(Self::Parameter { before: before.to_owned(), after: after.to_owned() })
    }

    /// Does a decoded segment of a path fit?
    #[must_use]
    pub fn admits(&self, segment: &str, letters: CaseSensitivity) -> bool {
        match self {
            Self::Literal(text) => match letters {
                CaseSensitivity::Sensitive => text == segment,
                CaseSensitivity::Insensitive => text.to_lowercase() == segment.to_lowercase(),
            },
            Self::Parameter { .. } => self.value(segment).is_some(),
        }
    }

    /// Is there a segment that fits both?
    #[must_use]
    pub fn could_equal(&self, other: &Self) -> bool {
        match (self, other) {
            (Self::Literal(text), other) | (other, Self::Literal(text)) => {
                other.admits(text, CaseSensitivity::Insensitive)
            }
            (Self::Parameter { .. }, Self::Parameter { .. }) => true,
        }
    }

    /// The value that a decoded segment of a path has for the parameter.
    #[must_use]
    pub fn value<'s>(&self, segment: &'s str) -> Option<&'s str> {
        let Self::Parameter { before, after } = self else { return None };
        let value = segment.strip_prefix(before.as_str())?.strip_suffix(after.as_str())?;
        (!value.is_empty()).then_some(value)
    }

    /// Literal segments first, then those with the most literal text around the parameter.
    fn rank(&self) -> (bool, std::cmp::Reverse<usize>) {
        match self {
            Self::Literal(_) => (false, std::cmp::Reverse(0)),
            Self::Parameter { before, after } => {
                (true, std::cmp::Reverse(before.len() + after.len()))
            }
        }
    }
}

/// A tree of templates.
#[derive(Debug, Default)]
pub struct Router {
    root: RouteNode,
    /// What letter case means in literal segments.
    pub case_sensitivity: CaseSensitivity,
}

#[derive(Debug, Default)]
struct RouteNode {
    /// In the order in which they are tried.
    branches: Vec<(TemplateSegment, Self)>,
    /// The endpoints of the template that ends here.
    ends: Option<Vec<EndpointId>>,
}

impl Router {
    /// The segments of a template such as `/berths/{id}`; `/` has none.
    ///
    /// # Errors
    /// What is wrong with it.
    pub fn segments(template: &str) -> Result<Vec<TemplateSegment>, String> {
        let rest = template.strip_prefix('/').ok_or("a path template starts with `/`")?;
        if let Some(odd) = ['?', '#', ' '].into_iter().find(|odd| rest.contains(*odd)) {
            return Err(format!("a path template has no `{odd}`; the query is not part of it"));
        }
        if rest.is_empty() {
            return Ok(Vec::new());
        }
        rest.split('/').map(TemplateSegment::read).collect()
    }

    /// Adds an endpoint under its template.
    pub fn add(&mut self, segments: Vec<TemplateSegment>, endpoint: Option<EndpointId>) {
        let mut node = &mut self.root;
        for segment in segments {
            let at = match node.branches.iter().position(|(known, _)| *known == segment) {
                Some(at) => at,
                None => {
                    let at =
                        node.branches.partition_point(|(known, _)| known.rank() <= segment.rank());
                    node.branches.insert(at, (segment, RouteNode::default()));
                    at
                }
            };
            // The position was just found or made.
            let Some((_, next)) = node.branches.get_mut(at) else { return };
            node = next;
        }
        node.ends.get_or_insert_default().extend(endpoint);
    }

    /// The endpoints of the most literal template that matches.
    #[must_use]
    pub fn find(&self, path: &[impl AsRef<str>]) -> Option<&[EndpointId]> {
        self.root.find(path, self.case_sensitivity)
    }
}

impl RouteNode {
    /// Recursion is as deep as the deepest template, and visits each node of the tree at most once.
    fn find(&self, path: &[impl AsRef<str>], letters: CaseSensitivity) -> Option<&[EndpointId]> {
        match path.split_first() {
            None => self.ends.as_deref(),
            Some((segment, rest)) => self
                .branches
                .iter()
                .filter(|(pattern, _)| pattern.admits(segment.as_ref(), letters))
                .find_map(|(_, node)| node.find(rest, letters)),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn router(templates: &[&str]) -> Router {
        let mut router = Router::default();
        for (at, template) in templates.iter().enumerate() {
            router.add(Router::segments(template).unwrap(), Some(EndpointId(at)));
        }
        router
    }

    #[test]
    fn literal_segments_win_over_the_whole_path() {
        let templates =
            ["/", "/a/{x}", "/a/b", "/{y}/b/c", "/a/{x}/d", "/a/b/{z}", "/a/", "/{x}.json", "/{x}"];
        let router = router(&templates);
        for (path, found) in [
            (&[][..], Some("/")),
            (&["a", "b"], Some("/a/b")),
            (&["a", "c"], Some("/a/{x}")),
            (&["a", "b", "c"], Some("/a/b/{z}")),
            (&["a", "b", "d"], Some("/a/b/{z}")),
            (&["a", "e", "d"], Some("/a/{x}/d")),
            (&["q", "b", "c"], Some("/{y}/b/c")),
            (&["a", ""], Some("/a/")),
            (&["q.json"], Some("/{x}.json")),
            (&["q"], Some("/{x}")),
            (&["q", ""], None),
            (&["A", "b"], None),
        ] {
            let at = router.find(path).and_then(|ends| ends.first()).map(|id| templates[id.0]);
            assert_eq!(at, found, "{path:?}");
        }
    }

    #[test]
    fn a_literal_way_that_leads_nowhere_is_left_again() {
        let router = router(&["/a/b/x", "/{p}/b/y"]);
        assert_eq!(router.find(&["a", "b", "y"]), Some(&[EndpointId(1)][..]));
    }

    #[test]
    fn templates_that_are_none_say_why() {
        for template in ["berths", "/a?b", "/a b", "/{}", "/{a", "/a}", "/{a}{b}"] {
            assert!(Router::segments(template).is_err(), "{template}");
        }
    }
}
