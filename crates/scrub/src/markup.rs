//! Bodies of several parts, and markup.

use super::Scrubber;
use super::scrubber::SecretLocation;
use faithful_clerk_model::secret::SecretKind;

impl Scrubber<'_> {
    /// Replaces in a body of several parts (RFC 7578): a field by its name, or as what it is.
    pub(super) fn multipart(&mut self, body: &str, media: &str) -> Option<String> {
        let location = SecretLocation::of("body");
        let boundary = media.split(';').find_map(|part| {
            let (name, value) = part.split_once('=')?;
            name.trim().eq_ignore_ascii_case("boundary").then(|| value.trim().trim_matches('"'))
        });
        let Some(boundary) = boundary.filter(|boundary| !boundary.is_empty()) else {
            return self.text(body, location);
        };
        let line = format!("--{boundary}");
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
        let ends = ["\r\n\r\n", "\n\n"].into_iter();
        let end = ends.filter_map(|blank| part.find(blank).map(|at| at + blank.len())).min();
        let Some((head, value)) = end.and_then(|end| part.split_at_checked(end)) else {
            return self.text(part, SecretLocation::of("body"));
        };
        let name = head.split([';', '\r', '\n']).find_map(|part| {
            let (name, value) = part.split_once('=')?;
            name.trim().eq_ignore_ascii_case("name").then(|| value.trim().trim_matches('"'))
        });
        let name = name.unwrap_or_default();
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
            if let Some(data) = tag.strip_prefix("![CDATA[") {
                // What stands in it is the element's own text.
                let location = SecretLocation::named("element", named.map_or("", |(_, name)| name));
                let plain = data.strip_suffix("]]>").unwrap_or(data);
                let replaced = match named {
                    Some((kind, _)) => self.secret(plain, kind, location),
                    None => self.text(plain, location),
                };
                new.push_str("![CDATA[");
                new.push_str(&replaced.unwrap_or_else(|| plain.to_owned()));
                new.push_str(data.get(plain.len()..).unwrap_or_default());
                new.push_str(&self.text(content, location).unwrap_or_else(|| content.to_owned()));
                continue;
            }
            if !tag.is_empty() {
                let name = tag.split([' ', '\t', '\r', '\n', '>', '/']).next().unwrap_or_default();
                let name = name.rsplit(':').next().unwrap_or_default();
                named = self.is_secret(name).map(|kind| (kind, name));
                new.push_str(&self.attributes(tag));
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

    /// A tag with its attributes gone over, by their names or as what they are.
    fn attributes(&mut self, tag: &str) -> String {
        let mut new = String::with_capacity(tag.len());
        let mut rest = tag;
        while let Some(at) = rest.find("=\"").or_else(|| rest.find("='")) {
            let (before, value) = rest.split_at_checked(at + 2).unwrap_or((rest, ""));
            let quote = before.chars().next_back().unwrap_or('"');
            let (value, behind) = value
                .split_at_checked(value.find(quote).unwrap_or(value.len()))
                .unwrap_or((value, ""));
            let name = before.get(..at).unwrap_or_default();
            let name =
                name.rsplit(|c: char| c.is_whitespace() || c == ':').next().unwrap_or_default();
            let location = SecretLocation::named("attribute", name);
            let replaced = match self.is_secret(name) {
                Some(kind) => self.secret(value, kind, location),
                None => self.any(value, location, super::json::DEEPEST),
            };
            new.push_str(before);
            new.push_str(&replaced.unwrap_or_else(|| value.to_owned()));
            rest = behind;
        }
        new.push_str(
            &self.text(rest, SecretLocation::of("body")).unwrap_or_else(|| rest.to_owned()),
        );
        new
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
