//! Situations: what was wrong with a request, by name.

/// A situation, in the order in which a grid shows them.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize, serde::Deserialize,
)]
#[serde(rename_all = "kebab-case")]
pub enum Situation {
    /// No endpoint has that path.
    UnknownRoute,
    /// No endpoint anywhere has that method.
    UnknownMethod,
    /// The path is there, and does not offer the method.
    MethodNotAllowed,
    /// The endpoint needs credentials and none were sent.
    MissingCredentials,
    /// Credentials were sent and are no good.
    InvalidCredentials,
    /// The caller may not do this.
    Forbidden,
    /// None of the media types that the request accepts can be had.
    NotAcceptable,
    /// The request's body is of a media type that the endpoint does not take.
    UnsupportedMediaType,
    /// The endpoint needs a body and none was sent.
    MissingBody,
    /// The body is not the JSON that it says it is.
    MalformedBody,
    /// The body is more than the service reads.
    ContentTooLarge,
    /// A path, query or header parameter breaks its rules.
    InvalidParameters,
    /// A member of the body breaks its rules.
    InvalidBody,
    /// A header that makes the request conditional is missing.
    PreconditionRequired,
    /// A condition of the request does not hold.
    PreconditionFailed,
    /// What the request is about does not exist.
    ResourceNotFound,
    /// The request conflicts with the state of what it is about.
    Conflict,
    /// Too many requests were sent.
    TooManyRequests,
    /// The service failed.
    InternalServerError,
    /// The service is not available.
    ServiceUnavailable,
}

impl Situation {
    /// All situations, in the order of a grid.
    pub const ALL: [Self; 20] = [
        Self::UnknownRoute,
        Self::UnknownMethod,
        Self::MethodNotAllowed,
        Self::MissingCredentials,
        Self::InvalidCredentials,
        Self::Forbidden,
        Self::NotAcceptable,
        Self::UnsupportedMediaType,
        Self::MissingBody,
        Self::MalformedBody,
        Self::ContentTooLarge,
        Self::InvalidParameters,
        Self::InvalidBody,
        Self::PreconditionRequired,
        Self::PreconditionFailed,
        Self::ResourceNotFound,
        Self::Conflict,
        Self::TooManyRequests,
        Self::InternalServerError,
        Self::ServiceUnavailable,
    ];

    /// The name in a contract and in every output.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::UnknownRoute => "unknown-route",
            Self::UnknownMethod => "unknown-method",
            Self::MethodNotAllowed => "method-not-allowed",
            Self::MissingCredentials => "missing-credentials",
            Self::InvalidCredentials => "invalid-credentials",
            Self::Forbidden => "forbidden",
            Self::NotAcceptable => "not-acceptable",
            Self::UnsupportedMediaType => "unsupported-media-type",
            Self::MissingBody => "missing-body",
            Self::MalformedBody => "malformed-body",
            Self::ContentTooLarge => "content-too-large",
            Self::InvalidParameters => "invalid-parameters",
            Self::InvalidBody => "invalid-body",
            Self::PreconditionRequired => "precondition-required",
            Self::PreconditionFailed => "precondition-failed",
            Self::ResourceNotFound => "resource-not-found",
            Self::Conflict => "conflict",
            Self::TooManyRequests => "too-many-requests",
            Self::InternalServerError => "internal-server-error",
            Self::ServiceUnavailable => "service-unavailable",
        }
    }

    /// When it holds, in a sentence.
    #[must_use]
    pub fn description(self) -> &'static str {
        match self {
            Self::UnknownRoute => "The path is on the service's servers, and no endpoint has it.",
            Self::UnknownMethod => "No endpoint has the method, and it is none of HTTP's own.",
            Self::MethodNotAllowed => "An endpoint has the path, and none with this method.",
            Self::MissingCredentials => "The endpoint requires credentials, and none were sent.",
            Self::InvalidCredentials => "Credentials were sent, and they are not valid.",
            Self::Forbidden => "The caller is known, and may not do this.",
            Self::NotAcceptable => {
                "None of the media types that the endpoint produces falls under `Accept`."
            }
            Self::UnsupportedMediaType => {
                "The body's media type is none of those that the endpoint accepts."
            }
            Self::MissingBody => "A body is required, and none was sent.",
            Self::MalformedBody => "The body says that it is JSON, and is not.",
            Self::ContentTooLarge => "The body is larger than the endpoint reads.",
            Self::InvalidParameters => "A parameter is missing or breaks its rule.",
            Self::InvalidBody => "The body is JSON, and breaks the rules for it.",
            Self::PreconditionRequired => "A header that makes the request conditional is missing.",
            Self::PreconditionFailed => "A condition of the request does not hold.",
            Self::ResourceNotFound => "What the request is about does not exist.",
            Self::Conflict => "The request conflicts with the state of what it is about.",
            Self::TooManyRequests => "The caller sent too many requests.",
            Self::InternalServerError => "The service failed.",
            Self::ServiceUnavailable => "The service, or one that it needs, is not available.",
        }
    }

    /// The situation of that name.
    #[must_use]
    pub fn named(name: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|situation| situation.name() == name)
    }

    /// Is this one that `place` can see from a request and the contract?
    ///
    /// The others can be true of any request as far as a recording shows.
    #[must_use]
    pub fn is_visible_in_request(self) -> bool {
        matches!(
            self,
            Self::UnknownRoute
                | Self::UnknownMethod
                | Self::MethodNotAllowed
                | Self::MissingCredentials
                | Self::NotAcceptable
                | Self::UnsupportedMediaType
                | Self::MissingBody
                | Self::MalformedBody
                | Self::ContentTooLarge
                | Self::InvalidParameters
                | Self::InvalidBody
                | Self::PreconditionRequired
        )
    }

    /// The status that a service usually responds with (RFC 9110 section 15.5, RFC 6585), where there is one that
    /// means this situation.
    #[must_use]
    pub fn usual_status(self) -> Option<u16> {
        Some(match self {
            Self::UnknownRoute | Self::ResourceNotFound => 404,
            Self::UnknownMethod => 501,
            Self::MethodNotAllowed => 405,
            Self::MissingCredentials | Self::InvalidCredentials => 401,
            Self::Forbidden => 403,
            Self::NotAcceptable => 406,
            Self::UnsupportedMediaType => 415,
            Self::ContentTooLarge => 413,
            Self::PreconditionRequired => 428,
            Self::PreconditionFailed => 412,
            Self::Conflict => 409,
            Self::TooManyRequests => 429,
            Self::ServiceUnavailable => 503,
            Self::InternalServerError => 500,
            Self::MissingBody
            | Self::MalformedBody
            | Self::InvalidParameters
            | Self::InvalidBody => return None,
        })
    }

    /// The situation that a response of this status tells of, where the request does not.
    #[must_use]
    pub fn implied_by_status(status: u16) -> Option<Self> {
        Some(match status {
            401 => Self::InvalidCredentials,
            403 => Self::Forbidden,
            404 | 410 => Self::ResourceNotFound,
            406 => Self::NotAcceptable,
            409 => Self::Conflict,
            412 => Self::PreconditionFailed,
            413 => Self::ContentTooLarge,
            428 => Self::PreconditionRequired,
            429 => Self::TooManyRequests,
            502..=504 => Self::ServiceUnavailable,
            500.. => Self::InternalServerError,
            _ => return None,
        })
    }
}

impl std::fmt::Display for Situation {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(self.name())
    }
}

/// A set of situations; they come in the order of a grid.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Hash)]
pub struct SituationSet(u32);

impl SituationSet {
    /// Every situation.
    pub const EVERY: Self = Self((1 << Situation::ALL.len()) - 1);

    /// Adds one.
    pub fn insert(&mut self, situation: Situation) {
        self.0 |= 1 << situation as u32;
    }

    /// Takes one out.
    pub fn remove(&mut self, situation: Situation) {
        self.0 &= !(1 << situation as u32);
    }

    /// Is it among them?
    #[must_use]
    pub fn contains(self, situation: Situation) -> bool {
        self.0 >> situation as u32 & 1 == 1
    }

    /// Is there none?
    #[must_use]
    pub fn is_empty(self) -> bool {
        self.0 == 0
    }

    /// Each of them.
    pub fn iter(self) -> impl Iterator<Item = Situation> {
        Situation::ALL.into_iter().filter(move |situation| self.contains(*situation))
    }
}

impl Extend<Situation> for SituationSet {
    fn extend<I: IntoIterator<Item = Situation>>(&mut self, situations: I) {
        situations.into_iter().for_each(|situation| self.insert(situation));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_set_gives_its_situations_in_order() {
        let mut set = SituationSet::default();
        set.extend([
            Situation::ServiceUnavailable,
            Situation::UnknownRoute,
            Situation::ServiceUnavailable,
        ]);
        assert_eq!(
            set.iter().collect::<Vec<_>>(),
            [Situation::UnknownRoute, Situation::ServiceUnavailable]
        );
        set.remove(Situation::UnknownRoute);
        assert!(
            set.contains(Situation::ServiceUnavailable) && !set.contains(Situation::UnknownRoute)
        );
        assert_eq!(SituationSet::EVERY.iter().collect::<Vec<_>>(), Situation::ALL);
    }

    #[test]
    fn every_situation_is_found_by_its_name_and_stands_in_order() {
        for situation in Situation::ALL {
            assert_eq!(Situation::named(situation.name()), Some(situation));
        }
        assert!(Situation::ALL.is_sorted());
        assert_eq!(Situation::named("route_unknown"), None);
    }
}
