//! What was got, with its words.

use serde_json::Value;

use super::words::{each, worded};
use super::{
    BodyForm, EntryOutcome, FaultStatus, FieldRef, Measured, ObservedValue, Pointer, Recorded,
};
use crate::json::JsonType;

worded! {
    /// What is there.
    pub enum Got {
        /// Nothing at that location.
        Nothing => "nothing";
        /// None of the words, members or the like that were expected.
        None => "none";
        /// Something that is a secret by its name.
        Masked => "a value that is masked";

        // The exchange and the status line.
        /// No response.
        NoResponse => "no response";
        /// A response whose end is missing.
        TruncatedResponse => "a truncated response";
        /// So many milliseconds.
        Milliseconds(time: Measured) => "{time} ms";
        /// This status.
        Status(status: u16) => "{status}";
        /// The status of a fault that the response is recognised as.
        Fault(fault: FaultStatus) => "{fault}";

        // Header fields.
        /// No such header field.
        NoHeader => "no such header";
        /// This value.
        HeaderValue(value: Recorded) => "{value}";
        /// A value that is a list without members.
        EmptyList => "an empty list";
        /// These members of a list.
        List(members: Vec<String>) => "{}", each(members);
        /// No media type.
        NoMediaType => "no media type";
        /// This media type.
        MediaType(media: String) => "{media}";
        /// This media type over a body that is something else.
        Mislabelled(media: String, body: BodyForm) => "{media}, over {body}";
        /// This parameter of a media type.
        Parameter(parameter: String) => "{parameter}";

        // The body as a whole.
        /// No body.
        NoBody => "no body";
        /// A body with a status that has no content.
        BodyWithStatus(status: u16, body: BodyForm) => "a body with a {status}: {body}";
        /// A body in a response to HEAD.
        BodyToHead(body: BodyForm) => "a body in a response to HEAD: {body}";
        /// A body of that form.
        Body(body: BodyForm) => "{body}";
        /// A byte order mark.
        ByteOrderMark => "a byte order mark";
        /// Bytes that are not UTF-8.
        NotUtf8 => "bytes that are not UTF-8";
        /// Something disclosed: what, and the text that shows it unless that is a secret.
        Disclosure(what: String, text: Recorded) => "{what}: {text}";
        /// A secret.
        Secret(what: String) => "{what}, masked";

        /// JSON inside a string.
        JsonInString(text: Recorded) => "JSON inside a string: {text}";
        /// So many characters of what the request sent.
        Echo(length: Measured) => "{length} characters of what the request sent";
        /// A tag of a markup language.
        Markup(tag: Recorded) => "markup: {tag}";
        /// A field named in words alone.
        FieldInWords(words: Recorded) => "it is named in words alone: {words}";

        // Values.
        /// A value.
        Value(_json: JsonType, value: Recorded) => "{value}";
        /// A value whose JSON type matters.
        TypedValue(json: JsonType, value: Recorded) => "{json} {value}";
        /// A value of this JSON type.
        Type(json: JsonType) => "{json}";
        /// A member of this name.
        Member(name: String) => "`{name}`";
        /// Two members of one name.
        RepeatedName => "two members of that name";
        /// Only these words.
        Only(words: Recorded) => "only {words}";
        /// This type URI.
        Uri(uri: String) => "{uri}";
        /// No type, which means `about:blank` (RFC 9457 section 3.1.1).
        NoType => "nothing, which is about:blank";
        /// This code.
        Code(code: String) => "{code}";
        /// This code, of a violation.
        ViolationCode(code: String) => "the code {code}";
        /// This type, of a failure inside a success.
        FailureType(uri: String) => "type {uri}";
        /// This code, of a failure inside a success.
        FailureCode(code: String) => "code {code}";
        /// A text in a language of the contract.
        TextIn(text: Recorded, language: String) => "{text}, which is {language}";
        /// A string in quotation marks.
        Text(text: Recorded) => "{text}";
        /// The same as what the response has there.
        SameAs(pointer: Pointer) => "the same as {pointer}";
        /// A value, and other ones like it at more locations of the same array.
        AndMore(first: Box<Got>, more: Measured, at_least: bool) =>
            "{first}; the same at {more} more {} of the array{}",
            if more.number() == 1 { "location" } else { "locations" },
            if *at_least { ", or more" } else { "" };

        // Entries and violations.
        /// Entries of the request that are not told once.
        Entries(entries: Vec<EntryOutcome>) => "{}", each(entries);
        /// So many of them.
        EntryCounts(succeeded: Measured, failed: Measured) => "{succeeded} succeeded and {failed} failed";
        /// None of the invalid fields.
        NoFields => "none of them";
        /// These of the invalid fields, and not those.
        SomeFields(told: Vec<FieldRef>, missing: Vec<FieldRef>) => "only {}, without {}", each(told), each(missing);

        // Comparisons.
        /// What this exchange has.
        Observed(value: ObservedValue) => "{value}";
        /// What this part of the recordings has.
        ObservedIn(value: ObservedValue, part: String) => "{value}, in {part}";
    }
}

impl Got {
    /// A value, in few words.
    #[must_use]
    pub fn value(value: &Value) -> Self {
        Self::Value(JsonType::of(value), Recorded::brief(value))
    }

    /// A value with its JSON type, where the type is wrong: of null and containers the type alone.
    #[must_use]
    pub fn typed(value: &Value) -> Self {
        let json = JsonType::of(value);
        match json {
            JsonType::Null | JsonType::Array | JsonType::Object => Self::Type(json),
            JsonType::Boolean | JsonType::Number | JsonType::String => {
                Self::TypedValue(json, Recorded::brief(value))
            }
        }
    }

    /// A string, in quotation marks.
    #[must_use]
    pub fn quoted(text: &str) -> Self {
        Self::Text(Recorded::quoted(text))
    }

    /// The value of a header field.
    #[must_use]
    pub fn header(value: impl Into<String>) -> Self {
        Self::HeaderValue(Recorded::text(value))
    }
}
