//! A line becomes an exchange.

use std::borrow::Cow;
use std::sync::Arc;

use faithful_clerk_model::address::Address;
use faithful_clerk_model::exchange::{
    BodyContent, Exchange, Request, RequestBody, Response, ResponseBody, Timing,
};
use faithful_clerk_model::headers::Headers;
use faithful_clerk_model::method;

use super::fields::{FoundFields, MapField, MessageFields, REQUEST, RESPONSE};
use super::file::{LineMap, MessageRules};
use super::values::{headers, milliseconds, moment, shown, string_length, text, whole};
use crate::http::{Start, start_line};

impl LineMap {
    /// Reads an exchange.
    ///
    /// # Errors
    /// What it lacks or has wrong, with the pointer.
    pub(crate) fn exchange<'a>(
        &self,
        bytes: &'a [u8],
        address: Address,
    ) -> Result<Exchange<'a>, String> {
        let line = std::str::from_utf8(bytes)
            .map_err(|error| format!("it is not UTF-8 at byte {}", error.valid_up_to()))?;
        let found = self.places.find(line)?;
        let reader = LineReader { map: self, found };
        let (method, url) = reader.target()?;
        let asked = reader.fields(&REQUEST, &self.request)?;
        let body = reader.request_body(&method, &asked);
        let request = Request { method, url, headers: asked, body, recorded_media: None };
        let (response, no_response) = match reader.status()? {
            Ok(status) => (Some(reader.response(status, &request.method)?), None),
            Err(why) => (None, why),
        };
        let timing = Timing { known: reader.took()?, ..Timing::default() };
        Ok(Exchange { address, offset: 0, request, response, no_response, timing, intended: None })
    }

    /// When the request was sent, in the words of RFC 3339, where the line says so.
    pub(crate) fn started(&self, bytes: &[u8]) -> Option<String> {
        let found = self.places.find(std::str::from_utf8(bytes).ok()?).ok()?;
        let started = moment(found.get(MapField::Started)?, self.started).ok()?;
        Some(format!("{started:.3}"))
    }
}

/// What a line holds of a body.
enum LoggedBody<'a> {
    /// All of it.
    Whole(BodyContent<'a>),
    /// That there was none.
    Empty,
    /// Nothing, or less than all.
    Unknown,
}

struct LineReader<'a, 'm> {
    map: &'m LineMap,
    found: FoundFields<'a, 'm>,
}

impl<'a> LineReader<'a, '_> {
    /// The text of a field, where there is one.
    fn text(&self, field: MapField) -> Result<Option<Cow<'a, str>>, String> {
        let Some(raw) = self.found.get(field) else { return Ok(None) };
        text(raw).map(Some).ok_or_else(|| self.wrong(field, raw, "no text"))
    }

    fn wrong(&self, field: MapField, raw: &str, what: &str) -> String {
        format!("{} at {} is {what}", shown(raw), self.map.places.told(field))
    }

    fn missing(&self, fields: &[MapField], what: &str) -> String {
        let places = fields.iter().filter(|field| self.map.places.has(**field));
        let places: Vec<String> = places.map(|field| self.map.places.told(*field)).collect();
        format!("nothing at {}, where the map has {what}", places.join(" or "))
    }

    /// The method and the URL.
    fn target(&self) -> Result<(Cow<'a, str>, Cow<'a, str>), String> {
        let first = self.text(MapField::RequestLine)?;
        let (mut method, mut url) = (self.text(MapField::Method)?, self.url()?);
        if let Some(line) = first.filter(|_| method.is_none() || url.is_none()) {
            let Some(Start::Request(of_line, target, _)) = start_line(line.as_bytes()) else {
                let raw = self.found.get(MapField::RequestLine).unwrap_or_default();
                return Err(self.wrong(MapField::RequestLine, raw, "no first line of a request"));
            };
            method.get_or_insert_with(|| Cow::Owned(of_line.to_owned()));
            url.get_or_insert(self.at_host(Cow::Owned(target.to_owned()))?);
        }
        let method = method.filter(|method| !method.is_empty()).ok_or_else(|| {
            self.missing(&[MapField::Method, MapField::RequestLine], "the method")
        })?;
        let url = url.filter(|url| !url.is_empty()).ok_or_else(|| {
            let fields = [MapField::Url, MapField::Path, MapField::RequestLine];
            self.missing(&fields, "the URL")
        })?;
        Ok((method, url))
    }

    /// The URL: as a whole, or of its parts.
    fn url(&self) -> Result<Option<Cow<'a, str>>, String> {
        if let Some(url) = self.text(MapField::Url)? {
            return self.at_host(url).map(Some);
        }
        let Some(path) = self.text(MapField::Path)? else { return Ok(None) };
        let path = if path.starts_with('/') { path } else { Cow::Owned(format!("/{path}")) };
        let path = match self.text(MapField::Query)? {
            Some(query) if !query.is_empty() && !path.contains('?') => {
                Cow::Owned(format!("{path}?{}", query.trim_start_matches('?')))
            }
            _ => path,
        };
        self.at_host(path).map(Some)
    }

    /// A path on the host that the line names, if it names one.
    fn at_host(&self, path: Cow<'a, str>) -> Result<Cow<'a, str>, String> {
        let host = self.text(MapField::Host)?.filter(|host| !host.is_empty());
        let (Some(host), true) = (host, path.starts_with('/') && !path.starts_with("//")) else {
            return Ok(path);
        };
        let host = match host.matches(':').count() {
            // An address of IPv6 (RFC 3986 section 3.2.2).
            2.. if !host.starts_with('[') => Cow::Owned(format!("[{host}]")),
            _ => host,
        };
        let scheme = self.text(MapField::Scheme)?.map(|scheme| scheme.to_ascii_lowercase());
        let scheme = scheme.filter(|scheme| !scheme.is_empty());
        let usual = match scheme.as_deref() {
            Some("http") => Some("80"),
            Some("https") => Some("443"),
            _ => None,
        };
        let has_port = host.rsplit(']').next().is_some_and(|rest| rest.contains(':'));
        let port = self.text(MapField::Port)?.filter(|port| {
            !has_port && !matches!(port.as_ref(), "" | "0") && Some(port.as_ref()) != usual
        });
        // A scheme that nobody recorded is left open, as in a message.
        let scheme = scheme.map(|scheme| format!("{scheme}:")).unwrap_or_default();
        let port = port.map(|port| format!(":{port}")).unwrap_or_default();
        Ok(Cow::Owned(format!("{scheme}//{host}{port}{path}")))
    }

    /// The header fields. Those of a line that has none were not recorded.
    fn fields(&self, of: &MessageFields, rules: &MessageRules) -> Result<Headers<'a>, String> {
        let mut fields = match self.found.get(of.headers) {
            Some(raw) => {
                let fields = headers(raw, &rules.prefix)
                    .ok_or_else(|| self.wrong(of.headers, raw, "no list of header fields"))?;
                match &rules.recorded {
                    Some(names) => fields.recorded_only(Arc::clone(names)),
                    None => fields,
                }
            }
            None => Headers::new().recorded_only(Arc::new([])),
        };
        if let Some(media) = self.text(of.media)?.filter(|_| !fields.has("content-type")) {
            fields.push("Content-Type", media);
        }
        Ok(fields)
    }

    /// What is there of a body. Less than its length says is what the log made of it.
    fn body(
        &self,
        of: &MessageFields,
        rules: &MessageRules,
        headers: &Headers<'_>,
    ) -> LoggedBody<'a> {
        let is_said = |field: MapField| {
            let said = self.found.get(field).and_then(text);
            said.is_some_and(|said| {
                matches!(said.to_ascii_lowercase().as_str(), "true" | "1" | "base64")
            })
        };
        let Some(raw) = self.found.get(of.body).filter(|_| !is_said(of.truncated)) else {
            return match headers.content_length() {
                Some(0) => LoggedBody::Empty,
                _ => LoggedBody::Unknown,
            };
        };
        let coding = headers.get("content-encoding");
        let is_text = raw.starts_with('"');
        let content = match raw {
            "\"\"" => None,
            _ if is_text && (rules.is_base64 || is_said(of.base64)) => {
                Some(BodyContent::Base64(raw).coded(coding))
            }
            _ if is_text => Some(BodyContent::Literal(raw)),
            _ => Some(BodyContent::Bytes(Cow::Borrowed(raw.as_bytes()))),
        };
        // A JSON value is not laid out as it was sent.
        let announced = headers.content_length().filter(|_| is_text && coding.is_none());
        let length = || match &content {
            Some(BodyContent::Literal(raw)) => string_length(raw),
            // What can't be decoded is for whoever looks at it to tell.
            Some(content) => content.decode().map_or(u64::MAX, |bytes| bytes.len() as u64),
            None => 0,
        };
        match announced.is_some_and(|announced| announced > length()) {
            true => LoggedBody::Unknown,
            false => content.map_or(LoggedBody::Empty, LoggedBody::Whole),
        }
    }

    fn request_body(&self, method: &str, headers: &Headers<'_>) -> RequestBody<'a> {
        let is_announced = headers.content_length().is_some_and(|length| length > 0)
            || headers.has("transfer-encoding");
        match self.body(&REQUEST, &self.map.request, headers) {
            LoggedBody::Whole(content) if content.first_byte().is_some() => {
                RequestBody::Present(content)
            }
            // Base64 that does not decode has no first byte, and is not blank.
            LoggedBody::Whole(content) if content.decode().is_err() => RequestBody::NotRecorded,
            LoggedBody::Whole(_) => RequestBody::Blank,
            LoggedBody::Empty => RequestBody::Absent,
            LoggedBody::Unknown if is_announced || method::usually_has_body(method) => {
                RequestBody::NotRecorded
            }
            LoggedBody::Unknown => RequestBody::Absent,
        }
    }

    /// The status, or else why no response came, where the line says so.
    fn status(&self) -> Result<Result<u16, Option<Cow<'a, str>>>, String> {
        let failure = self.text(MapField::Failure)?;
        let Some(raw) = self.found.get(MapField::Status) else {
            let missing = || self.missing(&[MapField::Status], "the status");
            return failure.map(|why| Err(Some(why))).ok_or_else(missing);
        };
        match whole(raw) {
            Some(..=0) => Ok(Err(failure)),
            Some(status @ 100..=999) => Ok(Ok(u16::try_from(status).unwrap_or_default())),
            _ => Err(self.wrong(MapField::Status, raw, "no status code")),
        }
    }

    fn response(&self, status: u16, method: &str) -> Result<Response<'a>, String> {
        let headers = self.fields(&RESPONSE, &self.map.response)?;
        let is_bodiless = method == "HEAD" || matches!(status, 100..=199 | 204 | 205 | 304);
        let body = match self.body(&RESPONSE, &self.map.response, &headers) {
            LoggedBody::Whole(content) => ResponseBody::Present(content),
            LoggedBody::Empty => ResponseBody::Empty,
            LoggedBody::Unknown if is_bodiless => ResponseBody::Empty,
            LoggedBody::Unknown => ResponseBody::NotRecorded,
        };
        Ok(Response { status, headers, recorded_media: None, body })
    }

    /// How long it took, in milliseconds: as the line says, or from its start to its end.
    fn took(&self) -> Result<Option<f64>, String> {
        let at = |field: MapField, unit| match self.found.get(field) {
            Some(raw) => moment(raw, unit)
                .map(Some)
                .map_err(|why| format!("the time at {}: {why}", self.map.places.told(field))),
            None => Ok(None),
        };
        let started = at(MapField::Started, self.map.started)?;
        let ended = at(MapField::Ended, self.map.ended)?;
        if let (Some(raw), Some(unit)) = (self.found.get(MapField::Duration), self.map.duration) {
            let took = milliseconds(raw, unit);
            return took
                .map(Some)
                .ok_or_else(|| self.wrong(MapField::Duration, raw, "no duration"));
        }
        let took =
            started.zip(ended).map(|(start, end)| end.duration_since(start).as_secs_f64() * 1e3);
        Ok(took.filter(|took| *took >= 0.0))
    }
}
