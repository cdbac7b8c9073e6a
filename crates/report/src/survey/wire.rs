//! A survey as JSON.

use faithful_clerk_insight::survey::{
    Deviation, ErrorCategory, ErrorComparison, FieldNaming, Survey, SurveyedBody, SurveyedEndpoint,
};
use faithful_clerk_shape::{DifferenceKind, ShapeDifference};
use serde_json::{Value, json};

use super::page::{lines, words};
use crate::RecordingNames;
use crate::json::{pretty, reasons, unreadable};

/// As JSON.
///
/// # Errors
/// Only if serde can't write what is text, numbers and lists.
pub fn json(survey: &Survey, names: RecordingNames<'_>) -> Result<String, serde_json::Error> {
    let results =
        [ErrorCategory::Other, ErrorCategory::Validation].map(|kind| survey.judgement(kind));
    let judgement = |judgement: &ErrorComparison| {
        json!({
            "of": of(judgement.category),
            "count": judgement.count,
            "most": judgement.most.and_then(|at| survey.shapes.get(at)).map(|shape| &shape.name),
            "deviations": judgement.deviations.iter()
                .map(|one| deviation(survey, one, names)).collect::<Vec<_>>(),
        })
    };
    let shapes = survey.shapes.iter().map(|shape| {
        json!({
            "name": shape.name,
            "of": of(shape.category),
            "count": shape.seen.count,
            "addresses": names.each(&shape.seen.first),
            "text": shape.shape.phrase(),
            "named_by": shape.forms.keys().map(|form| form.words()).collect::<Vec<_>>(),
        })
    });
    pretty(&json!({
        "format": "fclerk survey",
        "version": 1,
        "recordings": names.0,
        "exchanges": survey.exchanges,
        "errors": survey.errors,
        "unreadable_count": survey.unreadable.count,
        "excluded": reasons(&survey.excluded),
        "endpoints": survey.endpoints.iter().map(|one| place(survey, one, names)).collect::<Vec<_>>(),
        "shapes": shapes.collect::<Vec<_>>(),
        "comparisons": results.iter().flatten().map(judgement).collect::<Vec<_>>(),
        "naming": {
            "places": survey.naming.places.iter()
                .map(|(place, seen)| json!({"place": place_word(*place), "count": seen.count, "addresses": names.each(&seen.first)}))
                .collect::<Vec<_>>(),
            "several": survey.naming.several.count,
            "bounded": survey.naming.is_bounded,
            "later": survey.naming.later.iter()
                .map(|one| json!({"field": one.field, "before": names.each(&[one.before]), "after": names.each(&[one.after])}))
                .collect::<Vec<_>>(),
        },
        "inside": survey.inside.count,
        "disclosed": survey.disclosed.iter()
            .map(|(what, seen)| json!({"what": what, "count": seen.count, "addresses": names.each(&seen.first)}))
            .collect::<Vec<_>>(),
        "unreadable": unreadable(&survey.unreadable, names),
    }))
}

fn place_word(place: FieldNaming) -> &'static str {
    match place {
        FieldNaming::OwnPlace => "own",
        FieldNaming::Prose => "prose",
        FieldNaming::Nowhere => "nowhere",
    }
}

fn place(survey: &Survey, place: &SurveyedEndpoint, names: RecordingNames<'_>) -> Value {
    let responses =
        lines(survey, place).into_iter().map(|((status, media, body, is_shape), seen)| {
            json!({
                "status": status,
                "media": media,
                "body": body,
                "is_error_shape": is_shape,
                "count": seen.count,
                "addresses": names.each(&seen.first),
            })
        });
    let responses: Vec<Value> = responses.collect();
    json!({
        "method": place.method,
        "template": place.template,
        "origin": place.origin,
        "status": words(place.status),
        "count": place.facts.count,
        "responses": responses,
    })
}

fn deviation(survey: &Survey, deviation: &Deviation, names: RecordingNames<'_>) -> Value {
    let locations = deviation.endpoints.iter();
    json!({
        "body": name(survey, &deviation.body),
        "count": deviation.seen.count,
        "addresses": names.each(&deviation.seen.first),
        "endpoints": locations
            .map(|(location, statuses)| json!({"endpoint": location, "statuses": statuses}))
            .collect::<Vec<_>>(),
        "differences": deviation.differences.iter().map(difference).collect::<Vec<_>>(),
    })
}

fn name<'s>(survey: &'s Survey, body: &'s SurveyedBody) -> &'s str {
    match body {
        SurveyedBody::Shape(at) => survey.shapes.get(*at).map_or("", |shape| shape.name.as_str()),
        SurveyedBody::Many => "of too many shapes",
        SurveyedBody::Other(words) => words,
    }
}

fn of(kind: ErrorCategory) -> &'static str {
    match kind {
        ErrorCategory::Validation => "validation",
        ErrorCategory::Other => "other",
    }
}

/// A difference between two forms.
pub(crate) fn difference(difference: &ShapeDifference) -> Value {
    let ShapeDifference { pointer: location, kind: how, usual, here } = difference;
    let how = match how {
        DifferenceKind::Missing => "missing",
        DifferenceKind::Added => "added",
        DifferenceKind::Optional => "optional",
        DifferenceKind::OtherType => "other-type",
        DifferenceKind::OtherKeys => "other-keys",
    };
    json!({"pointer": location, "kind": how, "usual": usual, "here": here})
}
