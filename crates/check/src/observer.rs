//! Who wants to know of every exchange while a check runs.

use crate::clauses::Observation;
use faithful_clerk_contract::EndpointRow;
use faithful_clerk_model::address::Address;
use faithful_clerk_model::finding::Finding;

/// What a check assumed about credentials when it checked an exchange.
///
/// Whether a request without credentials is wrong is only known once any request of the recording was seen to carry some.
/// Until then an exchange that this matters for is checked both ways, and the end of the recording decides.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum CredentialAssumption {
    /// None: it does not matter, or it is known.
    None,
    /// That the recording holds credentials.
    Recorded,
    /// That it does not.
    NotRecorded,
}

/// What was found in one exchange.
#[derive(Debug, Clone, Copy)]
pub struct CheckedExchange<'r> {
    /// Which exchange.
    pub address: Address,
    /// Its endpoint.
    pub row: &'r EndpointRow,
    /// Under which assumption.
    pub assumption: CredentialAssumption,
    /// The findings, waived ones included.
    pub findings: &'r [Finding],
    /// What is compared with other exchanges in the end.
    pub observations: &'r [Observation],
}

/// Is told of every exchange that one worker checks, in the order of the recording.
pub trait CheckObserver: Send {
    /// An exchange was checked.
    fn checked(&mut self, checked: CheckedExchange<'_>);
}

/// Nobody.
impl CheckObserver for () {
    fn checked(&mut self, _: CheckedExchange<'_>) {}
}

/// What the observers of one recording were told, and which assumption about credentials was right.
#[derive(Debug)]
pub struct ObservedRecording<O> {
    /// One observer for each worker.
    pub observers: Vec<O>,
    /// The right one.
    pub assumption: CredentialAssumption,
}
