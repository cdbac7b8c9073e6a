//! How errors look, and the regions of a service in which they look different.

use crate::envelope::Envelope;
use crate::model::{CaseSensitivity, ErrorRule, FaultId};
use crate::path_pattern::PathPattern;
use crate::rules::Rules;
use crate::servers::Server;
use crate::validation_errors::ValidationErrorRule;

/// How errors look: everywhere, or in a region.
#[derive(Debug, Clone, Default)]
pub struct ErrorStyle {
    /// What holds for every error response unless its fault says otherwise.
    pub error: ErrorRule,
    /// Where things stand in a body that is no problem.
    pub envelope: Envelope,
    /// How invalid locations are written.
    pub validation_errors: ValidationErrorRule,
}

/// The place of a region in [`ErrorContract::regions`](crate::ErrorContract::regions).
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct RegionId(pub usize);

/// A part of the service, by a pattern of paths.
#[derive(Debug)]
pub struct Region {
    /// Its pattern, as the contract writes it.
    pub name: String,
    /// How errors look in it.
    pub style: ErrorStyle,
    /// What holds where a request in it leads to no endpoint.
    pub rules: Rules,
    /// The faults that it names itself.
    pub own_faults: Vec<FaultId>,
    /// Its own base URLs; none: it is on those of the service.
    pub servers: Vec<Server>,
    pub pattern: PathPattern,
}

impl Region {
    /// How specific its pattern is, if the path lies in it.
    pub(super) fn fits(&self, path: &[impl AsRef<str>], letters: CaseSensitivity) -> Option<usize> {
        self.pattern.fits(path, letters)
    }
}
