//! The draft itself, section by section.

use std::collections::BTreeSet;

use super::endpoints::{self, ServiceBase};
use super::faults::ObservedFaults;
use crate::survey::{EndpointStatus, Occurrences, Survey, SurveyedEndpoint};
use faithful_clerk_contract::{Server, quoted};
use faithful_clerk_model::address::RecordingNames;
use faithful_clerk_model::invisible::spelled;

/// A drafted contract.
#[derive(Debug)]
pub struct Draft {
    /// Its text.
    pub text: String,
    /// The questions in it.
    pub decide: Vec<String>,
}

/// The description of the service that is drafted.
#[derive(Debug, Clone, Copy)]
pub struct ServiceDescription<'d> {
    /// Its path, as the contract is to name it.
    pub path: &'d str,
    /// The servers that it has.
    pub servers: &'d [Server],
    /// Was the recording made elsewhere, so that only the paths of the servers were looked at?
    pub is_elsewhere: bool,
}

/// Drafts a contract.
#[must_use]
pub fn draft(
    survey: &Survey,
    names: RecordingNames<'_>,
    openapi: Option<ServiceDescription<'_>>,
) -> Draft {
    let base = ServiceBase::of(survey);
    let locations: Vec<&SurveyedEndpoint> =
        survey.endpoints.iter().filter(|location| base.has(location)).collect();
    let faults = ObservedFaults::of(&locations);
    let mut writer = DraftWriter {
        survey,
        names,
        languages: faults.languages(),
        faults,
        places: locations,
        base,
        text: String::new(),
        decide: Vec::new(),
    };
    writer.head(openapi);
    let shape = writer.error();
    writer.validation_errors();
    writer.faults(&shape);
    writer.everywhere();
    writer.endpoints();
    writer.body_rules();
    Draft { text: writer.text, decide: writer.decide }
}

/// What every error has in common.
pub(super) struct CommonTraits {
    /// The members of the shape of every error.
    pub(super) members: BTreeSet<String>,
    /// Are errors problem details?
    pub(super) is_problem: bool,
    /// Is there a shape of errors at all?
    pub(super) is_shaped: bool,
    /// Is there a shape of its own for validation errors?
    pub(super) has_validation: bool,
}

pub(super) struct DraftWriter<'s> {
    pub(super) survey: &'s Survey,
    pub(super) names: RecordingNames<'s>,
    pub(super) places: Vec<&'s SurveyedEndpoint>,
    pub(super) base: ServiceBase,
    pub(super) faults: ObservedFaults,
    /// The languages of titles, the most frequent first; none where all titles have one.
    pub(super) languages: Vec<String>,
    pub(super) text: String,
    pub(super) decide: Vec<String>,
}

impl DraftWriter<'_> {
    pub(super) fn line(&mut self, line: &str) {
        self.text.push_str(line);
        self.text.push('\n');
    }

    pub(super) fn comment(&mut self, text: &str) {
        self.text.push_str(&commented(text));
    }

    /// A question to whoever edits the draft.
    pub(super) fn ask(&mut self, question: &str) {
        self.comment(&format!("decide: {question}"));
        self.decide.push(question.to_owned());
    }

    pub(super) fn at(&self, seen: &Occurrences) -> String {
        self.names.list(seen.count, &seen.first)
    }

    pub(super) fn head(&mut self, openapi: Option<ServiceDescription<'_>>) {
        self.line("#:schema contract.schema.json");
        self.line(
            "# With the file that the line above names, an editor completes and checks keys:",
        );
        self.line("# fclerk explain --contract-schema > contract.schema.json");
        self.line("");
        let survey = self.survey;
        let recordings: Vec<&str> = self.names.0.iter().map(String::as_str).take(5).collect();
        let more = self.names.0.len().saturating_sub(recordings.len());
        let more = if more > 0 { format!(" and {more} more") } else { String::new() };
        self.comment(&format!(
            "Drafted from {}{more}: {}, {} of them errors. It says what was recorded. Settle every line that starts with `decide`, correct what is not intended, then check with it.",
            recordings.join(", "),
            match survey.exchanges {
                1 => "1 exchange".to_owned(),
                count => format!("{count} exchanges"),
            },
            survey.errors,
        ));
        self.line("");
        self.line("contract = 1");
        let host = self.base.host();
        let name = if host.is_empty() { "the service" } else { host };
        self.line(&format!("service  = {}", quoted(name)));
        match openapi {
            // Without servers of its own, a contract has those of the description.
            Some(openapi) => {
                self.line(&format!("openapi  = {}", quoted(openapi.path)));
                if openapi.is_elsewhere {
                    self.base_paths(openapi.servers);
                }
            }
            None => {
                if let Some(server) = self.base.server() {
                    self.line(&format!("servers  = [{}]", quoted(&server)));
                }
            }
        }
        if !self.languages.is_empty() {
            let languages: Vec<String> = self.languages.iter().map(|one| quoted(one)).collect();
            self.line(&format!("languages = [{}]", languages.join(", ")));
        }
        let others: Vec<String> = self.base.others.clone();
        if !others.is_empty() {
            self.ask(&format!("left out, as other services: {}", others.join(", ")));
        }
    }

    /// The base paths of the servers of a description, on any host.
    fn base_paths(&mut self, servers: &[Server]) {
        let mut paths: Vec<String> =
            servers.iter().map(|server| quoted(&server.base_path().text)).collect();
        paths.sort_unstable();
        paths.dedup();
        self.line(&format!("servers  = [{}]", paths.join(", ")));
        let described: Vec<&str> = servers.iter().map(|server| server.text.as_str()).collect();
        self.ask(&format!(
            "the recording was made on none of the servers of the description, {}; these are their paths on any host: which servers are meant?",
            described.join(", ")
        ));
    }

    pub(super) fn everywhere(&mut self) {
        let names: Vec<String> = self
            .faults
            .all
            .values()
            .filter(|fault| fault.is_everywhere())
            .map(|fault| quoted(&fault.name))
            .collect();
        if !names.is_empty() {
            self.line("\n[everywhere]");
            self.line(&format!("faults = [{}]", names.join(", ")));
        }
        let nowhere: Vec<(bool, String)> = self
            .places
            .iter()
            .filter(|location| location.status == EndpointStatus::Nowhere)
            .map(|location| (self.leads_somewhere(location), location.name()))
            .take(10)
            .collect();
        let (above, nowhere): (Vec<_>, Vec<_>) = nowhere.into_iter().partition(|(above, _)| *above);
        let listed =
            |all: Vec<(bool, String)>| all.into_iter().map(|(_, name)| name).collect::<Vec<_>>();
        if !nowhere.is_empty() {
            self.ask(&format!(
                "these only ever responded 404 and are taken for unknown routes: {}",
                listed(nowhere).join(", ")
            ));
        }
        if !above.is_empty() {
            self.ask(&format!(
                "these only ever responded 404, and what is below them was served: are they endpoints? {}",
                listed(above).join(", ")
            ));
        }
    }

    /// Did anything below a path ever succeed?
    fn leads_somewhere(&self, location: &SurveyedEndpoint) -> bool {
        let above = format!("{}/", location.template.trim_end_matches('/'));
        self.places.iter().any(|other| {
            other.template.starts_with(&above)
                && other.template.len() > above.len()
                && other.facts.successes.count > 0
        })
    }

    pub(super) fn drawn(
        &self,
        location: &SurveyedEndpoint,
        template: &str,
    ) -> Option<endpoints::DraftedEndpoint> {
        let has_credentials = self.survey.has_credentials;
        endpoints::endpoint(location, template, &self.faults, self.names, has_credentials)
    }

    pub(super) fn endpoints(&mut self) {
        let places: Vec<&SurveyedEndpoint> =
            self.places.iter().copied().filter(|p| p.status == EndpointStatus::Endpoint).collect();
        self.line("\n# ── endpoints ──");
        if !self.survey.has_credentials && !places.is_empty() {
            self.ask(
                "which of them require credentials? The recording holds none, so it does not show",
            );
        }
        if places.is_empty() {
            self.ask("no endpoint was found; declare them as in [endpoint.\"GET /berths/{id}\"]");
            return;
        }
        for location in places {
            // HEAD is offered where GET is, and needs no endpoint of its own.
            if location.method == "HEAD" {
                continue;
            }
            let template = self.base.below(&location.template);
            let Some(drafted) = self.drawn(location, &template) else {
                self.ask(&format!("`{}` can't be written as an endpoint", cut(&location.name())));
                continue;
            };
            self.line("");
            self.comment(&drafted.evidence);
            self.line(&drafted.head);
            for line in &drafted.lines {
                self.line(line);
            }
            for question in &drafted.decide {
                self.ask(question);
            }
        }
    }
}

/// A comment, wrapped; nothing in it can end it.
pub(super) fn commented(text: &str) -> String {
    let (mut comment, mut line) = (String::new(), String::from("#"));
    for word in text.split_whitespace() {
        let word = spelled(word, |_, safe| safe.push('?'));
        if line.chars().count() + word.chars().count() > 98 && line.len() > 1 {
            comment.push_str(&line);
            comment.push('\n');
            line = String::from("#");
        }
        line.push(' ');
        line.push_str(&word);
    }
    comment.push_str(&line);
    comment.push('\n');
    comment
}

/// Nobody reads more of a title in a comment.
pub(super) fn cut(text: &str) -> String {
    const MOST: usize = 80;
    match text.char_indices().nth(MOST) {
        Some((end, _)) => format!("{}…", text.get(..end).unwrap_or_default()),
        None => text.to_owned(),
    }
}
