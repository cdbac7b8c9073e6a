//! Why a finding is known, and what could not be checked because of it, with their words.

use super::words::{each, none_of, one_of, worded};
use super::{Difference, InvalidField, InvalidParameterRef, Measured, Recorded};

worded! {
    /// How the situation was recognised, or what else shows the finding.
    pub enum Because {
        /// These fields of the request are invalid, and so many more.
        InvalidFields(fields: Vec<InvalidField>, more: Measured) =>
            "{}{}", each(fields), and_more(*more);
        /// Its cases say so.
        Case(name: String) => "the case `{name}` says so";
        /// A probe sent the request for it.
        Intended(request: Recorded) => "the probe meant it so: {request}";
        /// No path of the contract matches.
        UnknownRoute => "no path of the contract matches";
        /// No endpoint has the method.
        UnknownMethod(method: String) => "{method} is not a standard HTTP method, and no endpoint has it";
        /// The path has other methods.
        OtherMethods(methods: Vec<String>) => "the path offers {}", each(methods);
        /// No credentials, in none of these header fields.
        NoCredentials(headers: Vec<String>) =>
            "the endpoint requires credentials, and there is no {}", one_of(headers);
        /// None of the media types that the endpoint produces is acceptable.
        NotAcceptable(types: Vec<String>) => "`Accept` allows none of {}", each(types);
        /// The body is of a media type that the endpoint does not accept.
        UnsupportedMediaType(sent: String, accepted: Vec<String>) =>
            "the body is {sent}; accepted is {}", each(accepted);
        /// There is no body.
        MissingBody => "the endpoint requires a body, and there is none";
        /// The body is no JSON, for that reason.
        MalformedBody(reason: Option<Recorded>) => "the body is malformed JSON{}", after_colon(reason.as_ref());
        /// The body is larger than that.
        LargeBody(bytes: u64) => "the body is larger than {bytes} bytes";
        /// These parameters are invalid.
        InvalidParameters(parameters: Vec<InvalidParameterRef>) => "{}", each(parameters);
        /// These header fields are missing.
        MissingHeaders(names: Vec<String>) => "there is no {}", none_of(names);
        /// The response is the only evidence: its status, and the fault that it is recognised as.
        ResponseSays(status: u16, fault: Option<String>) => "the response says so: {status}{}", the_fault(fault.as_ref());
        /// The contract says so, and the request does not show how.
        Contract => "the contract says so";
        /// The contract does not know the path or the method.
        Undeclared => "if this endpoint is intended, declare it in the contract";
        /// The recorder tells why there is no response.
        RecorderSays(reason: Recorded) => "the recorder says: {reason}";
        /// The request is valid, as far as it shows.
        ValidRequest => "the request shows nothing wrong";
        /// The contract declares no error there.
        NoErrorDeclared => "the contract declares no error for this endpoint";
        /// The contract requires the member.
        RequiredMember => "the contract requires this member";
        /// The contract declares an array of violations.
        DeclaredArray => "the contract declares an array of violations";
        /// The OpenAPI description says so.
        Description => "according to the OpenAPI description";
        /// The phrase of an older RFC.
        OlderPhrase => "this is the phrase of an older RFC";
        /// A relative reference without its full path.
        RelativeType => "without the full path it resolves differently at every resource";
        /// Two texts look alike.
        Lookalike(difference: Difference) => "{difference}";
        /// A token was sent.
        TokenSent => "a token was sent";
    }
}

fn and_more(more: Measured) -> String {
    match more.number() {
        0 => String::new(),
        more => format!(" and {more} more"),
    }
}

fn after_colon(reason: Option<&Recorded>) -> String {
    reason.map(|reason| format!(": {reason}")).unwrap_or_default()
}

fn the_fault(fault: Option<&String>) -> String {
    fault.map(|fault| format!(", the fault `{fault}`")).unwrap_or_default()
}

worded! {
    /// What could not be checked because of a finding.
    pub enum NotChecked {
        /// The members of the body.
        Members => "the members of the body";
        /// The media type and the members of the body.
        MediaTypeAndMembers => "the media type and the members of the body";
    }
}
