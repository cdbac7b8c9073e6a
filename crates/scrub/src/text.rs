//! Free text, URLs and forms.

use std::borrow::Cow;

use super::Scrubber;
use super::json::DEEPEST;
use super::layers::in_percent;
use super::memory::NameFacts;
use super::personal::personal_spans;
use super::replacements::Replacements;
use super::scrubber::{SecretLocation, looks_random};
use super::tape::{begins_as_json, is_json_or_lines};
use faithful_clerk_model::secret::{SecretKind, SecretSpan, TextSigns, spans};

/// Parameters of redirects that carry a secret, where they carry anything but a word (RFC 6749 section 4.1.2).
const GRANTS: [&str; 4] = ["code", "state", "nonce", "ticket"];

impl Scrubber<'_> {
    /// Replaces what is a secret by its form, by the name before it, or since it is one elsewhere.
    pub(super) fn text(&mut self, text: &str, location: SecretLocation<'_>) -> Option<String> {
        self.text_with(text, TextSigns::of(text), location)
    }

    fn text_with(
        &mut self,
        text: &str,
        signs: TextSigns,
        location: SecretLocation<'_>,
    ) -> Option<String> {
        if self.is_quiet(signs) {
            return None;
        }
        self.note_words(text);
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
        let repeated = self.repeated(text, signs).into_iter();
        found.extend(repeated.map(|range| SecretSpan { range, kind: SecretKind::Repeated }));
        found.sort_by_key(|span| (span.range.start, std::cmp::Reverse(span.range.end)));
        if found.is_empty() {
            self.left(text, location);
            return None;
        }
        let (mut new, mut at) = (String::new(), 0);
        for span in found {
            let Some(secret) = text.get(span.range.clone()) else { continue };
            // What reaches into the one before is replaced already.
            if span.range.start < at {
                self.collect(secret, span.kind);
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
    pub(super) fn name(
        &mut self,
        name: &str,
        facts: NameFacts,
        location: SecretLocation<'_>,
    ) -> Option<String> {
        let before = (self.effects, self.words.len());
        let new = self.text(name, location);
        if self.effects == before.0 && self.words.since(before.1) == Some(&[]) {
            self.memory.enter_plain_name(name, facts);
        }
        new
    }

    /// Replaces in a URL: user information, parameters by their names, and what stands in its path.
    pub(super) fn url(&mut self, url: &str) -> Option<String> {
        let is_end = |byte: &u8| matches!(byte, b'?' | b'#' | b'&' | b';');
        let first = url.bytes().position(|byte| matches!(byte, b'?' | b'#')).unwrap_or(url.len());
        let mut edits = Replacements::of(url);
        if let Some(new) =
            self.text(url.get(..first).unwrap_or_default(), SecretLocation::of("URL"))
        {
            edits.replace(0..first, &new);
        }
        let mut at = first;
        while let Some(rest) = url.as_bytes().get(at..).filter(|rest| !rest.is_empty()) {
            let end = at + rest.iter().position(is_end).unwrap_or(rest.len());
            if let Some(new) = self.pair(url.get(at..end).unwrap_or_default()) {
                edits.replace(at..end, &new);
            }
            at = end + 1;
        }
        edits.done()
    }

    /// Replaces in the body of a form.
    pub(super) fn form(&mut self, form: &str) -> Option<String> {
        let (mut edits, mut at) = (Replacements::of(form), 0);
        for pair in form.split('&') {
            if let Some(new) = self.pair(pair) {
                edits.replace(at..at + pair.len(), &new);
            }
            at += pair.len() + 1;
        }
        edits.done()
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
        let name = match name.contains('%') {
            true => faithful_clerk_model::percent::decode(name).map(Cow::Owned),
            false => None,
        }
        .unwrap_or(Cow::Borrowed(name));
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
        let signs = TextSigns::of(text);
        let first = text.bytes().find(|byte| !byte.is_ascii_whitespace());
        let is_url = signs.has_scheme || (first == Some(b'/') && text.contains('?'));
        let is_json = || is_json_or_lines(text) || begins_as_json(text);
        if matches!(first, Some(b'{' | b'[')) && depth > 0 && is_json() {
            self.json(text, super::json::MessageSide::Request, depth - 1)
        } else if is_url && !text.contains(char::is_whitespace) {
            self.url(text)
        } else {
            self.text_with(text, signs, location)
        }
    }
}
