use super::input::is_about_input;
use crate::address::Place;
use crate::clause::contracts::BARE;
use crate::clause::example::TOO_MANY_NIGHTS;
use crate::clause::{Basis, Clause, Example, Findings, Judged, Of};
use crate::finding::Weight;
use crate::place::{Form, Placed};

pub(super) static CLAUSE: Clause = Clause {
    name: "validation.one-style",
    statement: "All validation errors name their places in one style.",
    basis: &[Basis::rfc(9457, "3")],
    weight: Weight::Lapse,
    of: Of::Errors,
    reason: "Whoever reads the places has to write code for each style of them.",
    mending: "Write all places with the same function. JSON Pointers are the standard's own \
             example.",
    judge,
    kept: &[Example::kept(
        "one style twice",
        TOO_MANY_NIGHTS,
        r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/json

{"errors":[{"field":"/nights","message":"at most 28"}]}"#,
    )
    .under(BARE)
    .beside(&[(
        TOO_MANY_NIGHTS,
        r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/json

{"errors":[{"field":"/nights","message":"at most 28"}]}"#,
    )])],
    broken: &[Example::broken(
        "another style",
        TOO_MANY_NIGHTS,
        r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/json

{"errors":[{"field":"nights","message":"at most 28"}]}"#,
        &[("body /errors/0/field", "names and paths")],
    )
    .under(BARE)
    .beside(&[
        (
            TOO_MANY_NIGHTS,
            r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/json

{"errors":[{"field":"/nights","message":"at most 28"}]}"#,
        ),
        (
            TOO_MANY_NIGHTS,
            r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/json

{"errors":[{"field":"/nights","message":"at most 28"}]}"#,
        ),
    ])],
};

fn judge(placed: &Placed<'_>, findings: &mut Findings) -> Judged {
    if !is_about_input(placed) {
        return Judged::Outside;
    }
    let mut told: Vec<&str> = Vec::new();
    for entry in placed.entries().iter().filter(|entry| entry.location.is_some()) {
        // How an agreed pointer is written is the contract's to say; and a name alone is a short path.
        let style = match entry.form {
            Form::Nowhere | Form::Parameter => continue,
            _ if entry.is_pointer => continue,
            Form::Name | Form::Dots | Form::Brackets => "names and paths",
            form => form.words(),
        };
        if !told.contains(&style) {
            told.push(style);
            let place = Place::Pointer(entry.at.clone());
            findings.compare("validation errors", style, place);
        }
    }
    Judged::Outside
}
