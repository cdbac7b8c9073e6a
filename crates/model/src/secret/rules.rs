//! Secrets that a contract declares.

use std::collections::BTreeSet;

use regex::Regex;

/// What a contract says is a secret, beside what is one anyway.
#[derive(Debug, Clone, Default)]
pub struct SecretRules {
    /// Header fields whose value is a secret.
    pub headers: Vec<String>,
    /// Members of bodies, parameters and cookies whose value is a secret.
    pub names: Vec<String>,
    /// What is a secret wherever it stands.
    pub patterns: Vec<Regex>,
    /// What is none, whatever its place: the contract itself has it, such as a token that has to be refused.
    pub public: BTreeSet<String>,
}
