use crate::classify::Classified;
use crate::clauses::contracts::JSON_API;
use crate::clauses::example::NO_SUCH_BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::media;

pub(super) static CLAUSE: Clause = Clause {
    name: "media.parameters",
    statement: "A JSON media type has no meaningless parameters.",
    basis: &[Basis::rfc(8259, "11")],
    severity: Severity::Note,
    applies_to: AppliesTo::Responses,
    reason: "A charset on a JSON type has no effect, and suggests a choice that does not exist.",
    fix: "Send the media type without parameters. JSON:API allows only ext and profile.",
    check,
    met: &[Example::met("the type alone", "GET /v1/berths/Z-99", NO_SUCH_BERTH)],
    broken: &[
        Example::broken(
            "a charset on JSON",
            "GET /v1/berths/Z-99",
            r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json; charset=utf-8

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth"}"#,
            &[("header Content-Type", "charset=utf-8")],
        ),
        Example::broken(
            "a parameter that JSON:API does not know",
            "GET /v1/berths/Z-99",
            r#"HTTP/1.1 404 Not Found
Content-Type: application/vnd.api+json; version=1

{"errors":[{"title":"There is no such berth"}]}"#,
            &[("header Content-Type", "version=1")],
        )
        .under(JSON_API),
        Example::broken(
            "the same on a success",
            "GET /v1/berths/A-3",
            r#"HTTP/1.1 200 OK
Content-Type: application/vnd.api+json; charset=utf-8

{"data":{"type":"berths","id":"A-3"}}"#,
            &[("header Content-Type", "charset=utf-8")],
        )
        .under(JSON_API),
    ],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    // Successes are only held to what JSON:API asks of them.
    let of_api = || {
        let style = classified.style().error.shape;
        style.and_then(|id| classified.contract.shapes.get(id)).is_some_and(|s| s.is_json_api)
    };
    if !classified.is_error() && !of_api() {
        return ClauseOutcome::NotApplicable;
    }
    let Some(said) = classified.response().and_then(|response| response.media()) else {
        return ClauseOutcome::NotApplicable;
    };
    let Some(essence) = classified.media().filter(|essence| media::is_json(essence)) else {
        return ClauseOutcome::NotApplicable;
    };
    let location = || Location::header("Content-Type");
    if essence == media::JSON_API {
        for parameter in media::json_api_misuse(said) {
            let got = Got::Parameter(parameter.to_owned());
            findings.add(location(), Expected::JsonApiParameters, got).severity(Severity::Breach);
        }
        return ClauseOutcome::Met;
    }
    for parameter in said.split(';').skip(1).map(str::trim).filter(|_| classified.is_error()) {
        if parameter.to_ascii_lowercase().starts_with("charset") {
            findings.add(location(), Expected::NoCharset, Got::Parameter(parameter.to_owned()));
        }
    }
    ClauseOutcome::Met
}
