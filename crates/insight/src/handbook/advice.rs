//! When errors come, and what whoever gets one can do.

use faithful_clerk_model::situation::Situation;

/// When a situation holds, as the end of a sentence that starts with 'It comes when'.
#[must_use]
pub fn comes_when(situation: Situation) -> &'static str {
    match situation {
        Situation::UnknownRoute => "the path leads nowhere",
        Situation::UnknownMethod => "the method is known nowhere in the service",
        Situation::MethodNotAllowed => "the path does not offer the method",
        Situation::MissingCredentials => "the request carries no credentials",
        Situation::InvalidCredentials => "the credentials are not valid",
        Situation::Forbidden => "the caller may not do this",
        Situation::NotAcceptable => "none of the media types that the request accepts is available",
        Situation::MissingBody => "the request needs a body and has none",
        Situation::MalformedBody => "the body is not the JSON that it says it is",
        Situation::UnsupportedMediaType => "the body's media type is not one that is taken",
        Situation::ContentTooLarge => "the body is larger than the service reads",
        Situation::InvalidParameters => "a parameter breaks its rules",
        Situation::InvalidBody => "members of the body break their rules",
        Situation::PreconditionRequired => "a header that makes the request conditional is missing",
        Situation::PreconditionFailed => "a condition of the request does not hold",
        Situation::ResourceNotFound => "the requested resource does not exist",
        Situation::Conflict => "the request conflicts with the state of the resource",
        Situation::TooManyRequests => "too many requests were sent",
        Situation::InternalServerError => "the service failed",
        Situation::ServiceUnavailable => "the service is not available",
    }
}

/// What a caller can do about a status (RFC 9110 section 15, RFC 6585), where the contract does not say.
#[must_use]
pub fn advice(status: u16) -> &'static str {
    match status {
        400 => "Fix the request. The same one will be refused again.",
        401 => {
            "Get valid credentials, in a form that WWW-Authenticate names, and send the request again."
        }
        402 | 403 => "Ask for permission. Sending it again with the same credentials won't help.",
        404 => {
            "Check the path and the ids in it. The same request may work once the resource exists."
        }
        405 => "Use one of the methods that Allow names.",
        406 => "Accept one of the media types that the service has.",
        408 => "Send the request again, on a new connection.",
        409 => "Read the resource's current state, resolve the conflict, and send a new request.",
        410 => "It is gone for good: forget the link.",
        411 => "Send a Content-Length.",
        412 => {
            "Read the resource again, check that the change is still wanted, and send it with the new condition."
        }
        413 => "Send less at a time.",
        415 => "Send the body in a media type that is taken.",
        416 => "Ask for a range within the content.",
        422 => "Correct everything that the response names, and send the request again.",
        428 => "Read the resource first, then send the request with a condition.",
        429 => "Wait as long as Retry-After says, and send less often.",
        431 => "Send fewer or shorter headers.",
        501 => "The service can't do this; nothing in the request needs fixing.",
        502..=504 => {
            "Try again later, as Retry-After says if it is there, and wait longer each time."
        }
        500..=599 => {
            "It is the service's fault. Report it; whether trying again is safe depends on the method."
        }
        _ => "Read the title and the detail; the same request will most likely be refused again.",
    }
}
