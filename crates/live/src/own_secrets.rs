//! The credentials that a probe sends: a service may echo them, and no recording is to have them.

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;

/// Shorter texts are no secrets, and would be found in words.
const SHORTEST: usize = 6;

/// The credentials of a probe, in every form in which they come back.
#[derive(Debug, Clone, Default)]
pub(crate) struct OwnSecrets {
    /// The longest first.
    texts: Vec<Vec<u8>>,
}

impl OwnSecrets {
    pub(crate) fn of<'v>(values: impl Iterator<Item = &'v str>) -> Self {
        let mut texts: Vec<String> = Vec::new();
        for value in values {
            let behind = value.split_once(' ').map_or(value, |(_, behind)| behind.trim());
            texts.extend([value.to_owned(), behind.to_owned()]);
            // User and password (RFC 7617).
            let pair = STANDARD.decode(behind).ok().and_then(|pair| String::from_utf8(pair).ok());
            if let Some((user, password)) = pair.as_deref().and_then(|pair| pair.split_once(':')) {
                texts.extend([format!("{user}:{password}"), password.to_owned()]);
            }
        }
        let coded = texts.clone().into_iter().flat_map(|text| {
            let json = serde_json::Value::from(text.as_str()).to_string();
            let json = json.trim_matches('"').to_owned();
            let percent = faithful_clerk_model::percent::encode_segment(&text);
            [json, percent, STANDARD.encode(&text)]
        });
        let coded: Vec<String> = coded.collect();
        texts.extend(coded);
        texts.retain(|text| text.len() >= SHORTEST);
        texts.sort_by(|one, other| other.len().cmp(&one.len()).then_with(|| one.cmp(other)));
        texts.dedup();
        Self { texts: texts.into_iter().map(String::into_bytes).collect() }
    }

    /// Puts as many asterisks in their place.
    pub(crate) fn hide(&self, bytes: &mut [u8]) {
        for text in &self.texts {
            let found: Vec<usize> = memchr::memmem::find_iter(bytes, text).collect();
            for at in found {
                if let Some(echo) = bytes.get_mut(at..at + text.len()) {
                    echo.fill(b'*');
                }
            }
        }
    }

    /// The same in a text.
    pub(crate) fn hide_in(&self, text: &mut String) {
        let mut bytes = std::mem::take(text).into_bytes();
        self.hide(&mut bytes);
        // Whole characters were replaced by others.
        *text = String::from_utf8_lossy(&bytes).into_owned();
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_echo_is_hidden_in_every_form() {
        let basic = format!("Basic {}", STANDARD.encode("quay:tide/7\"x"));
        let own = OwnSecrets::of(["Bearer q7x9k2m4", &basic].into_iter());
        for echo in [
            "q7x9k2m4",
            "Bearer q7x9k2m4",
            &STANDARD.encode("q7x9k2m4"),
            "tide/7\"x",
            "tide/7\\\"x",
            "tide%2F7%22x",
            &basic,
        ] {
            let mut text = format!("no token {echo} here");
            own.hide_in(&mut text);
            assert!(
                !text.contains(echo) && text.contains("no token ") && text.contains(" here"),
                "{text}"
            );
        }
    }
}
