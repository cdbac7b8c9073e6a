//! Where a message ends (RFC 9112 section 6.3), in a file that may be cut or glued together.

use memchr::{memchr, memchr_iter};

use super::chunks::ChunkTracker;
use super::head::{Head, Start, head_length, start_line};

/// How the length of a body is told.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum BodyLength {
    /// There is none.
    Nothing,
    /// By Content-Length.
    Length(u64),
    /// In chunks.
    Chunked,
    /// It runs to the end of the connection.
    UntilClose,
}

/// A message at the start of some bytes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum MessageFrame {
    /// It has so many bytes.
    Whole(usize),
    /// It has so many bytes, and less of it came than it announces.
    Truncated(usize),
    /// More bytes are needed to tell.
    More,
    /// This is no message; the next may start there.
    Stray(usize),
}

/// How the body of a message is told, whose request had that method.
pub(crate) fn framing(head: &Head<'_>, method: &str) -> BodyLength {
    let coded = head.headers.all("transfer-encoding").last();
    let is_chunked = coded.is_some_and(|codings| {
        codings.rsplit(',').next().is_some_and(|last| last.trim().eq_ignore_ascii_case("chunked"))
    });
    let length = head.headers.content_length();
    match head.start {
        Start::Response(_, status, _)
            if method == "HEAD" || matches!(status, 100..=199 | 204 | 304) =>
        {
            BodyLength::Nothing
        }
        _ if is_chunked => BodyLength::Chunked,
        Start::Response(..) if coded.is_some() => BodyLength::UntilClose,
        Start::Response(..) => length.map_or(BodyLength::UntilClose, BodyLength::Length),
        Start::Request(..) => length.map_or(BodyLength::Nothing, BodyLength::Length),
    }
}

/// Finds the message at the start of `bytes`. `method` is that of the request, for a response; `is_end`
/// says that no more bytes come.
pub(crate) fn frame(bytes: &[u8], method: &str, is_end: bool) -> MessageFrame {
    let Some(line) = memchr(b'\n', bytes) else {
        return if is_end { MessageFrame::Stray(bytes.len()) } else { MessageFrame::More };
    };
    if start_line(bytes.get(..line).unwrap_or_default()).is_none() {
        return stray(bytes, is_end);
    }
    let Some(head) = head_length(bytes).and_then(|_| Head::read(bytes)) else {
        return match (next_start(bytes, 1), is_end) {
            (Some(next), _) => MessageFrame::Truncated(next),
            (None, true) => MessageFrame::Truncated(bytes.len()),
            (None, false) => MessageFrame::More,
        };
    };
    let body = head.length;
    // No field looks like the first line of a message: the head was cut there.
    if let Some(next) = next_start(bytes.get(..body).unwrap_or_default(), 1) {
        return MessageFrame::Truncated(next);
    }
    match framing(&head, method) {
        BodyLength::Nothing => MessageFrame::Whole(body),
        BodyLength::Length(length) => {
            let end = usize::try_from(length).ok().and_then(|length| body.checked_add(length));
            announced(bytes, body, end.unwrap_or(usize::MAX), is_end)
        }
        BodyLength::Chunked => {
            let mut tracker = ChunkTracker::START;
            match tracker.take(bytes.get(body..).unwrap_or_default(), |_| {}) {
                Ok(length) if tracker.is_done() => MessageFrame::Whole(body + length),
                Ok(_) => cut_or_more(bytes, body, is_end),
                // The next message may have started within what was taken for a chunk.
                Err(_) => match next_start(bytes, body) {
                    Some(next) => MessageFrame::Truncated(next),
                    None if is_end => MessageFrame::Truncated(bytes.len()),
                    None => MessageFrame::More,
                },
            }
        }
        BodyLength::UntilClose => match next_start(bytes, body) {
            Some(next) => MessageFrame::Whole(next),
            None if is_end => MessageFrame::Whole(bytes.len()),
            None => MessageFrame::More,
        },
    }
}

/// A body of an announced length. If the next message starts before its end, the body was cut there.
fn announced(bytes: &[u8], body: usize, end: usize, is_end: bool) -> MessageFrame {
    if end > bytes.len() {
        return cut_or_more(bytes, body, is_end);
    }
    let behind = bytes.get(end..).unwrap_or_default();
    let ends = behind.iter().take_while(|byte| matches!(byte, b'\r' | b'\n')).count();
    let behind_blank = behind.get(ends..).unwrap_or_default();
    let line = memchr(b'\n', behind_blank).and_then(|line| behind_blank.get(..line));
    let fits = match line {
        Some(line) => start_line(line).is_some(),
        None if is_end => behind_blank.is_empty(),
        // The rest of the next message's first line is not here yet.
        None if behind_blank.len() < 1 << 14 => return MessageFrame::More,
        None => false,
    };
    let next = if fits { None } else { next_start(bytes, body).filter(|next| *next < end) };
    next.map_or(MessageFrame::Whole(end), MessageFrame::Truncated)
}

fn cut_or_more(bytes: &[u8], body: usize, is_end: bool) -> MessageFrame {
    match is_end {
        true => MessageFrame::Truncated(next_start(bytes, body).unwrap_or(bytes.len())),
        false => MessageFrame::More,
    }
}

fn stray(bytes: &[u8], is_end: bool) -> MessageFrame {
    match next_start(bytes, 1) {
        Some(next) => MessageFrame::Stray(next),
        None if is_end => MessageFrame::Stray(bytes.len()),
        None => MessageFrame::More,
    }
}

/// The place at or behind `from` at which a line stands that starts a message.
pub(super) fn next_start(bytes: &[u8], from: usize) -> Option<usize> {
    let is_start = |at: usize| {
        let line = bytes.get(at..)?;
        let line = line.get(..memchr(b'\n', line)?)?;
        // Both forms have it, and few other lines do.
        memchr::memmem::find(line, b"HTTP/")?;
        start_line(line).map(|_| at)
    };
    let before = from.checked_sub(1).and_then(|before| bytes.get(before));
    if (from == 0 || before == Some(&b'\n'))
        && let Some(found) = is_start(from)
    {
        return Some(found);
    }
    let rest = bytes.get(from..)?;
    memchr_iter(b'\n', rest).find_map(|end| is_start(from + end + 1))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn whole(message: &str, method: &str, rest: &str) {
        let bytes = format!("{message}{rest}");
        assert_eq!(
            frame(bytes.as_bytes(), method, true),
            MessageFrame::Whole(message.len()),
            "{bytes}"
        );
    }

    /// RFC 9112 section 6.3, rule by rule.
    #[test]
    fn a_message_ends_where_its_framing_says() {
        let next = "GET /next HTTP/1.1\r\n\r\n";
        whole("GET / HTTP/1.1\r\nHost: a\r\n\r\n", "", next);
        whole("POST / HTTP/1.1\r\nContent-Length: 2\r\n\r\n{}", "", next);
        whole("HTTP/1.1 200 OK\r\nContent-Length: 400\r\n\r\n", "HEAD", next);
        whole("HTTP/1.1 204 No Content\r\nContent-Length: 4\r\n\r\n", "GET", next);
        whole("HTTP/1.1 304 Not Modified\n\n", "GET", next);
        whole("HTTP/1.1 200 OK\r\nContent-Length: 2\r\n\r\n{}", "GET", next);
        whole("HTTP/1.1 200 OK\n\n{}\n", "GET", next);
        whole("HTTP/1.1 200 OK\r\n\r\n{\"a\": 1}", "GET", "");
        let chunked =
            "HTTP/1.1 200 OK\r\nTransfer-Encoding: gzip, Chunked\r\nContent-Length: 9\r\n\r\n";
        whole(&format!("{chunked}2;x=y\r\n{{}}\r\n1\r\n \r\n0\r\nX-Sum: 1\r\n\r\n"), "GET", next);
        whole(&format!("{chunked}2\n{{}}\n0\n\n"), "GET", next);
    }

    #[test]
    fn what_is_cut_ends_where_the_next_message_starts() {
        let next = "GET /next HTTP/1.1\r\n\r\n";
        for cut in [
            "HTTP/1.1 422 No\r\nContent-Length: 400\r\n\r\n{\"title\":\n",
            "HTTP/1.1 200 OK\r\nTransfer-Encoding: chunked\r\n\r\n20\r\n{\"a\"\r\n",
            "HTTP/1.1 200 OK\r\nTransfer-Encoding: chunked\r\n\r\nzz\r\n",
            "HTTP/1.1 200 OK\r\nContent-Le\n",
        ] {
            let bytes = format!("{cut}{next}{next}{}", " ".repeat(500));
            assert_eq!(
                frame(bytes.as_bytes(), "GET", true),
                MessageFrame::Truncated(cut.len()),
                "{bytes}"
            );
            assert_eq!(
                frame(cut.as_bytes(), "GET", true),
                MessageFrame::Truncated(cut.len()),
                "{cut}"
            );
            assert_eq!(frame(cut.as_bytes(), "GET", false), MessageFrame::More, "{cut}");
        }
        assert_eq!(frame(b"junk\nmore\nGET / HTTP/1.1\r\n\r\n", "", true), MessageFrame::Stray(10));
        assert_eq!(frame(b"junk", "", true), MessageFrame::Stray(4));
    }
}
