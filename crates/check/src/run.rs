//! Checks recordings: place, check, enter.

use std::collections::BTreeMap;
use std::num::NonZero;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use crate::classify::{Classification, Credentials, classify};
use crate::clauses::check_exchange;
use crate::ledger::{Ledger, UndecidedCredentials};
use crate::observer::{CheckObserver, CheckedExchange, CredentialAssumption, ObservedRecording};
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_model::exchange::Exchange;
use faithful_clerk_model::situation::Situation;
use faithful_clerk_recording::{ReadOptions, Source, Unreadable};
use faithful_clerk_recording::{Traversal, Visitor};

/// Checks recordings against a contract.
#[derive(Debug)]
pub struct Check<'c> {
    contract: &'c ErrorContract,
    traversal: Traversal,
    environments: BTreeMap<u32, String>,
    /// Recordings are parts of others, and what depends on all of them is left open.
    is_of_parts: bool,
}

impl<'c> Check<'c> {
    /// A check with one thread.
    #[must_use]
    pub fn new(contract: &'c ErrorContract) -> Self {
        let (traversal, environments) = Default::default();
        Self { contract, traversal, environments, is_of_parts: false }
    }

    /// Sets how many threads work; the default is one. The outcome is the same for any number.
    pub fn threads(&mut self, threads: NonZero<usize>) -> &mut Self {
        self.traversal.threads = threads;
        self
    }

    /// Sets how recordings are opened; the default is any format, and entries of 64 MiB at most.
    pub fn opening(&mut self, opening: ReadOptions) -> &mut Self {
        self.traversal.options = opening;
        self
    }

    /// Leaves open what depends on other parts of a recording, until the ledger is concluded: the ledgers of parts can be added
    /// up. The default is that a recording is whole.
    pub fn of_parts(&mut self) -> &mut Self {
        self.is_of_parts = true;
        self
    }

    /// Names the environment that a recording was made in; the default is that nobody knows. Errors in
    /// different environments are compared.
    pub fn environment(&mut self, recording: u32, name: impl Into<String>) -> &mut Self {
        self.environments.insert(recording, name.into());
        self
    }

    /// Checks one recording. `recording` is its place in the run, for addresses.
    ///
    /// What could not be read is in the ledger as unreadable parts. When the ledgers of all recordings were added
    /// up, [`Ledger::conclude`] checks what exchanges have in common.
    pub fn recording(&self, source: Source<'_>, recording: u32) -> Ledger {
        self.recording_with(source, recording, || ()).0
    }

    /// The same, while observers are told of every exchange; `observe` makes one for each worker.
    pub fn recording_with<O: CheckObserver>(
        &self,
        source: Source<'_>,
        recording: u32,
        observe: impl Fn() -> O + Sync,
    ) -> (Ledger, ObservedRecording<O>) {
        let environment = self.environments.get(&recording).map(String::as_str);
        let saw_credentials = Arc::new(AtomicBool::new(false));
        let works = self.traversal.visit_parallel(source, recording, || {
            let saw_credentials = Arc::clone(&saw_credentials);
            let mut work = CheckWorker::new(self.contract, saw_credentials, recording, observe());
            work.environment = environment;
            work
        });
        let mut ledger = Ledger::new();
        let mut observers = Vec::new();
        for work in works {
            let (sum, observer) = work.sum(self.is_of_parts);
            ledger.add(sum);
            observers.push(observer);
        }
        let assumption = match saw_credentials.load(Ordering::Relaxed) {
            true => CredentialAssumption::Recorded,
            false => CredentialAssumption::NotRecorded,
        };
        (ledger, ObservedRecording { observers, assumption })
    }
}

/// What one worker has found so far.
///
/// Whether a request without credentials is wrong is only known once any request of the recording was
/// seen to carry some. Until then such exchanges are checked both ways, and the end decides.
struct CheckWorker<'c, O> {
    contract: &'c ErrorContract,
    /// Shared by the workers of a pass.
    saw_credentials: Arc<AtomicBool>,
    recording: u32,
    environment: Option<&'c str>,
    settled: Ledger,
    if_recorded: Ledger,
    if_not: Ledger,
    observer: O,
}

impl<'c, O: CheckObserver> CheckWorker<'c, O> {
    fn new(
        contract: &'c ErrorContract,
        saw_credentials: Arc<AtomicBool>,
        recording: u32,
        observer: O,
    ) -> Self {
        let (settled, if_recorded, if_not) = Default::default();
        let environment = None;
        Self {
            contract,
            saw_credentials,
            recording,
            environment,
            settled,
            if_recorded,
            if_not,
            observer,
        }
    }

    /// What it found, once all workers have come to their end.
    fn sum(self, is_of_part: bool) -> (Ledger, O) {
        let mut sum = self.settled;
        let saw_credentials = self.saw_credentials.load(Ordering::Relaxed);
        if is_of_part {
            let undecided = UndecidedCredentials {
                has_credentials: saw_credentials,
                if_recorded: Some(Box::new(self.if_recorded)),
                if_not: Some(Box::new(self.if_not)),
            };
            sum.enter_undecided(self.recording, undecided);
            return (sum, self.observer);
        }
        sum.add(if saw_credentials { self.if_recorded } else { self.if_not });
        (sum, self.observer)
    }

    /// Checks an exchange that is the service's, and enters the result where the assumption about credentials belongs.
    fn enter<'a>(
        &mut self,
        classification: Classification<'a>,
        url: &str,
        assumption: CredentialAssumption,
    ) where
        'c: 'a,
    {
        let ledger = match assumption {
            CredentialAssumption::None => &mut self.settled,
            CredentialAssumption::Recorded => &mut self.if_recorded,
            CredentialAssumption::NotRecorded => &mut self.if_not,
        };
        let mut classified = match classification {
            Classification::Excluded(reason) => return ledger.exclude(reason, url),
            Classification::Classified(classified) => classified,
        };
        classified.environment = self.environment;
        let result = check_exchange(&classified);
        if !result.findings.is_empty() || !result.observations.is_empty() {
            self.observer.checked(CheckedExchange {
                address: classified.exchange.address,
                row: &classified.row(),
                assumption,
                findings: &result.findings,
                observations: &result.observations,
            });
        }
        ledger.enter(&classified, result);
        if let Some(reason) = classified.broken_content() {
            ledger.unreadable.enter(Unreadable::of_body(classified.exchange, reason));
        }
    }
}

impl<O: CheckObserver> Visitor for CheckWorker<'_, O> {
    fn exchange(&mut self, exchange: &Exchange<'_>) {
        let carries = |name: &String| exchange.request.headers.has(name);
        // Written once: workers that write to what others read slow one another down.
        if !self.saw_credentials.load(Ordering::Relaxed)
            && self.contract.credentials.iter().any(carries)
        {
            self.saw_credentials.store(true, Ordering::Relaxed);
        }
        let classification = classify(exchange, self.contract, Credentials::Recorded);
        let is_open = !self.saw_credentials.load(Ordering::Relaxed)
            && matches!(&classification, Classification::Classified(classified)
                if classified.situations.holds.contains(Situation::MissingCredentials));
        if is_open {
            self.enter(classification, &exchange.request.url, CredentialAssumption::Recorded);
            let other = classify(exchange, self.contract, Credentials::NotRecorded);
            self.enter(other, &exchange.request.url, CredentialAssumption::NotRecorded);
            self.if_not.without_credentials.insert(self.recording);
        } else {
            self.enter(classification, &exchange.request.url, CredentialAssumption::None);
        }
    }

    fn on_unreadable(&mut self, unreadable: Unreadable) {
        self.settled.unreadable.enter(unreadable);
    }
}
