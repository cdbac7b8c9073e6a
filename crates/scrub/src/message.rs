//! Header fields and bodies.

use super::Scrubber;
use super::blank::{self, BlankReason};
use super::json::{DEEPEST, MessageSide};
use super::layers::{of_base64, to_base64};
use super::memory::HeaderFacts;
use super::replacements::Replacements;
use super::scrubber::SecretLocation;
use super::tape::{begins_as_json, is_json_or_lines};
use faithful_clerk_model::media;
use faithful_clerk_model::secret::{SecretKind, is_secret_header};

/// Header fields that hold a URL.
const URLS: [&str; 6] = ["location", "content-location", "referer", "origin", "refresh", "link"];

/// What of the parameters of credentials is secret (RFC 7616, and signatures of requests).
const PARAMETERS: [&str; 10] = [
    "response",
    "signature",
    "credential",
    "cnonce",
    "nonce",
    "opaque",
    "username",
    "token",
    "mac",
    "id",
];

/// What a header field holds.
#[derive(Debug, Clone, Copy)]
pub(super) enum HeaderSort {
    /// A secret, as a whole.
    Secret(SecretKind),
    /// Credentials behind a scheme.
    Credentials,
    Cookie,
    SetCookie,
    Url,
    Other,
}

impl Scrubber<'_> {
    /// Replaces in the value of a header field.
    pub(super) fn header(&mut self, name: &str, value: &str) -> Option<String> {
        let facts = self.header_facts(name);
        let location = SecretLocation::named("header", &facts.name);
        match facts.sort {
            HeaderSort::Secret(kind) => self.secret(value, kind, location),
            HeaderSort::Credentials => self.credentials(value, location),
            HeaderSort::Cookie => self.cookies(value, "; ", usize::MAX),
            HeaderSort::SetCookie => self.set_cookies(value),
            HeaderSort::Url => self.url(value),
            HeaderSort::Other => self.any(value, location, DEEPEST),
        }
    }

    /// What a header field of that name holds.
    fn header_facts(&mut self, name: &str) -> HeaderFacts {
        let rules = self.rules;
        self.memory.header(name, || {
            let lower = name.to_ascii_lowercase();
            let is_declared = rules.headers.iter().any(|known| known.eq_ignore_ascii_case(name));
            let sort = match lower.as_str() {
                _ if is_declared => HeaderSort::Secret(SecretKind::Declared),
                "authorization" | "proxy-authorization" => HeaderSort::Credentials,
                "cookie" => HeaderSort::Cookie,
                "set-cookie" => HeaderSort::SetCookie,
                lower if is_secret_header(lower) => HeaderSort::Secret(SecretKind::Named),
                lower if URLS.contains(&lower) => HeaderSort::Url,
                _ => HeaderSort::Other,
            };
            HeaderFacts { name: lower.into(), sort }
        })
    }

    /// The credentials behind a scheme (RFC 9110 section 11.4).
    fn credentials(&mut self, value: &str, location: SecretLocation<'_>) -> Option<String> {
        let (scheme, rest) = match value.split_once(' ') {
            Some((scheme, rest)) => (format!("{scheme} "), rest),
            None => (String::new(), value),
        };
        if !rest.contains("=\"") && !rest.contains(", ") {
            let pseudonym = self.secret(rest.trim(), SecretKind::Credentials, location)?;
            return Some(format!("{scheme}{}", rest.replacen(rest.trim(), &pseudonym, 1)));
        }
        let parameters = rest.split(',').map(|parameter| {
            let Some((name, text)) = parameter.split_once('=') else { return parameter.to_owned() };
            let plain = text.trim().trim_matches('"');
            let is_secret = PARAMETERS.contains(&name.trim().to_ascii_lowercase().as_str());
            let pseudonym =
                is_secret.then(|| self.secret(plain, SecretKind::Credentials, location)).flatten();
            pseudonym.map_or_else(
                || parameter.to_owned(),
                |pseudonym| format!("{name}={}", text.replacen(plain, &pseudonym, 1)),
            )
        });
        let new = format!("{scheme}{}", parameters.collect::<Vec<_>>().join(","));
        (new != value).then_some(new)
    }

    /// `Set-Cookie`: recorders write several of them in one value, with line ends or commas between them.
    fn set_cookies(&mut self, value: &str) -> Option<String> {
        let mut cookies: Vec<&str> = Vec::new();
        let mut start = 0;
        for (at, sign) in value.match_indices(['\n', ',']) {
            let rest = value.get(at + 1..).unwrap_or_default().trim_start();
            // A comma may stand in a date, too.
            let is_pair =
                rest.find(['=', ';', ',', ' ']).is_some_and(|end| rest[end..].starts_with('='));
            if sign == "\n" || is_pair {
                cookies.extend(value.get(start..at + 1));
                start = at + 1;
            }
        }
        cookies.extend(value.get(start..));
        let each =
            |cookie: &str| self.cookies(cookie, "; ", 1).unwrap_or_else(|| cookie.to_owned());
        let new: String = cookies.into_iter().map(each).collect();
        (new != value).then_some(new)
    }

    /// The values of cookies (RFC 6265 sections 4.1 and 4.2); of `Set-Cookie` only the first pair is one.
    fn cookies(&mut self, value: &str, between: &str, most: usize) -> Option<String> {
        let (mut edits, mut at) = (Replacements::of(value), 0);
        for (number, pair) in value.split(between).enumerate() {
            let start = at;
            at += pair.len() + between.len();
            let Some((name, text)) = pair.split_once('=').filter(|_| number < most) else {
                continue;
            };
            let location = SecretLocation::named("cookie", name);
            let is_around = |c: char| c == '"' || c == ',' || c.is_whitespace();
            let behind = text.trim_start_matches(is_around);
            let plain = behind.trim_end_matches(is_around);
            if let Some(pseudonym) = self.secret(plain, SecretKind::Cookie, location) {
                let start = start + pair.len() - behind.len();
                edits.replace(start..start + plain.len(), &pseudonym);
            }
        }
        edits.done()
    }

    /// Replaces in a body.
    pub(super) fn body(&mut self, body: &str, media: &str, side: MessageSide) -> Option<String> {
        let essence = media::essence(media);
        // A byte order mark is nobody's value.
        let start = body.trim_start_matches('\u{feff}').trim_start();
        let says_json = media::is_json(&essence);
        let begins = start.starts_with(['{', '[', '"']);
        if (says_json || begins) && is_json_or_lines(start) {
            self.json(body, side, DEEPEST)
        } else if says_json && begins || begins_as_json(start) {
            self.blanked("a body", BlankReason::NotJson);
            Some(blank::broken_json(body))
        } else if essence == "application/x-www-form-urlencoded" {
            self.form(body)
        } else if essence.starts_with("multipart/") {
            self.multipart(body, media)
        } else if start.starts_with('<') {
            self.markup(body, SecretLocation::of("body"))
        } else {
            self.any(body, SecretLocation::of("body"), 0)
        }
    }

    /// The same, of a body that is recorded in base64.
    pub(super) fn encoded(
        &mut self,
        body: &str,
        media: &str,
        codings: Option<&str>,
        side: MessageSide,
    ) -> Option<String> {
        let Some(content) = of_base64(body) else {
            self.blanked("a body", BlankReason::NotText);
            return Some(blank::base64(body));
        };
        Some(to_base64(body, &self.content(&content, media, codings, side)?))
    }
}
