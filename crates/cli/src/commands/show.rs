//! `fclerk show`: one exchange, laid out.
//!
//! The recording is read twice: whether a request without credentials is wrong is only known once it is
//! known whether the recording holds any.

use std::io::IsTerminal as _;

use faithful_clerk_check::classify::Classification;
use faithful_clerk_check::classify::{Credentials, classify};
use faithful_clerk_check::clauses::check_exchange;
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_model::exchange::Exchange;
use faithful_clerk_model::secret::SecretRules;
use faithful_clerk_recording::{Traversal, Unreadable, Visitor};
use faithful_clerk_report::show::{
    ContractView, ExchangeView, hidden_bodies, json, markdown, raw, terminal,
};
use faithful_clerk_scrub::{BlankReason, secrets_in};

use crate::contracts::{contract_if_any, description};
use crate::exit::{Completion, Failure};
use crate::flags::{OutputFormat, OutputSettings, ShowArgs};
use crate::inputs::{Input, RereadableInput};
use crate::output::{print_bytes, print_error, print_result};
use crate::recordings::progress;

pub(crate) fn run(args: &ShowArgs, settings: &OutputSettings) -> Result<Completion, Failure> {
    let name = args.address.recording.display().to_string();
    let mut contract = match args.openapi.as_deref() {
        Some(openapi) => Some(description(openapi)?),
        None => contract_if_any(args.contract.as_deref(), settings.stderr)?
            .map(|expected| expected.contract),
    };
    if let Some(contract) = &mut contract {
        contract.scope = args.reading.scope();
    }
    let fail = |error: std::io::Error| Failure::Call(format!("{name}: {error}"));
    let input = Input::of(&args.address.recording);
    let recording = RereadableInput::of(&input).map_err(fail)?;
    let traversal = Traversal { options: args.reading.opened.opening(), ..Traversal::default() };
    let bar = progress(input.size(), &name);
    let mut credentials = Credentials::NotRecorded;
    if let Some(contract) = &contract {
        let source = recording.open(&bar).map_err(fail)?;
        let mut looked = CredentialSearch { contract, credentials };
        traversal.visit_in_order(source, 0, &mut looked);
        credentials = looked.credentials;
    }
    let mut found = ExchangeSearch {
        number: args.address.number.get(),
        seen: 0,
        lost: None,
        hidden: Vec::new(),
        address: format!("{name}#{}", args.address.number),
        contract: contract.as_ref(),
        credentials,
        args,
        settings,
        result: None,
    };
    let source = recording.open(&bar).map_err(fail)?;
    traversal.visit_in_order(source, 0, &mut found);
    bar.finish_and_clear();
    match (found.result, found.lost) {
        (Some(result), _) => {
            match result? {
                ShowOutput::Text(text) => print_result(&text)?,
                ShowOutput::Bytes(bytes) => print_bytes(&bytes)?,
            }
            for (side, reason) in &found.hidden {
                print_error(&format!(
                    "{}: the body of the {side} is not shown as it is, because {reason}",
                    found.address
                ));
            }
            Ok(if found.hidden.is_empty() { Completion::Kept } else { Completion::NotAllRead })
        }
        (None, Some(reason)) => {
            print_error(&format!("{}: {reason}", found.address));
            Ok(Completion::NotAllRead)
        }
        (None, None) => Err(Failure::Call(match found.seen {
            0 => format!("{name} has no readable exchange"),
            last => {
                format!("{name} has no exchange {}; the last one is {name}#{last}", found.number)
            }
        })),
    }
}

/// Does the recording hold credentials?
struct CredentialSearch<'c> {
    contract: &'c ErrorContract,
    credentials: Credentials,
}

impl Visitor for CredentialSearch<'_> {
    fn exchange(&mut self, exchange: &Exchange<'_>) {
        let carries = |name: &String| exchange.request.headers.has(name);
        if self.contract.credentials.iter().any(carries) {
            self.credentials = Credentials::Recorded;
        }
    }

    fn on_unreadable(&mut self, _: Unreadable) {}

    fn is_done(&self) -> bool {
        self.credentials == Credentials::Recorded
    }
}

/// A text without secrets that stand where nothing tells that they are some.
pub(crate) fn without(text: String, secrets: &[String]) -> String {
    secrets.iter().fold(text, |text, secret| {
        if text.contains(secret.as_str()) { text.replace(secret.as_str(), "***") } else { text }
    })
}

/// The same, of a message as it was sent, if it is text.
fn without_bytes(bytes: Vec<u8>, secrets: &[String]) -> Vec<u8> {
    match String::from_utf8(bytes) {
        Ok(text) => without(text, secrets).into_bytes(),
        Err(error) => error.into_bytes(),
    }
}

/// What is written.
enum ShowOutput {
    Text(String),
    Bytes(Vec<u8>),
}

/// Looks for the exchange, and lays it out while its bytes are there.
struct ExchangeSearch<'c> {
    number: u64,
    seen: u64,
    lost: Option<String>,
    /// The bodies that are not shown as they are, and why.
    hidden: Vec<(&'static str, BlankReason)>,
    address: String,
    contract: Option<&'c ErrorContract>,
    credentials: Credentials,
    args: &'c ShowArgs,
    settings: &'c OutputSettings,
    result: Option<Result<ShowOutput, Failure>>,
}

impl Visitor for ExchangeSearch<'_> {
    fn exchange(&mut self, exchange: &Exchange<'_>) {
        self.seen = self.seen.max(exchange.address.number);
        if exchange.address.number != self.number {
            return;
        }
        self.hidden = hidden_bodies(exchange);
        let none = SecretRules::default();
        let secrets =
            secrets_in(exchange, self.contract.map_or(&none, |contract| &contract.secret));
        if self.args.raw {
            let to_terminal = std::io::stdout().is_terminal();
            let bytes = without_bytes(raw(exchange), &secrets);
            self.result = Some(Ok(match to_terminal {
                true => ShowOutput::Text(faithful_clerk_report::escape::lines(
                    &String::from_utf8_lossy(&bytes),
                )),
                false => ShowOutput::Bytes(bytes),
            }));
            return;
        }
        let known = match self.contract {
            None => ContractView::Nothing,
            Some(contract) => match classify(exchange, contract, self.credentials) {
                Classification::Excluded(reason) => ContractView::Excluded(reason),
                Classification::Classified(classified) => {
                    let judgement = check_exchange(&classified);
                    ContractView::Checked(classified, judgement.findings)
                }
            },
        };
        let view = ExchangeView { address: self.address.clone(), exchange, known };
        self.result = Some(
            match self.args.format {
                OutputFormat::Text => Ok(terminal(&view, self.settings.stdout)),
                OutputFormat::Markdown => Ok(markdown(&view)),
                OutputFormat::Json => json(&view).map_err(|error| Failure::Output(error.into())),
            }
            .map(|text| ShowOutput::Text(without(text, &secrets))),
        );
    }

    fn on_unreadable(&mut self, unreadable: Unreadable) {
        if unreadable.number == Some(self.number) {
            self.lost = Some(unreadable.reason);
        }
        self.seen = self.seen.max(unreadable.number.unwrap_or_default());
    }

    fn is_done(&self) -> bool {
        self.result.is_some() || self.lost.is_some()
    }
}
