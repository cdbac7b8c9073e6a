//! Drafts a contract from what recordings show.

mod toml;

pub use toml::quoted;
