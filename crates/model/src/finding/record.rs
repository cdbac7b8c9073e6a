//! A finding.

use serde::Serialize;

use super::{Because, Expected, Got, NotChecked, Severity};
use crate::address::{Address, Location};

/// One clause broken at one location of one exchange.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Finding {
    /// The clause's name.
    pub clause: &'static str,
    /// How much it counts here.
    pub severity: Severity,
    /// Which exchange.
    pub address: Address,
    /// Where in it.
    pub location: Location,
    /// What the contract or the standard expects there.
    pub expected: Expected,
    /// What is there.
    pub got: Got,
    /// How the situation was recognised, or what else shows it.
    pub because: Option<Because>,
    /// What could not be checked because of it.
    pub not_checked: Option<NotChecked>,
    /// An exchange in which it is as expected, where exchanges were compared.
    pub conforming: Option<Address>,
}
