//! Parses a contract's text: one file a table, on top of typed access to TOML values.

mod base;
mod case;
mod digest;
mod endpoint;
mod envelope;
mod fault;
mod group;
mod key_lines;
mod keys;
mod member_rules;
mod named_types;
mod parser;
mod partial;
mod region;
mod repair;
mod rule_keys;
mod service;
mod shapes;
mod unmatched;
mod validation_errors;
mod values;
mod waiver;

pub use keys::contract_keys;
pub use parser::ParsedContract;
