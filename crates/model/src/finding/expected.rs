//! What was expected, with its words.

use super::words::{all_of, each, one_of, worded};
use super::{
    DisclosureKind, FaultStatus, FaultText, FieldRef, Measured, ObservedValue, Pointer, SchemaRule,
    Subject,
};
use crate::json::JsonType;
use crate::situation::Situation;

worded! {
    /// What the contract or the standard expects, where something else is there.
    pub enum Expected {
        // The status line.
        /// The status of one of these faults, for these situations.
        Fault(faults: Vec<FaultStatus>, _situations: Vec<Situation>) => "{}", one_of(faults);
        /// Any refusal, for these situations.
        ClientError(situations: Vec<Situation>) => "an error of the caller's (4xx) for {}", all_of(situations);
        /// A success, by a case of the contract.
        SuccessByCase(case: String) => "a success, according to the contract's case {case}";
        /// The success that the request got before.
        SuccessAgain => "the success that it got before, as its idempotency key is the same";
        /// A fault only where one of its situations holds.
        FaultOnlyFor(fault: FaultStatus, situations: Vec<Situation>) =>
            "{fault} only for {}, which the request does not show", all_of(situations);
        /// No failure of the service's own.
        NoServerError => "no internal server error";
        /// One of these statuses of a success.
        Success(statuses: Vec<u16>) => "a success of {}", one_of(statuses);
        /// One of these statuses of an error.
        Error(statuses: Vec<u16>) => "an error of {}", one_of(statuses);
        /// No error: none is declared.
        NoError => "no error at all";
        /// The status of the fault whose type the body has.
        StatusOfType(fault: FaultStatus) => "{}, because the body's type is that of the fault {}", fault.status, fault.fault;
        /// The status of the fault whose code the body has.
        StatusOfCode(fault: FaultStatus) => "{}, because the body's code is that of the fault {}", fault.status, fault.fault;
        /// A redirect to this path.
        RedirectTo(path: String) => "a redirect to {path}";
        /// An entry of the request.
        RequestedEntry => "an entry of the request";
        /// This fault for an entry of the request, by a case of the contract.
        EntryFault(fault: String, index: Measured, case: String) =>
            "the fault {fault} for entry {index}, according to the contract's case {case}";
        /// One of the members that a JSON:API document has.
        DocumentMember => "data, errors or meta";
        /// Not both of these members of a JSON:API document.
        DataOrErrors => "data or errors, not both";
        /// The member that goes with `included`.
        DataBesideIncluded => "data beside included";
        /// A status that is registered.
        RegisteredStatus => "a registered status code";
        /// A status that HTTP can have.
        PossibleStatus => "a status code from 100 to 599";

        // The exchange.
        /// A response.
        Response => "a response";
        /// A response that is all there.
        CompleteResponse => "a complete response";
        /// A response in so many milliseconds.
        ResponseWithin(milliseconds: String) => "a response within {milliseconds} ms";

        // The body as a whole.
        /// No content, since the request was HEAD.
        NoContentToHead => "no content in a response to HEAD";
        /// No content, by the status.
        NoContent(status: u16) => "no content in a {status}";
        /// A body of this media type.
        BodyOfMediaType(media: String) => "a body of {media}";
        /// A body of this shape.
        BodyOfShape(shape: String) => "a body of the shape {shape}";
        /// A body that explains the error.
        ExplanatoryBody => "a body that explains the error";
        /// Words about the error.
        ErrorWords => "words about the error";
        /// What the request conflicts with.
        ConflictNamed => "what the request conflicts with";
        /// One member of a name.
        UniqueName => "one member of that name";
        /// Nothing of this kind.
        NoDisclosure(kind: DisclosureKind) => "no {}", kind.words();

        // Media types and encodings.
        /// This media type.
        MediaType(media: String) => "{media}";
        /// One of these media types, by what the request accepts.
        MediaTypes(types: Vec<String>) => "{}", one_of(types);
        /// The media type of JSON.
        JsonMediaType => "the media type of JSON";
        /// A value as JSON, and not as text.
        ValueItself => "the value itself";
        /// No more of what the request sent than that.
        ShortEcho(most: Measured) => "at most {most} characters of what the request sent";
        /// Text for people.
        TextWithoutMarkup => "text without markup";
        /// One of the media types that a description documents.
        DocumentedMediaTypes(types: Vec<String>) => "{}, as the description documents", one_of(types);
        /// JSON, as the media type says.
        JsonAsLabelled(media: String) => "JSON, as {media} says";
        /// The media type of the content.
        ContentMediaType => "the media type of the content";
        /// The media types that are available.
        AvailableMediaTypes => "the available media types";
        /// No parameter `charset`.
        NoCharset => "no charset, because JSON is UTF-8";
        /// No media type parameter but those of JSON:API.
        JsonApiParameters => "no parameter but ext and profile (JSON:API 1.1, 'Content Negotiation')";
        /// UTF-8.
        Utf8 => "UTF-8";
        /// UTF-8 that begins with the text.
        Utf8WithoutMark => "UTF-8 without a byte order mark";

        // Header fields.
        /// What would be accepted.
        AcceptedMediaTypes => "what would be accepted";
        /// These methods.
        Methods(methods: Vec<String>) => "{}", each(methods);
        /// The methods that the resource supports.
        SupportedMethods => "the methods that the resource supports";
        /// A challenge.
        Challenge => "at least one challenge, such as Bearer";
        /// A Bearer challenge with this error.
        BearerError(error: String) => "Bearer with error=\"{error}\"";
        /// The range that an unsatisfiable one gets.
        UnsatisfiedRange => "bytes */LENGTH";
        /// A value of this type expression.
        HeaderType(expression: String) => "{expression}";
        /// The header, which a description documents as required.
        DocumentedHeader => "the header, as the description requires";
        /// A list with these members.
        ListContaining(members: Vec<String>) => "a list containing {}", each(members);
        /// No directive that allows storing.
        NotStored => "no directive that allows storing; best no-store";
        /// A delay or a date.
        SecondsOrDate => "seconds, or an HTTP date";
        /// The protocols to change to.
        SupportedProtocols => "the supported protocols";

        // Languages.
        /// The language of the title.
        LanguageOfTitle(language: String) => "{language}, as the title is";
        /// The title in the language that was requested.
        TitleIn(title: String, language: String) => "\"{title}\", because {language} was requested";

        // Problem details.
        /// An object.
        Object => "object";
        /// This member.
        Member(name: String) => "the member `{name}`";
        /// The member at that location.
        MemberThere => "the member";
        /// A URI reference.
        UriReference => "a URI reference";
        /// A URI reference as a string.
        UriString => "a URI reference as a string";
        /// This JSON type.
        JsonType(json: JsonType) => "{json}";
        /// A status code as a number.
        StatusNumber => "a status code as a number";
        /// An absolute URI.
        AbsoluteUri => "an absolute URI";
        /// The type, title or code of one of these faults.
        FaultText(texts: Vec<FaultText>) => "{}", one_of(texts);
        /// This title.
        Title(title: String) => "\"{title}\"";
        /// The status code that was sent.
        StatusLine(status: u16) => "{status}, as the status line says";
        /// What was wrong with this request.
        HelpfulDetail => "what was wrong with this request";
        /// A text whose placeholders are filled in.
        FilledText => "a text with its values filled in";
        /// A member that the shape declares.
        MemberOf(shape: String) => "the members of {shape}";
        /// A name that an extension member can have.
        ExtensionName => "letters, digits and `_`, three or more, a letter first";

        // Application codes.
        /// A code.
        Code => "the code of the error";
        /// A code in a range.
        CodeInRange(least: i64, most: i64) => "a code from {least} to {most}";
        /// A code that is declared.
        DeclaredCode => "a code from the contract's catalogue";
        /// A code that does not look like another status.
        CodeUnlikeStatus(status: u16) => "a code that is not another HTTP status than {status}";

        // Shapes and schemas.
        /// A value of this type expression.
        Type(expression: String) => "{expression}";
        /// No member of that name.
        NoSuchMember(shape: String) => "no such member in {shape}";
        /// Any member of a shape.
        AnyMemberOf(shape: String) => "at least one member of {shape}";
        /// No other members than those of a shape.
        OnlyMembersOf(shape: String) => "no member but those of {shape}";
        /// JSON of this shape.
        JsonOfShape(shape: String) => "JSON of the shape {shape}";
        /// What a JSON Schema asks.
        Schema(rule: SchemaRule) => "{rule}";

        // Successes.
        /// A flag that says that it failed.
        FailureFlag(status: u16) => "a failure, as the status {status} says";
        /// No error inside.
        NoErrorInside(status: u16) => "no error inside a {status}";
        /// Every entry of the request either done or failed.
        EachEntryOnce => "every entry of the request in exactly one list";
        /// As many entries as were requested.
        EntryCount(entries: Measured) => "{entries} entries, each succeeded or failed";
        /// One of these faults.
        OneOfFaults(faults: Vec<String>) => "the fault {}", one_of(faults);
        /// The array of failures.
        FailureArray => "the array of failures";

        // Validation errors.
        /// Every invalid field.
        EveryInvalidField(fields: Vec<FieldRef>) => "every invalid field at once ({})", each(fields);
        /// A field named in the member that is there for it.
        FieldInMember(field: FieldRef) => "{field} in the member that names the field";
        /// The location of an invalid field.
        InvalidLocation(fields: Vec<FieldRef>) => "an invalid location ({})", each(fields);
        /// A code that is declared for violations.
        ViolationCode(codes: Vec<String>) => "one of {}", each(codes);
        /// A JSON Pointer.
        JsonPointer => "a JSON Pointer";
        /// A pointer to something in the request's body.
        ResolvingPointer => "a pointer that resolves in the request's body";
        /// A pointer without `#`.
        PlainPointer => "a plain pointer, without `#`";
        /// A pointer with `#`.
        FragmentPointer => "a pointer as a URI fragment, with `#`";
        /// A location as the contract spells it.
        LocationText(location: String) => "\"{location}\"";
        /// A location in that spelling.
        LocationSpelling(spelling: String) => "a location as in {spelling}";
        /// The location of the choice as a whole.
        WholeChoice(choice: Pointer) => "the choice as a whole, {choice}";
        /// The location of the discriminator.
        Discriminator(member: String) => "its member `{member}`";
        /// The object that holds the member.
        ParentObject => "the object that holds it";
        /// The location of the member itself.
        MemberItself(member: Pointer) => "the member itself, {member}";
        /// Each violation once.
        UniqueViolation => "each violation once";
        /// One violation for each location and code.
        OneViolationPerLocationAndCode => "one violation for each location and code";
        /// One violation for each location.
        OneViolationPerLocation => "one violation for each location";
        /// A reason.
        Reason => "a reason";

        // Comparisons.
        /// What most of them have.
        AsMost(value: ObservedValue, kept: Measured, total: Measured, subject: Subject) =>
            "{value}, as in {kept} of {total} {subject}";
        /// The same value in all that are compared, where none is in most of them.
        SameInAll(value: ObservedValue, seen: Measured, total: Measured, subject: Subject) =>
            "the same in all {total} {subject}; {seen} of them: {value}";
        /// What another part of the recordings has.
        AsPart(value: ObservedValue, part: String) => "{value}, as in {part}";
    }
}

/// What a response does that expects nothing there: `exposes a stack trace`.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Negation {
    /// It discloses what it got.
    Exposes,
    /// It sends what it got.
    Sends,
    /// It responds with what it got.
    Responds,
}

impl Negation {
    /// The verb, in the third person.
    #[must_use]
    pub fn verb(self) -> &'static str {
        match self {
            Self::Exposes => "exposes",
            Self::Sends => "sends",
            Self::Responds => "responds",
        }
    }
}

impl Expected {
    /// The fault that it names, the first of several.
    #[must_use]
    pub fn fault(&self) -> Option<&str> {
        match self {
            Self::Fault(faults, _) => faults.first().map(|fault| fault.fault.as_str()),
            Self::FaultOnlyFor(fault, _)
            | Self::StatusOfType(fault)
            | Self::StatusOfCode(fault) => Some(&fault.fault),
            Self::FaultText(texts) => texts.first().map(|text| text.fault.as_str()),
            _ => None,
        }
    }

    /// The verb, where what was got should not be there at all.
    #[must_use]
    pub fn negation(&self) -> Option<Negation> {
        match self {
            Self::NoDisclosure(_) => Some(Negation::Exposes),
            Self::NoContent(_)
            | Self::NoContentToHead
            | Self::NoCharset
            | Self::NoSuchMember(_) => Some(Negation::Sends),
            Self::NoServerError | Self::NoError => Some(Negation::Responds),
            _ => None,
        }
    }
}
