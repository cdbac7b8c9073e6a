//! What a file is that is given in the place of another: told by its first bytes.

use std::fs::File;
use std::io::Read as _;
use std::path::Path;

use faithful_clerk_check::ledger::CHECK_LEDGER;
use faithful_clerk_insight::survey::SURVEY_LEDGER;

/// So much of a file is looked at.
const LOOKED_AT: usize = 8 << 10;

/// A file that is something else than what a call needs there.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum FileKind {
    /// An error contract.
    Contract,
    /// An OpenAPI description.
    Description,
    /// A recording.
    Recording,
    /// A ledger of a check.
    CheckLedger,
    /// A ledger of a survey.
    SurveyLedger,
    /// A ZIP archive.
    Zip,
    /// Text in UTF-16.
    Utf16,
    /// Compressed with gzip or zstd.
    Compressed,
}

impl FileKind {
    /// What these bytes are the start of, where it can be told at once.
    pub(crate) fn of_bytes(bytes: &[u8]) -> Option<Self> {
        let bytes = bytes.get(..LOOKED_AT).unwrap_or(bytes);
        match bytes {
            [b'P', b'K', 3, 4, ..] => return Some(Self::Zip),
            [0xFF, 0xFE, ..] | [0xFE, 0xFF, ..] => return Some(Self::Utf16),
            [0x1F, 0x8B, ..] | [0x28, 0xB5, 0x2F, 0xFD, ..] => return Some(Self::Compressed),
            _ => {}
        }
        let text = String::from_utf8_lossy(bytes);
        let text = text.trim_start_matches('\u{feff}').trim_start();
        if let Some(members) = text.strip_prefix('{') {
            let is_har = members.trim_start().starts_with("\"log\"");
            let has = |name: &str| {
                members.match_indices(name).any(|(at, _)| {
                    members
                        .get(at + name.len()..)
                        .is_some_and(|rest| rest.trim_start().starts_with(':'))
                })
            };
            let format = members.trim_start().strip_prefix("\"format\"").unwrap_or_default();
            let is_ledger = |name: &str| format.starts_with(&format!(":\"{name}\""));
            return if is_ledger(CHECK_LEDGER) {
                Some(Self::CheckLedger)
            } else if is_ledger(SURVEY_LEDGER) {
                Some(Self::SurveyLedger)
            } else if is_har || has("\"request\"") && has("\"response\"") {
                Some(Self::Recording)
            } else if has("\"openapi\"") || has("\"swagger\"") {
                Some(Self::Description)
            } else {
                None
            };
        }
        let is_said = |line: &&str| !line.is_empty() && !line.starts_with('#') && *line != "---";
        let first = text.lines().map(str::trim_end).find(is_said)?;
        let is_key = |name: &str, sign: char| {
            first.strip_prefix(name).is_some_and(|rest| rest.trim_start().starts_with(sign))
        };
        if is_key("openapi", ':') || is_key("swagger", ':') {
            Some(Self::Description)
        } else if is_key("contract", '=') {
            Some(Self::Contract)
        } else {
            None
        }
    }

    /// What a file is, where it can be read and told at once.
    pub(crate) fn of_file(path: &Path) -> Option<Self> {
        let mut start = Vec::new();
        File::open(path).ok()?.take(LOOKED_AT as u64).read_to_end(&mut start).ok()?;
        Self::of_bytes(&start)
    }

    /// Why it is no recording, and what to do.
    pub(crate) fn not_a_recording(self, name: &str) -> Option<String> {
        Some(match self {
            Self::Contract => format!(
                "{name} is a contract, not a recording; name it with `--contract {name}`, and recordings behind the options"
            ),
            Self::Description => format!(
                "{name} is an OpenAPI description, not a recording; a contract names it with `openapi = \"{name}\"`"
            ),
            Self::CheckLedger => format!(
                "{name} is a ledger of a check, not a recording; `fclerk merge` and `fclerk coverage` read those"
            ),
            Self::SurveyLedger => format!(
                "{name} is a ledger of a survey, not a recording; `fclerk merge` and `fclerk draft --from-ledger` read those"
            ),
            Self::Zip => {
                format!("{name} is a ZIP archive; unpack it, and give its files or their folder")
            }
            Self::Utf16 => format!(
                "{name} is UTF-16, and recordings are UTF-8; convert it, for example with `iconv -f UTF-16 -t UTF-8`"
            ),
            Self::Recording | Self::Compressed => return None,
        })
    }

    /// Why it is no contract, and what to do.
    pub(crate) fn not_a_contract(self, name: &str) -> Option<String> {
        Some(match self {
            Self::Description => format!(
                "{name} is an OpenAPI description, not a contract; write a contract with the lines `contract = 1` and `openapi = \"{name}\"`, or draft one with `fclerk draft RECORDING --openapi {name}`"
            ),
            Self::Recording => format!(
                "{name} is a recording, not a contract; draft a contract from it with `fclerk draft {name} --output error-contract.toml`"
            ),
            Self::Zip | Self::Compressed => {
                format!("{name} is compressed; a contract is plain text, so unpack it first")
            }
            Self::Utf16 => format!("{name} is UTF-16, and a contract is UTF-8; save it as UTF-8"),
            Self::CheckLedger | Self::SurveyLedger => format!("{name} is a ledger, not a contract"),
            Self::Contract => return None,
        })
    }

    /// Why a contract can't use it as a description or a schema.
    pub(crate) fn not_a_text(self) -> Option<&'static str> {
        match self {
            Self::Zip | Self::Compressed => Some("it is compressed; unpack it first"),
            Self::Utf16 => Some("it is UTF-16; save it as UTF-8"),
            Self::Contract
            | Self::Description
            | Self::Recording
            | Self::CheckLedger
            | Self::SurveyLedger => None,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_file_is_told_by_its_first_bytes() {
        for (bytes, kind) in [
            (&b"PK\x03\x04rest"[..], Some(FileKind::Zip)),
            (b"\xff\xfe{\x00", Some(FileKind::Utf16)),
            (b"\x1f\x8b\x08", Some(FileKind::Compressed)),
            (b"{\"log\": {\"entries\": []}}", Some(FileKind::Recording)),
            (b"{\"request\":{},\"response\":{}}", Some(FileKind::Recording)),
            (b"{\"format\":\"fclerk ledger\",\"version\":1", Some(FileKind::CheckLedger)),
            (b"{\"format\":\"fclerk survey ledger\",\"version\":1", Some(FileKind::SurveyLedger)),
            (b"\xef\xbb\xbf{\"info\":{},\"openapi\" : \"3.1.0\"}", Some(FileKind::Description)),
            (b"---\n# ours\nopenapi: 3.1.0\n", Some(FileKind::Description)),
            (b"# ours\ncontract = 1\n", Some(FileKind::Contract)),
            // A recorded request for a description is a recording.
            (b"{\"request\":{\"url\":\"/openapi.json\"},\"response\":{\"text\":\"{\\\"openapi\\\":1}\"}}", Some(FileKind::Recording)),
            (b"GET /openapi.yaml HTTP/1.1\r\n\r\nopenapi: 3", None),
            (b"", None),
        ] {
            assert_eq!(FileKind::of_bytes(bytes), kind, "{}", String::from_utf8_lossy(bytes));
        }
    }
}
