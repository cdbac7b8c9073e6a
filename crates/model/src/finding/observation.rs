//! What is compared over exchanges, with its words.

use super::Recorded;
use super::words::{each, worded};
use crate::json::JsonType;

worded! {
    /// What has to be the same, in the plural.
    pub enum Subject {
        /// Responses with this application code.
        Code(code: String) => "responses with the code {code}";
        /// Responses of this type.
        Type(uri: String) => "responses of the type {uri}";
        /// Responses of this type in a language.
        TypeIn(uri: String, language: String) => "responses of the type {uri} in {language}";
        /// Responses of a fault at a path.
        Fault(fault: String, path: String) => "responses of the fault {fault} at {path}";
        /// Responses of a fault, wherever they come.
        FaultAnywhere(fault: String) => "responses of the fault {fault}";
        /// Responses of a status at a path.
        Status(status: u16, path: String) => "{status} responses at {path}";
        /// Members of this name.
        Members(name: String) => "members called `{name}`";
        /// All errors.
        Errors => "errors";
        /// Timestamps in errors.
        Timestamps => "timestamps in errors";
        /// Errors about invalid input.
        ValidationErrors => "validation errors";
        /// Errors about invalid parameters.
        ParameterErrors => "validation errors of parameters";
        /// One request, sent to several environments or in several languages: method, path and a digest of the rest.
        Request(method: String, path: String, digest: String) => "{method} {path} {digest}";
    }
}

worded! {
    /// What one exchange has of it.
    pub enum ObservedValue {
        /// Something that is a secret by its name.
        Masked => "a value that is masked";
        /// This status.
        Status(status: u16) => "{status}";
        /// This type.
        Type(uri: String) => "with {uri}";
        /// This title.
        Title(title: Recorded) => "{title}";
        /// This JSON type.
        Json(json: JsonType) => "{json}";
        /// This style of names, of timestamps or of locations.
        Style(style: String) => "{style}";
        /// A body of this outline.
        Outline(outline: String) => "{outline}";
        /// A response: its status, media type and the outline of its body.
        Response(status: u16, media: Option<String>, outline: String) =>
            "{status} {} {outline}", media.as_deref().unwrap_or("no media type");
        /// An error: its type, its code and the names of its members.
        Error(uri: String, code: Option<String>, names: Vec<String>) =>
            "{uri}, {}, {}", code.as_ref().map_or_else(|| "no code".to_owned(), |code| format!("code {code}")),
            each(names);
    }
}
