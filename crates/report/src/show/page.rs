//! An exchange as a page.

use faithful_clerk_check::classify::Classified;
use faithful_clerk_check::classify::recognised;
use faithful_clerk_insight::draft::{ExpectedResponse, expected_response};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::exchange::{RequestBody, ResponseBody};
use faithful_clerk_model::finding::{Finding, Severity};
use faithful_clerk_model::headers::Headers;
use faithful_clerk_model::secret::mask::masked;

use super::body::{BodyLayout, BodyLine, json_lines, read_request, read_response, text_lines};
use super::{ContractView, ExchangeView, header_value};
use crate::Theme;
use crate::finding_text::{FindingText, LABEL_WIDTH, LabelledText};
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
    PageLine { indent, hang: 0, pieces }
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
    headers(&request.headers, &[], &|_| Vec::new(), &mut lines);
    let invalid = classified.map_or(&[][..], |classified| &classified.situations.invalid);
    match &request.body {
        RequestBody::Absent => {}
        RequestBody::Blank => lines.extend([line(0, Vec::new()), faint("(only white space)")]),
        RequestBody::NotRecorded => {
            lines.extend([line(0, Vec::new()), faint("(a body that the recording does not hold)")]);
        }
        RequestBody::Present(_) => {
            lines.push(line(0, Vec::new()));
            let notes: Vec<BodyNote> = invalid
                .iter()
                .map(|mismatch| BodyNote {
                    place: mismatch.pointer.clone(),
                    tone: Tone::Doubt,
                    text: format!("{}; expected {}", mismatch.kind.words(), mismatch.expected),
                    parts: Vec::new(),
                    not_checked: None,
                })
                .collect();
            lines.extend(read_request(request).iter().flat_map(|layout| body(layout, &notes)));
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
    parts: Vec<LabelledText>,
    not_checked: Option<String>,
}

impl BodyNote {
    fn of(finding: &Finding, classified: &Classified<'_>) -> Self {
        let place = match &finding.location {
            Location::Pointer(pointer) => pointer.clone(),
            _ => String::new(),
        };
        let FindingText { location, parts, not_checked } =
            FindingText::of(finding, &classified.row(), classified.contract);
        // A location that is no line of its own is named.
        let at = match &finding.location {
            Location::Header(_) => format!(" at {location}"),
            _ => String::new(),
        };
        let text = format!("{} {}{at}", finding.severity.name(), finding.clause);
        Self { place, tone: tone(finding.severity), text, parts, not_checked }
    }

    fn lines(&self, indent: usize) -> Vec<PageLine> {
        let head = line(indent, vec![toned(self.tone, format!("^ {}", self.text))]);
        let parts = self.parts.iter().map(|LabelledText { label, text }| {
            let label = toned(Tone::Faint, format!("{label:LABEL_WIDTH$}"));
            PageLine { indent: indent + 2, hang: LABEL_WIDTH, pieces: vec![label, plain(text)] }
        });
        let not_checked = self.not_checked.as_ref().map(|what| {
            let pieces = vec![plain(format!("not checked: {what}"))];
            PageLine { indent: indent + 2, hang: 2, pieces }
        });
        std::iter::once(head).chain(parts).chain(not_checked).collect()
    }
}

/// What is said over a body that is blanked.
const BLANKED: &str = "(it looks like JSON and is not valid JSON: its values are blanked, since no secret can be looked for in it)";

/// A body, each note under the line that shows its place, or before the end of what it is missing in.
fn body(laid: &BodyLayout, notes: &[BodyNote]) -> Vec<PageLine> {
    let value = match laid {
        BodyLayout::Json(value) => value,
        BodyLayout::Text(text) | BodyLayout::Blanked(text) => {
            let told = matches!(laid, BodyLayout::Blanked(_)).then(|| faint(BLANKED));
            let lines = text_lines(text).into_iter();
            let lines = lines.map(|BodyLine { text, .. }| line(2, vec![plain(text)]));
            let lines = told.into_iter().chain(lines);
            return lines.chain(notes.iter().flat_map(|note| note.lines(2))).collect();
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
                        lines.extend(note.lines(indent));
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
    lines.extend(rest.flat_map(|(note, _)| {
        let mut lines = note.lines(2);
        lines.insert(0, line(2, vec![toned(note.tone, format!("{} is not there", note.place))]));
        lines
    }));
    lines
}

fn headers(
    headers: &Headers<'_>,
    findings: &[&Finding],
    found: &dyn Fn(&Finding) -> Vec<PageLine>,
    lines: &mut Vec<PageLine>,
) {
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
                lines.extend(found(finding));
                *told = true;
            }
        }
    }
    if headers.recorded().is_some() {
        let is_first = headers.iter().next().is_none();
        let begin = if is_first { "" } else { "and " };
        lines.push(faint(&format!("({begin}header fields that the recording does not hold)")));
    }
    let missing = findings.iter().zip(told).filter(|(_, told)| !told);
    lines.extend(missing.flat_map(|(finding, _)| found(finding)));
}

fn tone(severity: Severity) -> Tone {
    match severity {
        Severity::Breach => Tone::Bad,
        Severity::Warning => Tone::Doubt,
        Severity::Note => Tone::Code,
    }
}

/// The response, with the findings at their lines.
fn response(view: &ExchangeView<'_>) -> Vec<PageLine> {
    let (classified, findings): (_, Vec<&Finding>) = match &view.known {
        ContractView::Checked(classified, findings) => {
            (Some(classified), findings.iter().collect())
        }
        ContractView::Nothing | ContractView::Excluded(_) => (None, Vec::new()),
    };
    let note = |finding: &Finding| classified.map(|classified| BodyNote::of(finding, classified));
    let found = |finding: &Finding| note(finding).map(|note| note.lines(2)).unwrap_or_default();
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
        lines.extend(whole.into_iter().flat_map(found));
        return lines;
    };
    let phrase = faithful_clerk_model::status::phrase(response.status).unwrap_or_default();
    let status = format!("{} {phrase}", response.status);
    lines.push(line(2, vec![toned(Tone::Strong, status.trim_end())]));
    lines.extend(whole.into_iter().flat_map(found));
    let of_status = at(&|place| matches!(place, Location::StatusLine));
    lines.extend(of_status.into_iter().flat_map(found));
    let of_headers = at(&|place| matches!(place, Location::Header(_)));
    headers(&response.headers, &of_headers, &found, &mut lines);
    let of_body = at(&|place| matches!(place, Location::Body));
    lines.push(line(0, Vec::new()));
    let is_in_json = |finding: &&&Finding| matches!(finding.location, Location::Pointer(_));
    let notes: Vec<BodyNote> =
        findings.iter().filter(is_in_json).filter_map(|finding| note(finding)).collect();
    match &response.body {
        ResponseBody::Empty => lines.push(faint("(no body)")),
        ResponseBody::Truncated => lines.push(faint("(the body is truncated)")),
        ResponseBody::NotRecorded => lines.push(faint("(a body that the recording does not hold)")),
        ResponseBody::Present(_) => {
            lines.extend(read_response(response).iter().flat_map(|layout| body(layout, &notes)));
        }
    }
    lines.extend(of_body.into_iter().flat_map(found));
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
    let (faults, response) = expected_response(classified);
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
    response
}

fn drafted(response: &ExpectedResponse) -> Vec<PageLine> {
    let ExpectedResponse { fault: _, status, phrase, headers, body: value } = response;
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
