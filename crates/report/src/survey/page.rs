//! A survey as a page.

use std::borrow::Cow;
use std::collections::{BTreeMap, BTreeSet};

use faithful_clerk_check::classify::LocationForm;
use faithful_clerk_insight::survey::{
    Deviation, EndpointStatus, ErrorCategory, ErrorComparison, FieldNaming, ObservedBody,
    Occurrences, Survey, SurveyedBody, SurveyedEndpoint,
};
use faithful_clerk_shape::{DifferenceKind, ShapeDifference};

use crate::RecordingNames;
use crate::page::{Page, StyledText, Table, code, plain, toned};
use crate::shape_tree::{AnnotatedShape, tree};
use crate::text::{counted, reasons};
use crate::theme::Tone;

pub(super) fn page(survey: &Survey, names: RecordingNames<'_>) -> Page {
    let mut page = Page::default();
    page.text(vec![plain(summary(survey))]);
    if survey.exchanges == 0 {
        page.text(vec![plain(
            "There is nothing to look at. Record some requests to the service, wrong ones among them, and \
             look again.",
        )]);
        return page;
    }
    page.heading("Responses, by endpoint");
    page.table(answers(survey));
    if survey.errors == 0 && survey.shapes.is_empty() {
        page.text(vec![plain(
            "No error was recorded. Send some wrong requests: an id that does not exist, a body with wrong \
             fields, malformed JSON, no credentials, a method that is not offered, a path that leads nowhere.",
        )]);
        return page;
    }
    if !survey.shapes.is_empty() {
        page.heading("The shapes of errors");
        let drawn = survey.shapes.iter().map(|shape| {
            let at = names.list(shape.seen.count, &shape.seen.first);
            let head = vec![
                code(&shape.name),
                plain(format!(", {}: ", counted(shape.seen.count, "response"))),
                toned(Tone::Faint, at),
            ];
            AnnotatedShape { head, tree: tree(&shape.shape) }
        });
        page.shapes(drawn.collect());
    }
    let others = beside(survey);
    if !others.is_empty() {
        page.text(vec![plain(format!("Without a shape: {}", others.join(", ")))]);
    }
    for (kind, group) in &survey.many {
        page.text(vec![plain(format!(
            "{} of {} have too many different shapes to be told apart.",
            counted(group.seen.count, "response"),
            title(*kind).to_lowercase(),
        ))]);
    }
    judgements(&mut page, survey, names);
    naming(&mut page, survey, names);
    if survey.inside.count > 0 || !survey.disclosed.is_empty() {
        page.heading("Worth a look");
        if survey.inside.count > 0 {
            let count = counted(survey.inside.count, "success");
            page.item(said(&format!("{count} with an error inside"), &survey.inside, names));
        }
        for (what, seen) in &survey.disclosed {
            let count = counted(seen.count, "error");
            page.item(said(&format!("{count} with {what} in it"), seen, names));
        }
    }
    page
}

/// The survey without its tables.
pub(super) fn overview(survey: &Survey, names: RecordingNames<'_>) -> Page {
    let mut page = Page::default();
    page.text(vec![plain(summary(survey))]);
    judgements(&mut page, survey, names);
    naming(&mut page, survey, names);
    page
}

/// The errors that have no shape: no JSON, no body, no response.
fn beside(survey: &Survey) -> Vec<String> {
    let mut counts: BTreeMap<Cow<'_, str>, u64> = BTreeMap::new();
    for location in &survey.endpoints {
        for (row, kind) in &location.facts.rows {
            if let Some(SurveyedBody::Other(words)) = survey.body(row) {
                *counts.entry(words).or_default() += kind.seen.count;
            }
        }
    }
    counts.iter().map(|(words, count)| format!("{count} {words}")).collect()
}

fn judgements(page: &mut Page, survey: &Survey, names: RecordingNames<'_>) {
    for kind in [ErrorCategory::Other, ErrorCategory::Validation] {
        if let Some(judgement) = survey.judgement(kind) {
            judged(page, survey, &judgement, names);
        }
    }
}

/// A sentence and where it holds.
fn said(text: &str, seen: &Occurrences, names: RecordingNames<'_>) -> Vec<StyledText> {
    let at = names.list(seen.count, &seen.first);
    vec![plain(text), toned(Tone::Faint, format!(" ({at})"))]
}

fn summary(survey: &Survey) -> String {
    let endpoints = survey
        .endpoints
        .iter()
        .filter(|location| location.status == EndpointStatus::Endpoint)
        .count() as u64;
    let mut text = format!(
        "{}, {} of them errors, at {}",
        counted(survey.exchanges, "exchange"),
        survey.errors,
        counted(endpoints, "endpoint"),
    );
    if !survey.excluded.is_empty() {
        text.push_str(&format!("; excluded: {}", reasons(&survey.excluded)));
    }
    if survey.unreadable.count > 0 {
        text.push_str(&format!("; {} unreadable", survey.unreadable.count));
    }
    text.push('.');
    text
}

/// What a row of the table says, but for the count.
pub(super) type Line<'s> = (Option<u16>, Option<&'s str>, &'s str, bool);

/// The responses of a place, those put together that only differ in what they say.
pub(super) fn lines<'s>(
    survey: &'s Survey,
    location: &'s SurveyedEndpoint,
) -> BTreeMap<Line<'s>, Occurrences> {
    let mut lines: BTreeMap<Line<'s>, Occurrences> = BTreeMap::new();
    for (row, kind) in &location.facts.rows {
        let is_shape = matches!(row.body, ObservedBody::Error(_));
        let line = (row.status, row.media.as_deref(), survey.told(row), is_shape);
        lines.entry(line).or_default().add(&kind.seen);
    }
    lines
}

fn answers(survey: &Survey) -> Table {
    let mut table = Table::new(&["endpoint", "status", "media type", "body", "#count"]);
    let (mut origin, mut standing) = ("", EndpointStatus::Endpoint);
    for location in &survey.endpoints {
        if location.origin != origin {
            origin = &location.origin;
            table.row(vec![toned(Tone::Faint, origin)]);
        }
        if location.status != standing {
            standing = location.status;
            table.row(vec![toned(Tone::Faint, format!("({})", words(standing)))]);
        }
        let mut name = location.name();
        for ((status, media, told, is_shape), seen) in lines(survey, location) {
            let is_error = status.is_none_or(|status| status >= 400);
            let tone = if is_error { Tone::Plain } else { Tone::Faint };
            table.row(vec![
                plain(std::mem::take(&mut name)),
                toned(tone, status.map_or("none".to_owned(), |status| status.to_string())),
                toned(tone, media.unwrap_or("none")),
                if is_shape { code(told) } else { toned(tone, told) },
                toned(tone, seen.count.to_string()),
            ]);
        }
    }
    table
}

pub(super) fn words(standing: EndpointStatus) -> &'static str {
    match standing {
        EndpointStatus::Endpoint => "endpoint",
        EndpointStatus::NotOffered => "method not allowed",
        EndpointStatus::Nowhere => "unknown route",
    }
}

fn title(kind: ErrorCategory) -> &'static str {
    match kind {
        ErrorCategory::Validation => "Validation errors",
        ErrorCategory::Other => "Errors in general",
    }
}

fn judged(
    page: &mut Page,
    survey: &Survey,
    judgement: &ErrorComparison,
    names: RecordingNames<'_>,
) {
    let usual = judgement.most.and_then(|most| survey.shapes.get(most));
    page.heading(title(judgement.category));
    let responses = counted(judgement.count, "response");
    let others: u64 = judgement.deviations.iter().map(|deviation| deviation.seen.count).sum();
    page.text(match usual {
        None => vec![plain(format!("None of the {responses} is JSON."))],
        Some(usual) if others == 0 => {
            vec![plain(format!("All {responses} have one shape, ")), code(&usual.name), plain(".")]
        }
        Some(usual) => vec![
            plain(format!("{} of {responses} have the shape ", judgement.count - others)),
            code(&usual.name),
            plain(format!("; {others} deviate:")),
        ],
    });
    let forms: BTreeMap<_, BTreeSet<&str>> = forms(survey, judgement);
    for deviation in &judgement.deviations {
        page.item(deviating(survey, deviation, names));
    }
    if forms.len() > 1 {
        let words: Vec<String> = forms
            .iter()
            .map(|(form, shapes)| {
                let shapes: Vec<&str> = shapes.iter().copied().collect();
                format!("{form} ({})", shapes.join(", "))
            })
            .collect();
        page.item(vec![plain(format!(
            "invalid locations are named in several ways: {}",
            words.join("; ")
        ))]);
    }
}

/// How fields are named: all at once or one at a time, in a place of their own or in prose.
fn naming(page: &mut Page, survey: &Survey, names: RecordingNames<'_>) {
    let of = &survey.naming;
    if of.places.is_empty() {
        return;
    }
    page.heading("How invalid fields are named");
    match of.later.first() {
        Some(one) => {
            let pair = names.each(&[one.before, one.after]).join(" and ");
            let field = &one.field;
            page.item(vec![plain(format!(
                "not all fields are named at once: `{field}` was invalid from the beginning, and was only named once another field was fixed ({pair})"
            ))]);
        }
        None if of.several.count > 0 => page.item(vec![plain(format!(
            "{} several fields at once, and none was seen to leave one out",
            if of.several.count == 1 {
                "1 response names".to_owned()
            } else {
                format!("{} responses name", of.several.count)
            }
        ))]),
        None => page.item(vec![plain(
            "no response names more than one field; whether it would can't be seen",
        )]),
    }
    if of.is_bounded {
        page.item(vec![plain(
            "too many requests were refused to compare each with all others; only some were compared",
        )]);
    }
    let places: Vec<String> = of
        .places
        .iter()
        .map(|(place, seen)| {
            let words = match place {
                FieldNaming::OwnPlace => "in a place of their own",
                FieldNaming::Prose => "in prose alone",
                FieldNaming::Nowhere => "nowhere",
            };
            format!("{words} ({})", seen.count)
        })
        .collect();
    page.item(vec![plain(format!("fields are named {}", places.join(", ")))]);
}

/// How the entries of validation errors name the places of a request, and in which shapes.
fn forms<'s>(
    survey: &'s Survey,
    judgement: &ErrorComparison,
) -> BTreeMap<&'static str, BTreeSet<&'s str>> {
    let mut forms: BTreeMap<&'static str, BTreeSet<&str>> = BTreeMap::new();
    for shape in survey.shapes.iter().filter(|shape| shape.category == judgement.category) {
        for form in shape.forms.keys() {
            // A name alone is a short path, and an index in brackets a step of one.
            let words = match form {
                LocationForm::None => "not at all",
                LocationForm::Name | LocationForm::Dots | LocationForm::Brackets => {
                    "names and paths"
                }
                form => form.words(),
            };
            forms.entry(words).or_default().insert(&shape.name);
        }
    }
    forms
}

fn deviating(survey: &Survey, deviation: &Deviation, names: RecordingNames<'_>) -> Vec<StyledText> {
    let mut pieces = vec![plain(format!("{} ", deviation.seen.count))];
    match &deviation.body {
        SurveyedBody::Shape(at) => {
            pieces.push(code(survey.shapes.get(*at).map_or("", |shape| &shape.name)));
        }
        SurveyedBody::Many => pieces.push(plain("of too many shapes")),
        SurveyedBody::Other(words) => pieces.push(toned(Tone::Doubt, words.clone())),
    }
    let locations: Vec<String> = deviation
        .endpoints
        .iter()
        .take(4)
        .map(|(location, statuses)| {
            let statuses: Vec<String> = statuses.iter().map(u16::to_string).collect();
            match statuses.as_slice() {
                [] => location.clone(),
                statuses => format!("{location} ({})", statuses.join(", ")),
            }
        })
        .collect();
    let more = deviation.endpoints.len().saturating_sub(locations.len());
    let more = if more > 0 { format!(" and {more} more") } else { String::new() };
    pieces.push(plain(format!(" at {}{more}", locations.join(", "))));
    for (at, difference) in deviation.differences.iter().enumerate() {
        pieces.push(plain(if at == 0 { ": " } else { ", " }));
        pieces.extend(difference_words(difference));
    }
    let at = names.list(deviation.seen.count, &deviation.seen.first);
    pieces.push(toned(Tone::Faint, format!(" ({at})")));
    pieces
}

/// `an array`, `an object`, `a string`; `null` stays as it is.
fn with_article(kind: &str) -> String {
    match kind {
        kind if kind.starts_with("null") => kind.to_owned(),
        kind if kind.starts_with(['a', 'i', 'o']) => format!("an {kind}"),
        kind => format!("a {kind}"),
    }
}

/// A difference in words.
pub(crate) fn difference_words(difference: &ShapeDifference) -> Vec<StyledText> {
    let ShapeDifference { pointer: location, kind: how, usual, here } = difference;
    let code = |location: &str| match location {
        "" => plain("the whole"),
        location => code(location),
    };
    match how {
        DifferenceKind::Missing => vec![plain("no "), code(location)],
        DifferenceKind::Added => vec![plain("also "), code(location), plain(format!(" ({here})"))],
        DifferenceKind::Optional => vec![plain("not always "), code(location)],
        DifferenceKind::OtherKeys => {
            vec![code(location), plain(format!(" has {here}, not {usual}"))]
        }
        DifferenceKind::OtherType => {
            let (here, usual) = (with_article(here), with_article(usual));
            vec![code(location), plain(format!(" is {here}, not {usual}"))]
        }
    }
}
