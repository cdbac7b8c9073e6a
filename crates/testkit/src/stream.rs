//! A recording that is made while it is read, so that its size costs nothing.

use std::io::Read;

use crate::chance::Chance;
use crate::entry::{EntryWriter, write};
use crate::exchange::{error, escaped, large, same_finding, success, unique};

/// The format of a recording.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum TrafficFormat {
    /// HAR in one line.
    Compact,
    /// HAR with a line for each member.
    Pretty,
    /// One HAR entry a line.
    Lines,
}

/// What kind of software writes the recording.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Mould {
    /// A gateway: the same members in the same order, each time.
    Gateway,
    /// A browser's developer tools: members sorted by name, initiators of varying depth, `_error: null`, HTTP/2
    /// pseudo-headers.
    DevTools,
    /// A proxy: another order of members, lower-case names, every body in base64.
    Proxy,
    /// Every entry different in its members and their order.
    Ragged,
}

/// What traffic consists of.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Mixture {
    /// One exchange in five is an error, as in usual recordings; bodies are 2 KB, exchanges 4 KB.
    Usual,
    /// The same, with bodies of errors that never repeat.
    Unique,
    /// Nothing but errors, one in twelve not as declared.
    Errors,
    /// Nothing but the same error, with the same findings.
    SameFinding,
    /// Successes with a body of a megabyte each.
    Large,
    /// Bodies that are nearly all backslashes.
    Escaped,
}

/// A recording of so many bytes or a little more, to be read.
#[derive(Debug)]
pub struct Traffic {
    form: TrafficFormat,
    mould: Mould,
    mixture: Mixture,
    chance: Chance,
    left: usize,
    entries: u64,
    /// What is made and not read yet.
    ready: String,
    at: usize,
    ended: bool,
}

impl Traffic {
    /// Traffic of at least so many bytes.
    #[must_use]
    pub fn new(form: TrafficFormat, mixture: Mixture, bytes: usize) -> Self {
        let ready = match form {
            TrafficFormat::Compact => {
                r#"{"log":{"version":"1.2","creator":{"name":"harbour-gateway","version":"1.0"},"entries":["#
            }
            TrafficFormat::Pretty => {
                "{\n  \"log\": {\n    \"version\": \"1.2\",\n    \"entries\": ["
            }
            TrafficFormat::Lines => "",
        };
        let (chance, ready) = (Chance::new(7878), ready.to_owned());
        Self {
            form,
            mould: Mould::Gateway,
            mixture,
            chance,
            left: bytes,
            entries: 0,
            ready,
            at: 0,
            ended: false,
        }
    }

    /// Other traffic of the same kind, for what must not be measured on the traffic that it was made with.
    #[must_use]
    pub fn seeded(mut self, seed: u64) -> Self {
        self.chance = Chance::new(seed);
        self
    }

    /// The same traffic as other software writes it.
    #[must_use]
    pub fn mould(mut self, mould: Mould) -> Self {
        self.mould = mould;
        self
    }

    /// All of it.
    #[must_use]
    pub fn all(mut self) -> String {
        let mut all = String::new();
        while self.more() {
            all.push_str(&self.ready);
            self.at = self.ready.len();
        }
        all
    }

    /// How many exchanges were made so far.
    #[must_use]
    pub fn entries(&self) -> u64 {
        self.entries
    }

    /// Makes the next piece, if nothing is ready; `false` at the end.
    fn more(&mut self) -> bool {
        if self.at < self.ready.len() {
            return true;
        }
        if self.ended {
            return false;
        }
        self.ready.clear();
        self.at = 0;
        if self.left == 0 {
            self.ended = true;
            self.ready.push_str(if self.form == TrafficFormat::Lines { "" } else { "]}}\n" });
            return !self.ready.is_empty();
        }
        let it = match self.mixture {
            Mixture::Usual | Mixture::Unique if self.chance.below(5) > 0 => {
                success(&mut self.chance)
            }
            Mixture::Unique => unique(&mut self.chance),
            Mixture::Usual | Mixture::Errors => error(&mut self.chance),
            Mixture::SameFinding => same_finding(),
            Mixture::Large => large(&mut self.chance),
            Mixture::Escaped => escaped(),
        };
        if self.form != TrafficFormat::Lines && self.entries > 0 {
            self.ready.push(',');
        }
        if self.form == TrafficFormat::Pretty {
            self.ready.push_str("\n      ");
        }
        let depth = (self.form == TrafficFormat::Pretty).then_some(3);
        write(&it, self.mould, &mut self.chance, &mut EntryWriter::new(&mut self.ready, depth));
        if self.form == TrafficFormat::Lines {
            self.ready.push('\n');
        }
        self.entries += 1;
        self.left = self.left.saturating_sub(self.ready.len());
        true
    }
}

impl Read for Traffic {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        if into.is_empty() || !self.more() {
            return Ok(0);
        }
        let rest = self.ready.as_bytes().get(self.at..).unwrap_or_default();
        let length = rest.len().min(into.len());
        let (to, from) = (into.get_mut(..length), rest.get(..length));
        if let (Some(to), Some(from)) = (to, from) {
            to.copy_from_slice(from);
        }
        self.at += length;
        Ok(length)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_same_is_made_however_it_is_read() {
        for form in [TrafficFormat::Compact, TrafficFormat::Pretty, TrafficFormat::Lines] {
            let all = Traffic::new(form, Mixture::Usual, 300_000).all();
            let mut read = String::new();
            Traffic::new(form, Mixture::Usual, 300_000).read_to_string(&mut read).unwrap();
            assert!(all == read && all.len() >= 300_000);
            assert!(all != Traffic::new(form, Mixture::Usual, 300_000).seeded(1).all());
        }
    }
}
