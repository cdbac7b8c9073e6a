//! The secrets of one exchange, so that they can be hidden wherever they stand in what is shown of it.

use super::blank::Blanks;
use super::json::MessageSide;
use super::{ScrubKey, Scrubber};
use faithful_clerk_model::exchange::{BodyContent, Exchange, RequestBody, ResponseBody};
use faithful_clerk_model::headers::Headers;
use faithful_clerk_model::secret::SecretRules;
use faithful_clerk_recording::RecordingPart;

/// The texts of an exchange that are secrets beyond doubt, the longest first: those that are no word, and all
/// that the contract declares.
#[must_use]
pub fn secrets_in(exchange: &Exchange<'_>, rules: &SecretRules) -> Vec<String> {
    let mut scrubber = Scrubber::new(rules, ScrubKey::new([]));
    let request = &exchange.request;
    // On the first pass nothing is replaced.
    _ = scrubber.url(&request.url);
    headers(&mut scrubber, &request.headers);
    if let RequestBody::Present(content) = &request.body {
        body(&mut scrubber, content, request.media(), MessageSide::Request);
    }
    if let Some(response) = &exchange.response {
        headers(&mut scrubber, &response.headers);
        let side = MessageSide::of(response.status >= 400);
        if let ResponseBody::Present(content) = &response.body {
            body(&mut scrubber, content, response.media(), side);
        }
    }
    let mut known = scrubber.into_known();
    known.sort_by_key(|secret| std::cmp::Reverse(secret.len()));
    known
}

/// A body without its secrets, an asterisk for each of their bytes, and what of it could not be looked into and was blanked. Of an
/// error, what stands under the name of a secret is one only if it looks like it.
#[must_use]
pub fn hidden_body(text: &str, media: Option<&str>, is_error: bool) -> (String, Blanks) {
    let rules = SecretRules::default();
    let mut scrubber = Scrubber::new(&rules, ScrubKey::hiding());
    let (media, side) = (media.unwrap_or_default(), MessageSide::of(is_error));
    _ = scrubber.body(text, media, side);
    scrubber.begin();
    let hidden = scrubber.body(text, media, side).unwrap_or_else(|| text.to_owned());
    (hidden, scrubber.take_report().blanks)
}

impl Scrubber<'_> {
    /// Scrubs an entry of HAR while a recording is made. What was a secret in an entry before is one in this; what
    /// will be one in an entry to come cannot be known.
    #[must_use]
    pub fn as_it_comes(&mut self, entry: &str) -> String {
        self.entry += 1;
        self.collect_again();
        _ = self.part(entry.as_bytes(), RecordingPart::Line);
        self.begin();
        let scrubbed = self.part(entry.as_bytes(), RecordingPart::Line);
        self.write_out();
        scrubbed
            .map_or_else(|| entry.to_owned(), |bytes| String::from_utf8_lossy(&bytes).into_owned())
    }
}

fn headers(scrubber: &mut Scrubber<'_>, headers: &Headers<'_>) {
    for (name, value) in headers.iter() {
        _ = scrubber.header(name, value);
    }
}

fn body(
    scrubber: &mut Scrubber<'_>,
    content: &BodyContent<'_>,
    media: Option<&str>,
    side: MessageSide,
) {
    let Ok(bytes) = content.decode() else { return };
    if let Ok(text) = std::str::from_utf8(&bytes) {
        _ = scrubber.body(text, media.unwrap_or_default(), side);
    }
}
