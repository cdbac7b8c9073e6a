//! Free text, URLs and forms.

use super::Scrubber;
use super::json::DEEPEST;
use super::layers::in_percent;
use super::outline::{begins_as_json, is_json_or_lines};
use super::personal::personal_spans;
use super::scrubber::{SecretLocation, looks_random};
use faithful_clerk_model::secret::{SecretKind, SecretSpan, random_spans, spans};

/// Parameters of redirects that carry a secret, where they carry anything but a word (RFC 6749 section 4.1.2).
const GRANTS: [&str; 4] = ["code", "state", "nonce", "ticket"];

impl Scrubber<'_> {
    /// Replaces what is a secret by its form, by the name before it, or since it is one elsewhere.
    pub(super) fn text(&mut self, text: &str, location: SecretLocation<'_>) -> Option<String> {
        let mut found = spans(text)
            .unwrap_or_else(|| vec![SecretSpan { range: 0..text.len(), kind: SecretKind::Named }]);
        for pattern in &self.rules.patterns {
            let declared = pattern.find_iter(text).filter(|found| !found.is_empty());
            found.extend(
                declared.map(|m| SecretSpan { range: m.range(), kind: SecretKind::Declared }),
            );
        }
        if self.is_personal {
            let personal = personal_spans(text).into_iter();
            found.extend(personal.map(|range| SecretSpan { range, kind: SecretKind::Personal }));
        }
        let repeated = self.repeated(text).into_iter();
        found.extend(repeated.map(|range| SecretSpan { range, kind: SecretKind::Repeated }));
        found.sort_by_key(|span| (span.range.start, std::cmp::Reverse(span.range.end)));
        if found.is_empty() {
            self.left(text, location);
            return None;
        }
        let (mut new, mut at) = (String::new(), 0);
        for span in found {
            let Some(secret) = text.get(span.range.clone()) else { continue };
            // What reaches into the one before is a secret already.
            if span.range.start < at {
                continue;
            }
            if let Some(pseudonym) = self.secret(secret, span.kind, location) {
                let before = text.get(at..span.range.start).unwrap_or_default();
                self.left(before, location);
                new.push_str(before);
                new.push_str(&pseudonym);
                at = span.range.end;
            }
        }
        let rest = text.get(at..).unwrap_or_default();
        self.left(rest, location);
        new.push_str(rest);
        (at > 0).then_some(new)
    }

    /// Replaces in a name, in which most often there is nothing.
    pub(super) fn name(&mut self, name: &str, location: SecretLocation<'_>) -> Option<String> {
        if self.memory.is_plain(name) {
            return None;
        }
        let new = self.text(name, location);
        if new.is_none() && !name.starts_with(['{', '[']) && !name.contains(['?', '/']) {
            self.memory.enter_plain(name, || random_spans(name).next().is_none());
        }
        new
    }

    /// Replaces in a URL: user information, parameters by their names, and what stands in its path.
    pub(super) fn url(&mut self, url: &str) -> Option<String> {
        let (before, rest) = match url.find(['?', '#']) {
            Some(at) => url.split_at(at),
            None => (url, ""),
        };
        let new_before = self.text(before, SecretLocation::of("URL"));
        let mut new_rest = String::new();
        for part in rest.split_inclusive(['?', '#', '&', ';']) {
            let sign = part.len() - part.trim_end_matches(['?', '#', '&', ';']).len();
            let (pair, sign) = part.split_at(part.len() - sign);
            new_rest.push_str(&self.pair(pair).unwrap_or_else(|| pair.to_owned()));
            new_rest.push_str(sign);
        }
        let new = format!("{}{new_rest}", new_before.as_deref().unwrap_or(before));
        (new != url).then_some(new)
    }

    /// Replaces in the body of a form.
    pub(super) fn form(&mut self, form: &str) -> Option<String> {
        let pairs = form.split('&').map(|pair| self.pair(pair).unwrap_or_else(|| pair.to_owned()));
        let new = pairs.collect::<Vec<_>>().join("&");
        (new != form).then_some(new)
    }

    /// A name with a value, percent-encoded.
    fn pair(&mut self, pair: &str) -> Option<String> {
        let Some((name, value)) = pair.split_once('=') else {
            return self.text(pair, SecretLocation::of("URL"));
        };
        let new = self.parameter(name, value)?;
        Some(format!("{name}={new}"))
    }

    /// The value of a parameter, as it is encoded.
    pub(super) fn parameter(&mut self, name: &str, value: &str) -> Option<String> {
        let name = name.trim_start_matches(['?', '#', '&']);
        let name = faithful_clerk_model::percent::decode(name).unwrap_or_else(|| name.to_owned());
        let location = SecretLocation::named("parameter", &name);
        let is_grant = GRANTS.iter().any(|grant| grant.eq_ignore_ascii_case(&name));
        let is_grant = is_grant && looks_random(value);
        match self.is_secret(&name).or(is_grant.then_some(SecretKind::Named)) {
            Some(kind) => in_percent(value, &mut |value| self.secret(value, kind, location)),
            // A parameter may hold JSON, or another URL with parameters.
            None if self.nesting < DEEPEST => {
                self.nesting += 1;
                let new = in_percent(value, &mut |value| self.any(value, location, DEEPEST));
                self.nesting -= 1;
                new
            }
            None => in_percent(value, &mut |value| self.text(value, location)),
        }
    }

    /// Any text: JSON, a URL, or words.
    pub(super) fn any(
        &mut self,
        text: &str,
        location: SecretLocation<'_>,
        depth: usize,
    ) -> Option<String> {
        if self.memory.is_plain(text) {
            return None;
        }
        let start = text.trim_start();
        let is_url = text.contains("://") || (start.starts_with('/') && text.contains('?'));
        let is_json = || is_json_or_lines(text) || begins_as_json(text);
        let begins = start.starts_with(['{', '[']);
        if begins && depth > 0 && is_json() {
            self.json(text, super::json::MessageSide::Request, depth - 1)
        } else if is_url && !text.contains(char::is_whitespace) {
            self.url(text)
        } else {
            let new = self.text(text, location);
            // At another depth, it may be read as JSON.
            if new.is_none() && !begins {
                // What looks random is counted each time.
                self.memory.enter_plain(text, || random_spans(text).next().is_none());
            }
            new
        }
    }
}
