//! Situations: what was wrong with a request, by name.

/// A situation, in the order in which a grid shows them.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
pub enum Situation {
    /// No endpoint has that path.
    RouteUnknown,
    /// No endpoint anywhere has that method.
    MethodUnknown,
    /// The path is there, and does not offer the method.
    MethodNotOffered,
    /// The endpoint needs credentials and none were sent.
    CredentialsMissing,
    /// Credentials were sent and are no good.
    CredentialsRejected,
    /// The caller may not do this.
    NotPermitted,
    /// None of the media types that the request accepts can be had.
    NotAcceptable,
    /// The request's body is of a media type that the endpoint does not take.
    MediaUnsupported,
    /// The endpoint needs a body and none was sent.
    BodyMissing,
    /// The body is not the JSON that it says it is.
    BodyMalformed,
    /// The body is more than the service reads.
    TooLarge,
    /// A path, query or header parameter breaks its rules.
    ParametersInvalid,
    /// A member of the body breaks its rules.
    FieldsInvalid,
    /// A header that makes the request conditional is missing.
    PreconditionMissing,
    /// A condition of the request does not hold.
    PreconditionFailed,
    /// What the request is about does not exist.
    ResourceMissing,
    /// The request conflicts with the state of what it is about.
    Conflict,
    /// Too many requests were sent.
    RateLimited,
    /// The service failed.
    ServerFailed,
    /// The service is not available.
    Unavailable,
}

impl Situation {
    /// All situations, in the order of a grid.
    pub const ALL: [Self; 20] = [
        Self::RouteUnknown,
        Self::MethodUnknown,
        Self::MethodNotOffered,
        Self::CredentialsMissing,
        Self::CredentialsRejected,
        Self::NotPermitted,
        Self::NotAcceptable,
        Self::MediaUnsupported,
        Self::BodyMissing,
        Self::BodyMalformed,
        Self::TooLarge,
        Self::ParametersInvalid,
        Self::FieldsInvalid,
        Self::PreconditionMissing,
        Self::PreconditionFailed,
        Self::ResourceMissing,
        Self::Conflict,
        Self::RateLimited,
        Self::ServerFailed,
        Self::Unavailable,
    ];

    /// The name in a contract and in every output.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::RouteUnknown => "route-unknown",
            Self::MethodUnknown => "method-unknown",
            Self::MethodNotOffered => "method-not-offered",
            Self::CredentialsMissing => "credentials-missing",
            Self::CredentialsRejected => "credentials-rejected",
            Self::NotPermitted => "not-permitted",
            Self::NotAcceptable => "not-acceptable",
            Self::MediaUnsupported => "media-unsupported",
            Self::BodyMissing => "body-missing",
            Self::BodyMalformed => "body-malformed",
            Self::TooLarge => "too-large",
            Self::ParametersInvalid => "parameters-invalid",
            Self::FieldsInvalid => "fields-invalid",
            Self::PreconditionMissing => "precondition-missing",
            Self::PreconditionFailed => "precondition-failed",
            Self::ResourceMissing => "resource-missing",
            Self::Conflict => "conflict",
            Self::RateLimited => "rate-limited",
            Self::ServerFailed => "server-failed",
            Self::Unavailable => "unavailable",
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
    pub fn is_seen_from_the_request(self) -> bool {
        matches!(
            self,
            Self::RouteUnknown
                | Self::MethodUnknown
                | Self::MethodNotOffered
                | Self::CredentialsMissing
                | Self::NotAcceptable
                | Self::MediaUnsupported
                | Self::BodyMissing
                | Self::BodyMalformed
                | Self::TooLarge
                | Self::ParametersInvalid
                | Self::FieldsInvalid
                | Self::PreconditionMissing
        )
    }

    /// The situation that an answer of this status tells of, where the request does not.
    #[must_use]
    pub fn told_by_status(status: u16) -> Option<Self> {
        Some(match status {
            401 => Self::CredentialsRejected,
            403 => Self::NotPermitted,
            404 | 410 => Self::ResourceMissing,
            406 => Self::NotAcceptable,
            409 => Self::Conflict,
            412 => Self::PreconditionFailed,
            413 => Self::TooLarge,
            428 => Self::PreconditionMissing,
            429 => Self::RateLimited,
            502..=504 => Self::Unavailable,
            500.. => Self::ServerFailed,
            _ => return None,
        })
    }
}

/// A set of situations; they come in the order of a grid.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
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
        set.extend([Situation::Unavailable, Situation::RouteUnknown, Situation::Unavailable]);
        assert_eq!(
            set.iter().collect::<Vec<_>>(),
            [Situation::RouteUnknown, Situation::Unavailable]
        );
        set.remove(Situation::RouteUnknown);
        assert!(set.contains(Situation::Unavailable) && !set.contains(Situation::RouteUnknown));
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
