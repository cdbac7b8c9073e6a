//! A survey of one part of the recordings as a file, to be added to those of other parts.
//!
//! One JSON object, format `fclerk survey ledger`, version 1. It holds what was gathered, before anything is inferred from
//! it: no body, and no secret that is not masked.

use std::fmt;

use serde::de::{DeserializeSeed, Deserializer, IgnoredAny, MapAccess, SeqAccess, Visitor};
use serde::{Deserialize, Serialize};

use super::survey_data::SurveyData;
use faithful_clerk_check::ledger::{LEDGER_VERSION, LedgerError, LedgerHead, LedgerSources};
use faithful_clerk_model::invisible::escaped_json;

/// The name of the format of what a survey gathered.
pub const SURVEY_LEDGER: &str = "fclerk survey ledger";

/// What a survey gathered of a part of the recordings.
#[derive(Debug, Clone, Default)]
pub struct SurveyLedger {
    /// What was seen.
    pub data: SurveyData,
    /// What was seen at the paths of a description's servers on any host, where nothing was at the servers themselves. It
    /// counts where that is so in all parts.
    pub elsewhere: Option<SurveyData>,
}

#[derive(Debug, Serialize)]
struct WrittenFile<'l> {
    format: &'static str,
    version: u32,
    contract: &'l str,
    #[serde(flatten)]
    sources: &'l LedgerSources,
    sum: &'l SurveyData,
    #[serde(skip_serializing_if = "Option::is_none")]
    elsewhere: Option<&'l SurveyData>,
}

#[derive(Debug, Deserialize)]
struct ReadFile {
    sum: SurveyData,
    elsewhere: Option<SurveyData>,
}

impl SurveyLedger {
    /// The ledger as the text of a file. `contract` is the digest of the contract or description that defines endpoints.
    ///
    /// # Errors
    /// Only if serde can't write what is text, numbers and lists.
    pub fn save(
        &self,
        contract: &str,
        sources: &LedgerSources,
    ) -> Result<String, serde_json::Error> {
        let file = WrittenFile {
            format: SURVEY_LEDGER,
            version: LEDGER_VERSION,
            contract,
            sources,
            sum: &self.data,
            elsewhere: self.elsewhere.as_ref(),
        };
        Ok(escaped_json(serde_json::to_string(&file)? + "\n"))
    }

    /// Reads what a ledger is of, and nothing else of it. `contract` is the digest that it has to have.
    ///
    /// # Errors
    /// Where it is none, or was made with another contract or description.
    pub fn sources(text: &str, contract: &str) -> Result<LedgerSources, LedgerError> {
        let head = LedgerHead::read(text, SURVEY_LEDGER)?;
        let is_same = head.contract == contract;
        if is_same { LedgerSources::read(text) } else { Err(LedgerError::OtherContract) }
    }

    /// Reads a ledger. `number` gives a recording's place in the run by its name.
    ///
    /// # Errors
    /// Where it is none, or was written by a program of another time.
    pub fn read(text: &str, number: impl Fn(&str) -> u32) -> Result<Self, LedgerError> {
        LedgerHead::read(text, SURVEY_LEDGER)?;
        let fail = |error: serde_json::Error| LedgerError::NotALedger(error.to_string());
        let mut numbers = serde_json::Deserializer::from_str(text);
        SmallNumbers.deserialize(&mut numbers).map_err(fail)?;
        let ReadFile { sum, elsewhere } = serde_json::from_str(text).map_err(fail)?;
        let names = LedgerSources::read(text)?.recordings;
        let numbers: Vec<u32> = names.iter().map(|name| number(name)).collect();
        let renumbered = |mut of: SurveyData| {
            of.renumber(&numbers).ok_or_else(|| {
                let why = "an address is in a recording that it does not name";
                LedgerError::NotALedger(why.to_owned())
            })?;
            // What is bounded is bounded as it is added.
            let mut sum = SurveyData::default();
            sum.add(of);
            Ok(sum)
        };
        Ok(Self { data: renumbered(sum)?, elsewhere: elsewhere.map(renumbered).transpose()? })
    }

    /// Adds that of another part.
    pub fn add(&mut self, other: Self) {
        self.data.add(other.data);
        if let Some(other) = other.elsewhere {
            self.elsewhere.get_or_insert_default().add(other);
        }
    }

    /// What counts: what was seen at the servers, or else at their paths on any host, and whether it is the latter.
    #[must_use]
    pub fn decided(self) -> (SurveyData, bool) {
        match self.elsewhere {
            Some(elsewhere) if self.data.exchanges == 0 => (elsewhere, true),
            _ => (self.data, false),
        }
    }
}

/// Walks over JSON, and lets no number pass whose sums may overflow.
#[derive(Clone, Copy)]
struct SmallNumbers;

impl<'de> DeserializeSeed<'de> for SmallNumbers {
    type Value = ();

    fn deserialize<D: Deserializer<'de>>(self, deserializer: D) -> Result<(), D::Error> {
        deserializer.deserialize_any(self)
    }
}

impl<'de> Visitor<'de> for SmallNumbers {
    type Value = ();

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("a ledger")
    }

    fn visit_u64<E: serde::de::Error>(self, number: u64) -> Result<(), E> {
        match number {
            0..=0x20_0000_0000_0000 => Ok(()),
            _ => Err(E::custom("a number beyond 2^53")),
        }
    }

    fn visit_bool<E>(self, _: bool) -> Result<(), E> {
        Ok(())
    }

    fn visit_str<E>(self, _: &str) -> Result<(), E> {
        Ok(())
    }

    fn visit_unit<E>(self) -> Result<(), E> {
        Ok(())
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut seq: A) -> Result<(), A::Error> {
        while seq.next_element_seed(self)?.is_some() {}
        Ok(())
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<(), A::Error> {
        while map.next_key::<IgnoredAny>()?.is_some() {
            map.next_value_seed(self)?;
        }
        Ok(())
    }
}
