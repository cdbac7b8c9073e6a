//! Bodies of several parts, and markup.

use super::Scrubber;
use super::scrubber::SecretLocation;
use faithful_clerk_model::secret::SecretKind;

impl Scrubber<'_> {
    /// Replaces in a body of several parts (RFC 7578): a field by its name, or as what it is.
    pub(super) fn multipart(&mut self, body: &str, media: &str) -> Option<String> {
        let boundary = media.split(';').find_map(|part| part.trim().strip_prefix("boundary="))?;
        let line = format!("--{}", boundary.trim_matches('"'));
        let mut new = String::with_capacity(body.len());
        for (number, part) in body.split(line.as_str()).enumerate() {
            if number > 0 {
                new.push_str(&line);
            }
            new.push_str(&self.field(part).unwrap_or_else(|| part.to_owned()));
        }
        (new != body).then_some(new)
    }

    /// A part with its header fields.
    fn field(&mut self, part: &str) -> Option<String> {
        let (head, blank) = ["\r\n\r\n", "\n\n"]
            .into_iter()
            .filter_map(|blank| part.find(blank).map(|at| (at, blank)))
            .min()?;
        let (head, value) = part.split_at_checked(head + blank.len())?;
        let name = head.split("name=").nth(1).unwrap_or_default();
        let name = match name.strip_prefix('"') {
            Some(quoted) => quoted.split('"').next().unwrap_or_default(),
            None => name.split([';', '\r', '\n']).next().unwrap_or_default(),
        };
        let plain = value.trim_end_matches(['\r', '\n']);
        let behind = value.get(plain.len()..).unwrap_or_default();
        let location = SecretLocation::named("field", name);
        let new = match self.is_secret(name) {
            Some(kind) => self.secret(plain, kind, location),
            None => self.any(plain, location, super::json::DEEPEST),
        }?;
        Some(format!("{head}{new}{behind}"))
    }

    /// Replaces in markup: elements by their names, all else as text. Attributes are found there by theirs.
    pub(super) fn markup(&mut self, body: &str, location: SecretLocation<'_>) -> Option<String> {
        let mut new = String::with_capacity(body.len());
        let mut named: Option<(SecretKind, &str)> = None;
        for (number, piece) in body.split('<').enumerate() {
            if number > 0 {
                new.push('<');
            }
            let (tag, content) = match piece.find('>') {
                Some(end) if number > 0 => piece.split_at_checked(end + 1).unwrap_or((piece, "")),
                _ => ("", piece),
            };
            if !tag.is_empty() {
                let name = tag.split([' ', '\t', '\r', '\n', '>', '/']).next().unwrap_or_default();
                let name = name.rsplit(':').next().unwrap_or_default();
                named = self.is_secret(name).map(|kind| (kind, name));
                new.push_str(&self.text(tag, location).unwrap_or_else(|| tag.to_owned()));
            }
            let plain = content.trim();
            let replaced = match named {
                Some((kind, name)) => {
                    let pseudonym =
                        self.secret(plain, kind, SecretLocation::named("element", name));
                    pseudonym.map(|pseudonym| content.replacen(plain, &pseudonym, 1))
                }
                None => self.text(content, location),
            };
            new.push_str(&replaced.unwrap_or_else(|| content.to_owned()));
        }
        (new != body).then_some(new)
    }
}

#[cfg(test)]
mod tests {
    use crate::{ScrubKey, Scrubber};
    use faithful_clerk_model::secret::SecretRules;

    #[test]
    fn fields_and_elements_tell_by_their_names() {
        let rules = SecretRules::default();
        let mut scrubber = Scrubber::new(&rules, ScrubKey::new([]));
        scrubber.begin();
        let form = "--b\r\nContent-Disposition: form-data; name=\"password\"\r\n\r\nhunter2-7\r\n--b\r\nContent-Disposition: form-data; name=\"boat\"\r\n\r\nTern\r\n--b--\r\n";
        let new = scrubber.multipart(form, "multipart/form-data; boundary=\"b\"").unwrap();
        assert!(
            new.len() == form.len() && !new.contains("hunter2") && new.contains("Tern"),
            "{new}"
        );
        let xml = "<a:login><a:password>hunter2-7</a:password><boat pwd=\"q7x9k2m4\">Tern</boat></a:login>";
        let location = super::SecretLocation::of("body");
        let new = scrubber.markup(xml, location).unwrap();
        assert!(new.len() == xml.len() && new.contains("Tern"), "{new}");
        assert!(!new.contains("hunter2") && !new.contains("q7x9k2m4"), "{new}");
    }
}
