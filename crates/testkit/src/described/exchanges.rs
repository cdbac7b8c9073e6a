//! Exchanges with a described service: as they are documented, and each way of breaking that once.

use serde_json::{Value, json};

use super::members::MadeMember;
use super::service::{HOST, JSON, KINDS, PROBLEM, Resource, STATUSES};
use crate::chance::Chance;

/// An exchange, and what is true of it by the description.
#[derive(Debug, Clone)]
pub struct DescribedExchange {
    /// The method.
    pub method: &'static str,
    /// The URL.
    pub url: String,
    /// The body that is sent.
    pub sent: Option<Value>,
    /// The status.
    pub status: u16,
    /// The media type of the body.
    pub media: &'static str,
    /// The body.
    pub body: String,
    /// Its endpoint, as `METHOD /path`.
    pub endpoint: String,
    /// Is the status documented, or the operation silent about errors?
    pub status_is_documented: bool,
    /// Is the media type documented, or nothing said of one?
    pub media_is_documented: bool,
    /// Where the body breaks the documented schema.
    pub schema_broken_at: Option<String>,
}

/// A response, before it is known to what.
struct MadeResponse {
    status: u16,
    media: &'static str,
    body: String,
    status_is_documented: bool,
    media_is_documented: bool,
    broken_at: Option<String>,
}

impl Resource {
    pub(super) fn exchanges(&self, chance: &mut Chance) -> Vec<DescribedExchange> {
        let (all, one) = (self.path(), format!("{}/{{id}}", self.path()));
        let mut made = Vec::new();
        for (method, path, status) in [
            ("GET", &all, 200),
            ("POST", &all, 201),
            ("GET", &one, 200),
            ("PUT", &one, 200),
            ("DELETE", &one, 204),
        ] {
            let mut responses = self.successes(status, method == "GET" && *path == all, chance);
            responses.extend(self.refusals(chance));
            for response in responses {
                let sent = matches!(method, "POST" | "PUT").then(|| self.good(chance));
                made.push(DescribedExchange {
                    method,
                    url: format!("{HOST}{}", path.replace("{id}", &chance.below(900).to_string())),
                    sent,
                    status: response.status,
                    media: response.media,
                    body: response.body,
                    endpoint: format!("{method} {path}"),
                    status_is_documented: response.status_is_documented,
                    media_is_documented: response.media_is_documented,
                    schema_broken_at: response.broken_at,
                });
            }
        }
        made
    }

    fn successes(&self, status: u16, is_list: bool, chance: &mut Chance) -> Vec<MadeResponse> {
        let of = |status, media, body: String, at: Option<String>| MadeResponse {
            status,
            media,
            body,
            status_is_documented: true,
            media_is_documented: media == JSON,
            broken_at: at,
        };
        let mut found = Vec::new();
        if status == 204 {
            found.push(of(204, JSON, String::new(), None));
        } else {
            let good = self.good(chance);
            let (bad, at) = self.bad(chance);
            let (good, bad, at) = match is_list {
                true => (json!([good, self.good(chance)]), json!([good, bad]), format!("/1{at}")),
                false => (good, bad, at),
            };
            found.push(of(status, JSON, good.to_string(), None));
            found.push(of(status, JSON, bad.to_string(), Some(at)));
            found.push(of(status, "application/xml", "<thing/>".to_owned(), None));
        }
        let other = of(202, JSON, "{}".to_owned(), None);
        found.push(MadeResponse { status_is_documented: self.errors.default, ..other });
        found
    }

    /// With each status one: as it is documented, with another body, or with another media type.
    fn refusals(&self, chance: &mut Chance) -> Vec<MadeResponse> {
        let mut found = Vec::new();
        for status in STATUSES.into_iter().chain([410]) {
            let errors = &self.errors;
            let (has_body, is_silent) = (errors.have_body(status), errors.are_silent());
            let is_documented = has_body || errors.default || is_silent;
            let good = json!({"title": "Refused", "status": status}).to_string();
            let bad = json!({"title": "Refused", "status": "none"}).to_string();
            let at = has_body.then(|| "/status".to_owned());
            let kinds = [(PROBLEM, good.clone(), None), (PROBLEM, bad, at), (JSON, good, None)];
            let (media, body, broken_at) = chance.of(&kinds).clone();
            found.push(MadeResponse {
                status,
                media,
                body,
                status_is_documented: is_documented,
                media_is_documented: !has_body || media == PROBLEM,
                broken_at,
            });
        }
        found
    }

    /// A thing as it is described.
    fn good(&self, chance: &mut Chance) -> Value {
        let (members, kind) = self.variant(chance);
        thing(members, kind, chance)
    }

    /// One that breaks its schema in one place.
    fn bad(&self, chance: &mut Chance) -> (Value, String) {
        let (members, kind) = self.variant(chance);
        let mut thing = thing(members, kind, chance);
        let (name, member) = chance.of(members);
        let is_required = members.last().is_some_and(|(last, _)| last != name);
        if is_required && chance.below(3) == 0 {
            if let Value::Object(members) = &mut thing {
                members.remove(name);
            }
            return (thing, format!("/{name}"));
        }
        let (value, at) = member.bad(chance);
        thing[name.as_str()] = value;
        (thing, format!("/{name}{at}"))
    }

    fn variant(&self, chance: &mut Chance) -> (&[(String, MadeMember)], Option<&'static str>) {
        match &self.other {
            None => (&self.members, None),
            Some(other) => match chance.below(2) {
                0 => (&self.members, Some(KINDS[0])),
                _ => (other, Some(KINDS[1])),
            },
        }
    }
}

fn thing(members: &[(String, MadeMember)], kind: Option<&str>, chance: &mut Chance) -> Value {
    let mut thing = json!({});
    for (name, member) in members {
        thing[name.as_str()] = member.good(chance);
    }
    if let Some(kind) = kind {
        thing["kind"] = json!(kind);
    }
    thing
}
