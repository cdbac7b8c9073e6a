//! An exchange as a page.

use faithful_clerk_check::classify::Classified;
use faithful_clerk_check::classify::recognised;
use faithful_clerk_insight::draft::{ExpectedResponse, expected_response};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::exchange::{RequestBody, ResponseBody};
use faithful_clerk_model::finding::{Finding, Severity};
use faithful_clerk_model::headers::Headers;
use faithful_clerk_model::secret::mask::masked;

use super::body::{BodyLayout, BodyLine, json_lines, read, text_lines};
use super::{ContractView, ExchangeView, header_value};
use crate::Theme;
use crate::page::{Page, PageLine, StyledText, code, plain, toned};
use crate::theme::Tone;

/// For a terminal.
#[must_use]
pub fn terminal(view: &ExchangeView<'_>, theme: Theme) -> String {
    page(view).terminal(theme)
}

/// As Markdown.
#[must_use]
pub fn markdown(view: &ExchangeView<'_>) -> String {
    page(view).markdown()
}

/// An exchange in its parts.
pub(crate) struct ExchangeParts {
    /// The request.
    pub(crate) request: Vec<PageLine>,
    /// What stands over the response.
    pub(crate) response_title: String,
    /// The response.
    pub(crate) response: Vec<PageLine>,
    /// What was expected.
    pub(crate) expected: Page,
    /// The response as it should have been, where it was not.
    pub(crate) drafted: Option<Vec<PageLine>>,
    /// Its body, where that is JSON.
    pub(crate) drafted_body: Option<serde_json::Value>,
}

fn page(view: &ExchangeView<'_>) -> Page {
    let ExchangeParts { request, response_title, response, expected, drafted, drafted_body: _ } =
        parts(view);
    let mut page = Page::default();
    page.heading(view.address.clone());
    page.lines(request);
    page.heading(response_title);
    page.lines(response);
    page.append(expected);
    if let Some(drafted) = drafted {
        page.heading("As it should have been");
        page.lines(drafted);
    }
    page
}

/// Lays an exchange out.
pub(crate) fn parts(view: &ExchangeView<'_>) -> ExchangeParts {
    let mut page = Page::default();
    let classified = match &view.known {
        ContractView::Checked(classified, _) => Some(&**classified),
        ContractView::Nothing | ContractView::Excluded(_) => None,
    };
    let response_title = match view.exchange.timing.milliseconds() {
        Some(time) => format!("The response, after {time:.0} ms"),
        None => "The response".to_owned(),
    };
    let mut drafted = None;
    match &view.known {
        ContractView::Nothing => {
            page.text(vec![plain(
                "No contract was given, so nothing was checked. Name one with --contract FILE; `fclerk draft` \
                 writes one.",
            )]);
        }
        ContractView::Excluded(reason) => {
            page.text(vec![plain(format!("It is excluded: {reason}."))]);
        }
        ContractView::Checked(classified, findings) => {
            drafted = expected(&mut page, classified, findings);
        }
    }
    let (request, response) = (request(view, classified), response(view));
    let (drafted, drafted_body) = match drafted {
        Some(answer) => (Some(self::drafted(&answer)), answer.body),
        None => (None, None),
    };
    ExchangeParts { request, response_title, response, expected: page, drafted, drafted_body }
}

fn line(indent: usize, pieces: Vec<StyledText>) -> PageLine {
    PageLine { indent, pieces }
}

/// The request, with what is wrong in it at the lines that show it.
fn request(view: &ExchangeView<'_>, classified: Option<&Classified<'_>>) -> Vec<PageLine> {
    let request = &view.exchange.request;
    let mut lines = vec![line(
        2,
        vec![
            toned(Tone::Strong, request.method.as_ref()),
            plain(" "),
            plain(masked(&request.url).into_owned()),
        ],
    )];
    headers(&request.headers, &[], &mut lines);
    let invalid = classified.map_or(&[][..], |classified| &classified.situations.invalid);
    match &request.body {
        RequestBody::Absent => {}
        RequestBody::Blank => lines.extend([line(0, Vec::new()), faint("(only white space)")]),
        RequestBody::NotRecorded => {
            lines.extend([line(0, Vec::new()), faint("(a body that the recording does not hold)")]);
        }
        RequestBody::Present(content) => {
            lines.push(line(0, Vec::new()));
            let notes: Vec<BodyNote> = invalid
                .iter()
                .map(|mismatch| BodyNote {
                    place: mismatch.pointer.clone(),
                    tone: Tone::Doubt,
                    text: format!("{}; expected {}", mismatch.kind.words(), mismatch.expected),
                })
                .collect();
            lines.extend(body(&read(content), &notes));
        }
    }
    lines
}

fn faint(text: &str) -> PageLine {
    line(2, vec![toned(Tone::Faint, text)])
}

/// Something to be said at a place of a body.
struct BodyNote {
    place: String,
    tone: Tone,
    text: String,
}

impl BodyNote {
    fn line(&self, indent: usize) -> PageLine {
        line(indent, vec![toned(self.tone, format!("^ {}", self.text))])
    }
}

/// A body, each note under the line that shows its place, or before the end of what it is missing in.
fn body(laid: &BodyLayout, notes: &[BodyNote]) -> Vec<PageLine> {
    let value = match laid {
        BodyLayout::Json(value) => value,
        BodyLayout::Text(text) => {
            let lines = text_lines(text).into_iter();
            let lines = lines.map(|BodyLine { text, .. }| line(2, vec![plain(text)]));
            return lines.chain(notes.iter().map(|note| note.line(2))).collect();
        }
        BodyLayout::Bytes(count) => {
            return vec![faint(&format!("({count} bytes that are not text)"))];
        }
        BodyLayout::Unreadable => {
            return vec![faint("(the recording's own encoding of the body is invalid)")];
        }
    };
    let is_there = |place: &str| {
        let tokens = faithful_clerk_model::json::pointer::tokens(place).unwrap_or_default();
        faithful_clerk_model::json::pointer::resolve(value, &tokens).is_some()
    };
    let of_interest = |place: &str| notes.iter().any(|note| note.place == place);
    let mut lines = Vec::new();
    let mut told = vec![false; notes.len()];
    for BodyLine { depth, text, pointer, ends } in json_lines(value, &of_interest) {
        let indent = 2 + 2 * depth;
        let drawn = line(indent, vec![plain(text)]);
        let mut tell =
            |fits: &dyn Fn(&BodyNote) -> bool, indent: usize, lines: &mut Vec<PageLine>| {
                for (note, told) in notes.iter().zip(told.iter_mut()) {
                    if !*told && fits(note) {
                        lines.push(note.line(indent));
                        *told = true;
                    }
                }
            };
        // What is missing would have stood before the end of what it is missing in.
        if let Some(end) = ends.as_deref().filter(|end| pointer.as_deref() != Some(*end)) {
            let missing = |note: &BodyNote| {
                !is_there(&note.place)
                    && note.place.rsplit_once('/').is_some_and(|(parent, _)| parent == end)
            };
            tell(&missing, indent + 2, &mut lines);
        }
        lines.push(drawn);
        if let Some(place) = &pointer {
            tell(&|note: &BodyNote| note.place == *place, indent, &mut lines);
        }
    }
    // What is missing in something that is missing, or empty.
    let rest = notes.iter().zip(told).filter(|(_, told)| !told);
    lines.extend(rest.map(|(note, _)| {
        let text = format!("{}: {}", note.place, note.text);
        BodyNote { place: String::new(), tone: note.tone, text }.line(2)
    }));
    lines
}

fn headers(headers: &Headers<'_>, findings: &[&Finding], lines: &mut Vec<PageLine>) {
    let mut told = vec![false; findings.len()];
    for (name, value) in headers.iter() {
        lines.push(line(
            2,
            vec![
                toned(Tone::Faint, format!("{name}: ")),
                plain(header_value(name, value).into_owned()),
            ],
        ));
        for (finding, told) in findings.iter().zip(told.iter_mut()) {
            let is_here = matches!(&finding.location, Location::Header(known) if known.eq_ignore_ascii_case(name));
            if is_here && !*told {
                lines.push(found(finding, 2));
                *told = true;
            }
        }
    }
    let missing = findings.iter().zip(told).filter(|(_, told)| !told);
    lines.extend(missing.map(|(finding, _)| found(finding, 2)));
}

/// A finding under the line that it concerns.
fn found(finding: &Finding, indent: usize) -> PageLine {
    line(indent, vec![toned(tone(finding.severity), format!("^ {}", sentence(finding)))])
}

fn tone(weight: Severity) -> Tone {
    match weight {
        Severity::Breach => Tone::Bad,
        Severity::Warning => Tone::Doubt,
        Severity::Note => Tone::Code,
    }
}

fn sentence(finding: &Finding) -> String {
    let Finding {
        clause,
        severity: weight,
        expected: agreed,
        got: seen,
        because: note,
        location: place,
        ..
    } = finding;
    // A place that is no line of its own is named.
    let at = match place {
        Location::Header(name) => format!(" at header {name}"),
        _ => String::new(),
    };
    let note = note.as_ref().map(|note| format!(" ({note})")).unwrap_or_default();
    format!("{} {clause}{at}: expected {agreed}; got {seen}.{note}", weight.name())
}

/// The response, with the findings at their lines.
fn response(view: &ExchangeView<'_>) -> Vec<PageLine> {
    let findings: Vec<&Finding> = match &view.known {
        ContractView::Checked(_, findings) => findings.iter().collect(),
        ContractView::Nothing | ContractView::Excluded(_) => Vec::new(),
    };
    let at = |is: &dyn Fn(&Location) -> bool| -> Vec<&Finding> {
        findings.iter().copied().filter(|finding| is(&finding.location)).collect()
    };
    let mut lines = Vec::new();
    let whole = at(&|place| matches!(place, Location::Exchange));
    let Some(response) = &view.exchange.response else {
        let why = view
            .exchange
            .no_response
            .as_ref()
            .map(|why| format!(": {}", masked(why)))
            .unwrap_or_default();
        lines.push(faint(&format!("(no response{why})")));
        lines.extend(whole.into_iter().map(|finding| found(finding, 2)));
        return lines;
    };
    let phrase = faithful_clerk_model::status::phrase(response.status).unwrap_or_default();
    let status = format!("{} {phrase}", response.status);
    lines.push(line(2, vec![toned(Tone::Strong, status.trim_end())]));
    lines.extend(whole.into_iter().map(|finding| found(finding, 2)));
    let of_status = at(&|place| matches!(place, Location::StatusLine));
    lines.extend(of_status.into_iter().map(|finding| found(finding, 2)));
    headers(&response.headers, &at(&|place| matches!(place, Location::Header(_))), &mut lines);
    let of_body = at(&|place| matches!(place, Location::Body));
    lines.push(line(0, Vec::new()));
    let notes: Vec<BodyNote> = findings
        .iter()
        .filter_map(|finding| match &finding.location {
            Location::Pointer(pointer) => Some(BodyNote {
                place: pointer.clone(),
                tone: tone(finding.severity),
                text: sentence(finding),
            }),
            _ => None,
        })
        .collect();
    match &response.body {
        ResponseBody::Empty => lines.push(faint("(no body)")),
        ResponseBody::Truncated => lines.push(faint("(the body is truncated)")),
        ResponseBody::NotRecorded => lines.push(faint("(a body that the recording does not hold)")),
        ResponseBody::Present(content) => lines.extend(body(&read(content), &notes)),
    }
    lines.extend(of_body.into_iter().map(|finding| found(finding, 2)));
    lines
}

/// The situation and the faults for it; gives the response as it should have been.
fn expected(
    page: &mut Page,
    classified: &Classified<'_>,
    findings: &[Finding],
) -> Option<ExpectedResponse> {
    page.heading("What was expected");
    match classified.endpoint() {
        Some(endpoint) => page.item(vec![plain("endpoint "), code(endpoint.name())]),
        None => page.item(vec![plain("no endpoint of the contract")]),
    }
    let situations = recognised(classified);
    for found in &situations {
        let later = if found.decides { "" } else { "; the service looks at it later" };
        page.item(vec![
            plain("situation "),
            code(found.situation.name()),
            plain(format!(": {}{later}", found.evidence)),
        ]);
    }
    if situations.is_empty() {
        page.item(vec![plain("the request is valid, as far as it shows")]);
    }
    let (faults, answer) = expected_response(classified);
    match faults.as_slice() {
        [] if situations.is_empty() => {
            let success: Vec<String> =
                classified.rules().success().iter().map(u16::to_string).collect();
            if !success.is_empty() {
                page.item(vec![plain(format!("a success was expected: {}", success.join(" or ")))]);
            }
        }
        [] => page.item(vec![plain("no fault is declared for that")]),
        faults => page.item(vec![plain("expected: the fault "), code(faults.join("` or `"))]),
    }
    if findings.is_empty() {
        page.item(vec![
            toned(Tone::Good, "no finding"),
            plain(" (clauses that compare exchanges are for `fclerk check`)"),
        ]);
        return None;
    }
    answer
}

fn drafted(answer: &ExpectedResponse) -> Vec<PageLine> {
    let ExpectedResponse { fault: _, status, phrase, headers, body: value } = answer;
    let mut lines = vec![line(2, vec![toned(Tone::Strong, format!("{status} {phrase}"))])];
    for (name, value) in headers {
        lines.push(line(2, vec![toned(Tone::Faint, format!("{name}: ")), plain(value)]));
    }
    if let Some(value) = value {
        lines.push(line(0, Vec::new()));
        lines.extend(body(&BodyLayout::Json(value.clone()), &[]));
    }
    lines
}
