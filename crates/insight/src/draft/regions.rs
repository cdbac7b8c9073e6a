//! Parts of a service whose errors have a style of their own: each is a question, with the region that would say it.

use std::collections::BTreeMap;

use super::error::{JSON_API, is_json_api};
use super::shapes::{DraftedShape, MemberPresence, ShapeDeclaration};
use super::write::DraftWriter;
use crate::survey::{ErrorCategory, ObservedBody, Occurrences, SurveyedBody};
use faithful_clerk_contract::{plain_name, quoted};

/// With fewer errors than this nobody can tell that a style is meant.
const LEAST_ERRORS: u64 = 3;

/// The style of an error: its media type, and which of the survey's shapes it has.
type ObservedStyle = (String, usize);

impl DraftWriter<'_> {
    /// Asks about each part of the service all of whose JSON errors have one style, and another one than `usual`.
    pub(super) fn regions(&mut self, usual: &ObservedStyle) {
        let parts = self.styles_by_part();
        if parts.len() < 2 || !parts.values().any(|styles| styles.contains_key(usual)) {
            return;
        }
        for (part, styles) in parts {
            let mut styles = styles.into_iter();
            let (Some((style, seen)), None) = (styles.next(), styles.next()) else { continue };
            if style != *usual && seen.count >= LEAST_ERRORS {
                self.region(&part, &style, usual, &seen);
            }
        }
    }

    /// The styles of errors, those of validation aside, by the first name of their paths.
    fn styles_by_part(&self) -> BTreeMap<String, BTreeMap<ObservedStyle, Occurrences>> {
        let mut parts: BTreeMap<String, BTreeMap<ObservedStyle, Occurrences>> = BTreeMap::new();
        for location in &self.places {
            let template = self.base.below(&location.template);
            let first = template.split('/').nth(1).filter(|name| !name.starts_with('{'));
            let Some(part) = first.filter(|name| !name.is_empty()) else { continue };
            for (row, kind) in &location.facts.rows {
                let ObservedBody::Error((ErrorCategory::Other, _)) = &row.body else { continue };
                let (Some(media), Some(SurveyedBody::Shape(at))) =
                    (&row.media, self.survey.body(row))
                else {
                    continue;
                };
                let styles = parts.entry(part.to_owned()).or_default();
                styles.entry((media.clone(), at)).or_default().add(&kind.seen);
            }
        }
        parts
    }

    fn region(
        &mut self,
        part: &str,
        (media, at): &ObservedStyle,
        usual: &ObservedStyle,
        seen: &Occurrences,
    ) {
        let Some(surveyed) = self.survey.shapes.get(*at) else { return };
        self.ask(&format!(
            "below /{part}, the {} errors with a JSON body, validation errors aside, have a style of their own ({}); is it meant? Then a region says it:",
            seen.count,
            self.at(seen)
        ));
        let shape = &surveyed.shape;
        let mut drafted = DraftedShape::default();
        let name = if media == JSON_API && is_json_api(shape) {
            "jsonapi-errors".to_owned()
        } else if shape.is_problem() {
            "problem".to_owned()
        } else if *at == usual.1 {
            "service-error".to_owned()
        } else {
            let name = plain_name(&format!("{part} error"));
            for (member, inner) in &shape.members {
                drafted.add(&name, member, inner, MemberPresence::of(shape, inner));
            }
            let members = std::mem::take(&mut drafted.members);
            drafted.tables.insert(0, ShapeDeclaration { name: name.clone(), members });
            name
        };
        self.line(&format!("# [region.{}]", quoted(&format!("/{part}/**"))));
        self.line(&format!("# error = {{ media = {}, shape = {} }}", quoted(media), quoted(&name)));
        for line in drafted
            .tables
            .iter()
            .flat_map(|table| table.toml().lines().map(str::to_owned).collect::<Vec<_>>())
        {
            self.line(&format!("# {line}"));
        }
    }
}
