//! Status codes and their type expressions, from the IANA HTTP Status Code Registry.

/// Each code with its phrase. 306 and 418 are reserved and unused, so they are not here.
const REGISTRY: [(u16, &str); 62] = [
    (100, "Continue"),
    (101, "Switching Protocols"),
    (102, "Processing"),
    (103, "Early Hints"),
    (104, "Upload Resumption Supported"),
    (200, "OK"),
    (201, "Created"),
    (202, "Accepted"),
    (203, "Non-Authoritative Information"),
    (204, "No Content"),
    (205, "Reset Content"),
    (206, "Partial Content"),
    (207, "Multi-Status"),
    (208, "Already Reported"),
    (226, "IM Used"),
    (300, "Multiple Choices"),
    (301, "Moved Permanently"),
    (302, "Found"),
    (303, "See Other"),
    (304, "Not Modified"),
    (305, "Use Proxy"),
    (307, "Temporary Redirect"),
    (308, "Permanent Redirect"),
    (400, "Bad Request"),
    (401, "Unauthorized"),
    (402, "Payment Required"),
    (403, "Forbidden"),
    (404, "Not Found"),
    (405, "Method Not Allowed"),
    (406, "Not Acceptable"),
    (407, "Proxy Authentication Required"),
    (408, "Request Timeout"),
    (409, "Conflict"),
    (410, "Gone"),
    (411, "Length Required"),
    (412, "Precondition Failed"),
    (413, "Content Too Large"),
    (414, "URI Too Long"),
    (415, "Unsupported Media Type"),
    (416, "Range Not Satisfiable"),
    (417, "Expectation Failed"),
    (421, "Misdirected Request"),
    (422, "Unprocessable Content"),
    (423, "Locked"),
    (424, "Failed Dependency"),
    (425, "Too Early"),
    (426, "Upgrade Required"),
    (428, "Precondition Required"),
    (429, "Too Many Requests"),
    (431, "Request Header Fields Too Large"),
    (451, "Unavailable For Legal Reasons"),
    (500, "Internal Server Error"),
    (501, "Not Implemented"),
    (502, "Bad Gateway"),
    (503, "Service Unavailable"),
    (504, "Gateway Timeout"),
    (505, "HTTP Version Not Supported"),
    (506, "Variant Also Negotiates"),
    (507, "Insufficient Storage"),
    (508, "Loop Detected"),
    (510, "Not Extended"),
    (511, "Network Authentication Required"),
];

/// Is the code in the registry and in use?
#[must_use]
pub fn is_registered(status: u16) -> bool {
    phrase(status).is_some()
}

/// The code's phrase.
#[must_use]
pub fn phrase(status: u16) -> Option<&'static str> {
    REGISTRY.iter().find(|(code, _)| *code == status).map(|(_, phrase)| *phrase)
}

/// Phrases that a code had in earlier RFCs: RFC 2616, RFC 7231, RFC 4918.
const OLDER: [(u16, &str); 9] = [
    (302, "Moved Temporarily"),
    (408, "Request Time-out"),
    (413, "Payload Too Large"),
    (413, "Request Entity Too Large"),
    (414, "Request-URI Too Long"),
    (414, "Request-URI Too Large"),
    (416, "Requested Range Not Satisfiable"),
    (422, "Unprocessable Entity"),
    (504, "Gateway Time-out"),
];

/// The code's phrase, and behind it those that it had before.
pub fn phrases(status: u16) -> impl Iterator<Item = &'static str> {
    let older = OLDER.iter().filter(move |(code, _)| *code == status).map(|(_, phrase)| *phrase);
    phrase(status).into_iter().chain(older)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_table_is_sorted_and_knows_what_is_reserved() {
        assert!(REGISTRY.is_sorted_by_key(|(code, _)| code));
        for code in [306, 418, 520, 99, 600] {
            assert!(!is_registered(code), "{code}");
        }
        let phrases: Vec<&str> = phrases(422).collect();
        assert_eq!(phrases, ["Unprocessable Content", "Unprocessable Entity"]);
    }
}
