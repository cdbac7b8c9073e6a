//! The kinds of disclosures.

use serde::{Deserialize, Serialize};

/// What kind of thing was told.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum DisclosureKind {
    /// A stack trace.
    StackTrace,
    /// A page that a framework makes for debugging, or its table of routes.
    DebugPage,
    /// A password, a token, a key, or a connection string with one.
    Secret,
    /// The database's own words, or the names of its parts.
    Database,
    /// What the process was started with.
    Environment,
    /// A path in the server's file system.
    FilePath,
    /// A class, a package, or the words of a runtime.
    CodeName,
    /// A host or an address that is not public.
    InternalHost,
    /// What software it is, and which version.
    Version,
}

impl DisclosureKind {
    /// What is disclosed, in words.
    #[must_use]
    pub fn words(self) -> &'static str {
        match self {
            Self::StackTrace => "stack trace",
            Self::DebugPage => "debug page",
            Self::Secret => "password, token or key",
            Self::Database => "database error text",
            Self::Environment => "environment settings",
            Self::FilePath => "path on the server",
            Self::CodeName => "names from the service's code",
            Self::InternalHost => "internal host or address",
            Self::Version => "version",
        }
    }

    /// Does this one follow from that other one, where both stand in one text?
    ///
    /// A trace is full of paths and classes, and a connection string has a host.
    #[must_use]
    pub fn follows_from(self, other: Self) -> bool {
        match other {
            Self::StackTrace => {
                !matches!(self, Self::StackTrace | Self::Secret | Self::Environment)
            }
            Self::DebugPage => matches!(self, Self::FilePath | Self::CodeName | Self::Version),
            Self::Secret => matches!(self, Self::InternalHost | Self::Database | Self::Environment),
            Self::Database => matches!(self, Self::CodeName | Self::InternalHost),
            Self::Environment => self == Self::FilePath,
            Self::FilePath => self == Self::CodeName,
            _ => false,
        }
    }
}
