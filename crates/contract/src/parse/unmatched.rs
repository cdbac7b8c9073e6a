//! What is declared and can match nothing: it would switch itself off without a word.

use std::ops::Range;

use crate::diagnostics::Diagnostic;
use crate::model::{Case, Endpoint};
use crate::parse::parser::ContractParser;
use crate::parse::values::SpannedText;
use crate::router::Router;
use crate::rules::BodyRules;
use faithful_clerk_model::json::pointer::tokens;
use faithful_clerk_model::situation::Situation;
use faithful_clerk_shape::{
    PROBLEM_MEMBERS, Shape, ShapeId, ShapeTable, TypeName, is_extension_name,
};

/// What may turn out to match nothing, each with where it stands.
#[derive(Debug, Default)]
pub(super) struct Unmatched {
    pub(super) precedence: Vec<(Situation, Range<usize>)>,
    pub(super) match_by: Vec<(SpannedText, ShapeId)>,
    /// The members of bodies that cases name, in their order, each with the case's place in the contract.
    pub(super) case_bodies: Vec<(usize, Range<usize>)>,
    /// The members of bodies that `body-rules` name, each with the endpoint's place in the contract.
    pub(super) body_rules: Vec<(usize, String, Range<usize>)>,
    /// Members that another must not be before, and that don't stand beside it.
    pub(super) not_before: Vec<(String, Range<usize>)>,
    /// The patterns of regions that say nothing of requests that lead nowhere.
    pub(super) regions: Vec<SpannedText>,
    /// The members of shapes, with their names.
    pub(super) members: Vec<(ShapeId, SpannedText)>,
}

impl ContractParser<'_> {
    /// Warns of what matches nothing, once everything is read.
    pub(super) fn say_what_matches_nothing(&mut self) {
        let mut found = Vec::new();
        found.extend(self.idle_patterns());
        found.extend(self.idle_regions());
        found.extend(self.lone_members());
        found.extend(self.idle_levels());
        found.extend(self.idle_bodies());
        found.extend(self.idle_body_rules());
        found.extend(self.idle_match_by());
        found.extend(self.unfit_names());
        found.into_iter().for_each(|diagnostic| self.diagnostics.report(diagnostic));
    }

    fn idle_patterns(&self) -> Vec<Diagnostic> {
        let patterns = self.groups.iter().filter(|group| group.is_own).flat_map(|group| {
            group.patterns.iter().map(move |(pattern, span)| (group, pattern, span))
        });
        let idle = patterns.filter(|(group, pattern, _)| {
            let mut endpoints = self.contract.endpoints.iter();
            !endpoints.any(|endpoint| {
                pattern.fits(&endpoint.method, &endpoint.path).is_some()
                    && group.has_parts(&endpoint.path, &[&endpoint.rules])
            })
        });
        idle.map(|(group, _, span)| {
            if !group.with.is_empty() {
                let message = "no endpoint of this pattern has what `with` asks for";
                return Diagnostic::warning(span.clone(), message)
                    .help("an endpoint has a body or a parameter if the contract or the description has rules for it");
            }
            Diagnostic::warning(span.clone(), "this pattern matches no endpoint").help(
                "`*` is one segment of a path, `**` at the end any rest; parameters have braces",
            )
        })
        .collect()
    }

    /// Limits by a member that no object has beside the limited one.
    fn lone_members(&self) -> Vec<Diagnostic> {
        let idle = self.unmatched.not_before.iter().map(|(other, span)| {
            let message = format!("there is no member `{other}` beside it");
            let help = "`not before` compares with another member of the same object";
            Diagnostic::warning(span.clone(), message).help(help)
        });
        idle.collect()
    }

    /// Regions without an endpoint. One that declares faults is for requests that lead nowhere, too.
    fn idle_regions(&self) -> Vec<Diagnostic> {
        let regions = &self.contract.regions;
        let is_idle = |name: &&SpannedText| {
            let mut own = regions.iter().filter(|region| region.name == name.text);
            let mut endpoints = self.contract.endpoints.iter();
            let letters = self.contract.paths.case_sensitivity;
            !own.any(|own| endpoints.any(|at| own.fits(&at.steps(), letters).is_some()))
        };
        let idle = self.unmatched.regions.iter().filter(is_idle);
        idle.map(|name| {
            let message = "no endpoint lies in this region";
            Diagnostic::warning(name.span.clone(), message)
                .help("`*` is one segment of a path, `**` at the end any rest")
        })
        .collect()
    }

    fn idle_levels(&self) -> Vec<Diagnostic> {
        let comes = |situation: Situation| {
            self.contract.faults.iter().any(|fault| {
                fault.is_for(situation)
                    || (fault.when.is_empty()
                        && Situation::implied_by_status(fault.status) == Some(situation))
            })
        };
        // Without any fault, the contract is not there yet.
        let is_begun = !self.contract.faults.is_empty();
        let idle = self.unmatched.precedence.iter();
        let idle = idle.filter(|(situation, _)| is_begun && !comes(*situation));
        let mut told = Vec::new();
        idle.filter_map(|(situation, span)| {
            if told.contains(situation) {
                return None;
            }
            told.push(*situation);
            let message = format!("no fault is for `{situation}`, so its place decides nothing");
            let help = format!("declare a fault with `when = [\"{situation}\"]`, or leave it out");
            Some(Diagnostic::warning(span.clone(), message).help(help))
        })
        .collect()
    }

    /// Conditions on members of a body that no endpoint of the case has.
    fn idle_bodies(&self) -> Vec<Diagnostic> {
        let mut found = Vec::new();
        let mut index = 0;
        let mut last = None;
        for (at, span) in &self.unmatched.case_bodies {
            index = if last == Some(*at) { index + 1 } else { 0 };
            last = Some(*at);
            let Some(case) = self.contract.cases.get(*at) else { continue };
            let Some(condition) = case.body.get(index) else { continue };
            let steps = tokens(&condition.name).unwrap_or_default();
            let endpoints = self.contract.endpoints.iter().filter(|one| could_be_for(case, one));
            let bodies: Vec<&BodyRules> =
                endpoints.clone().filter_map(|endpoint| endpoint.rules.body.as_ref()).collect();
            let knows = |body: &&BodyRules| has_place(body, &steps, &self.contract.shapes);
            if bodies.is_empty() || bodies.len() < endpoints.count() || bodies.iter().any(knows) {
                continue;
            }
            let message = format!("no body of these requests has a member at `{}`", condition.name);
            found.push(
                Diagnostic::warning(span.clone(), message)
                    .help("`*` stands for any item of an array, as in \"/items/*/id\""),
            );
        }
        found
    }

    /// Rules across members that the body of their endpoint does not have.
    fn idle_body_rules(&self) -> Vec<Diagnostic> {
        let is_idle = |(at, pointer, _): &&(usize, String, Range<usize>)| {
            let body =
                self.contract.endpoints.get(*at).and_then(|endpoint| endpoint.rules.body.as_ref());
            let steps = tokens(pointer).unwrap_or_default();
            body.is_some_and(|body| !has_place(body, &steps, &self.contract.shapes))
        };
        let idle = self.unmatched.body_rules.iter().filter(is_idle);
        idle.map(|(_, pointer, span)| {
            let message = format!("the body has no member at `{pointer}`");
            let help = "name a member of `body-members`, or add it there";
            Diagnostic::warning(span.clone(), message).help(help)
        })
        .collect()
    }

    fn idle_match_by(&self) -> Vec<Diagnostic> {
        let lacks = |(by, shape): &&(SpannedText, ShapeId)| {
            let shape = self.contract.shapes.get(*shape);
            shape.is_some_and(|shape| shape.member(&by.text).is_none())
        };
        let idle = self.unmatched.match_by.iter().filter(lacks);
        idle.map(|(by, shape)| {
            let name = self.contract.shapes.get(*shape).map_or("", |shape| shape.name.as_str());
            let message =
                format!("`{}` is no member of the shape `{name}`, so no entry is matched", by.text);
            Diagnostic::warning(by.span.clone(), message)
                .help("name a member that identifies an entry, in the request and in the response")
        })
        .collect()
    }

    /// Extension members of problems whose names not every format can hold (RFC 9457 section 3.2): told here once, and
    /// not at every response.
    fn unfit_names(&self) -> Vec<Diagnostic> {
        let is_problem =
            |id: &ShapeId| self.contract.shapes.get(*id).is_some_and(|shape| shape.is_problem);
        let unfit = self.unmatched.members.iter().filter(|(id, name)| {
            is_problem(id)
                && !PROBLEM_MEMBERS.contains(&name.text.as_str())
                && !is_extension_name(&name.text)
        });
        unfit
            .map(|(_, name)| {
                let message = format!("not every format can hold a member called `{}`", name.text);
                Diagnostic::warning(name.span.clone(), message).help(
                    "begin with a letter, use letters, digits and `_` alone, and three characters or more (RFC 9457 section 3.2)",
                )
            })
            .collect()
    }
}

/// Could a request to the endpoint be one that the case is about?
fn could_be_for(case: &Case, endpoint: &Endpoint) -> bool {
    if case.method.as_ref().is_some_and(|method| *method != endpoint.method) {
        return false;
    }
    let (Some(path), Ok(own)) = (&case.path, Router::segments(&endpoint.path)) else { return true };
    path.len() == own.len() && path.iter().zip(&own).all(|(one, other)| one.could_equal(other))
}

/// Can a body by these rules have a value at that place? Where they do not say, it can.
fn has_place(rules: &BodyRules, steps: &[String], shapes: &ShapeTable) -> bool {
    if rules.schema.is_some() {
        // The schema's members are known at the top alone.
        return steps.first().is_none_or(|first| first == "*" || rules.knows(first));
    }
    let Some(fields) = &rules.fields else { return true };
    shape_has(fields, steps, shapes)
}

fn shape_has(shape: &Shape, steps: &[String], shapes: &ShapeTable) -> bool {
    if let Some(of) = &shape.of {
        return type_has(&of.name, steps, shapes);
    }
    let Some((first, rest)) = steps.split_first() else { return true };
    let Some(member) = shape.member(first) else { return false };
    type_has(&member.constrained.name, rest, shapes)
}

fn type_has(name: &TypeName, steps: &[String], shapes: &ShapeTable) -> bool {
    let Some((first, rest)) = steps.split_first() else { return true };
    match name {
        TypeName::Shape(id) => shapes.get(*id).is_none_or(|shape| shape_has(shape, steps, shapes)),
        TypeName::Array(item) => {
            let is_index = first == "*" || first.bytes().all(|byte| byte.is_ascii_digit());
            is_index && type_has(&item.name, rest, shapes)
        }
        TypeName::Map(value) => type_has(&value.name, rest, shapes),
        TypeName::Either(alternatives) => {
            alternatives.iter().any(|one| type_has(&one.name, steps, shapes))
        }
        TypeName::Object | TypeName::Anything => true,
        _ => false,
    }
}
