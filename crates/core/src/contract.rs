//! The contract, and what is wrong with the text of one.

use std::collections::BTreeMap;
use std::error::Error;
use std::fmt;

use faithful_clerk_check::parse_contract_with_files;
use faithful_clerk_contract::{Diagnostic, DiagnosticSeverity, ErrorContract};
use faithful_clerk_schema::FileLoader;

/// A parsed error contract.
///
/// ```
/// use faithful_clerk_core::Contract;
///
/// let text = "contract = 1\nservice = \"Harbour\"\n[endpoint.\"GET /berths\"]\n";
/// let contract = Contract::parse(text)?;
/// assert_eq!(contract.service(), Some("Harbour"));
/// assert_eq!(contract.endpoints().collect::<Vec<_>>(), ["GET /berths"]);
/// # Ok::<(), faithful_clerk_core::ContractErrors>(())
/// ```
#[derive(Debug)]
pub struct Contract {
    pub(crate) inner: ErrorContract,
    warnings: Vec<ContractError>,
}

impl Contract {
    /// Parses a contract that names no files. The language is described in `docs/contract.md`.
    ///
    /// # Errors
    /// Every error in the text, each with its line and column.
    ///
    /// ```
    /// use faithful_clerk_core::Contract;
    ///
    /// let errors = Contract::parse("contract = 1\n[endpoint.\"Get /berths\"]\n").unwrap_err();
    /// let first = errors.iter().next().unwrap();
    /// assert_eq!((first.line, first.column), (2, 12));
    /// assert_eq!(first.message, "the method is `GET`, in capitals");
    /// ```
    pub fn parse(text: &str) -> Result<Self, ContractErrors> {
        Self::parse_with_files(text, &ContractFiles::new())
    }

    /// Parses a contract, with the schemas and descriptions that it names.
    ///
    /// # Errors
    /// Every error in the text, each with its line and column.
    ///
    /// ```
    /// # #[cfg(feature = "json-schema")] {
    /// use faithful_clerk_core::{Contract, ContractFiles};
    ///
    /// let description = r#"{"openapi": "3.1.0", "paths": {"/berths": {"get": {"responses": {"200": {}}}}}}"#;
    /// let files = ContractFiles::new().with("api.json", description);
    /// let contract = Contract::parse_with_files("contract = 1\nopenapi = \"api.json\"\n", &files).unwrap();
    /// assert_eq!(contract.endpoints().collect::<Vec<_>>(), ["GET /berths"]);
    /// # }
    /// ```
    pub fn parse_with_files(text: &str, files: &ContractFiles) -> Result<Self, ContractErrors> {
        let parsed = parse_contract_with_files(text, files);
        let (errors, warnings): (Vec<_>, Vec<_>) = parsed
            .diagnostics
            .iter()
            .partition(|diagnostic| diagnostic.severity == DiagnosticSeverity::Error);
        let located = |all: Vec<&Diagnostic>| {
            all.into_iter().map(|diagnostic| ContractError::of(diagnostic, text)).collect()
        };
        match parsed.contract {
            Some(inner) => Ok(Self { inner, warnings: located(warnings) }),
            None => Err(ContractErrors { errors: located(errors) }),
        }
    }

    /// What does not keep the contract from being used, and probably says something else than was meant.
    ///
    /// ```
    /// use faithful_clerk_core::Contract;
    ///
    /// let contract = Contract::parse("contract = 1\n[fault.busy]\nstatus = 503\n[endpoint.\"GET /berths\"]\n").unwrap();
    /// assert!(contract.warnings()[0].message.contains("busy"));
    /// ```
    #[must_use]
    pub fn warnings(&self) -> &[ContractError] {
        &self.warnings
    }

    /// The service's name, where the contract has one.
    #[must_use]
    pub fn service(&self) -> Option<&str> {
        self.inner.service.as_deref()
    }

    /// The endpoints, each as `METHOD /path`, in the order of the contract.
    pub fn endpoints(&self) -> impl Iterator<Item = String> {
        self.inner.endpoints.iter().map(faithful_clerk_contract::Endpoint::name)
    }
}

/// The files that a contract may name: paths as the contract writes them, and their contents.
///
/// ```
/// use faithful_clerk_core::{Contract, ContractFiles};
///
/// let text = "contract = 1\nopenapi = \"api.json\"\n";
/// let error = Contract::parse_with_files(text, &ContractFiles::new()).unwrap_err();
/// assert!(error.to_string().contains("api.json"), "{error}");
/// ```
#[derive(Debug, Clone, Default)]
pub struct ContractFiles(BTreeMap<String, Vec<u8>>);

impl ContractFiles {
    /// No files.
    #[must_use]
    pub fn new() -> Self {
        Self::default()
    }

    /// These and one more.
    #[must_use]
    pub fn with(mut self, path: impl Into<String>, contents: impl Into<Vec<u8>>) -> Self {
        self.0.insert(path.into(), contents.into());
        self
    }
}

impl FileLoader for ContractFiles {
    fn read(&self, path: &str) -> Result<Vec<u8>, String> {
        self.0.get(path).cloned().ok_or_else(|| "no such file was given".to_owned())
    }
}

/// One error in a contract's text.
#[derive(Debug, Clone, PartialEq, Eq, serde::Serialize)]
#[non_exhaustive]
pub struct ContractError {
    /// The line, from 1.
    pub line: usize,
    /// The column in characters, from 1.
    pub column: usize,
    /// What is wrong, in one line.
    pub message: String,
    /// What is wrong at the very place; empty where the message says it all.
    pub label: String,
    /// What would be right.
    pub help: Option<String>,
}

impl ContractError {
    fn of(diagnostic: &Diagnostic, text: &str) -> Self {
        let (line, column) = diagnostic.line_and_column(text);
        Self {
            line,
            column,
            message: diagnostic.message.clone(),
            label: diagnostic.label.clone(),
            help: diagnostic.help.clone(),
        }
    }
}

impl fmt::Display for ContractError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}:{}: {}", self.line, self.column, self.message)?;
        if !self.label.is_empty() {
            write!(f, ": {}", self.label)?;
        }
        self.help.iter().try_for_each(|help| write!(f, " ({help})"))
    }
}

impl Error for ContractError {}

/// Everything that keeps a contract from being used, in the order of its text. There is at least one error.
///
/// ```
/// use faithful_clerk_core::Contract;
///
/// let errors = Contract::parse("contract = 1\nservers = 5\n[endpoint.\"GET /berths\"]\n").unwrap_err();
/// assert!(errors.to_string().starts_with("2:11: `servers` has to be a list"), "{errors}");
/// ```
#[derive(Debug, Clone, PartialEq, Eq, serde::Serialize)]
pub struct ContractErrors {
    errors: Vec<ContractError>,
}

impl ContractErrors {
    /// The errors.
    pub fn iter(&self) -> impl Iterator<Item = &ContractError> {
        self.errors.iter()
    }
}

impl fmt::Display for ContractErrors {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for (at, error) in self.errors.iter().enumerate() {
            if at > 0 {
                f.write_str("\n")?;
            }
            error.fmt(f)?;
        }
        Ok(())
    }
}

impl Error for ContractErrors {}
