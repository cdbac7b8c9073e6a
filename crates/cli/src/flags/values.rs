//! Values of options, and what is said of those that are no such value.

use std::net::SocketAddr;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use faithful_clerk_recording::LineMap;
use jiff::civil::Date;

use crate::inputs::read_text_file;

/// A map that a call names.
#[derive(Debug, Clone)]
pub(crate) struct LoadedMap {
    pub(crate) map: Arc<LineMap>,
    /// The digest of its text.
    pub(crate) digest: String,
    pub(crate) path: PathBuf,
}

/// A map, from its file.
pub(super) fn line_map(path: &str) -> Result<LoadedMap, String> {
    let bytes = read_text_file(Path::new(path)).map_err(|error| error.to_string())?;
    let text = String::from_utf8(bytes).map_err(|error| {
        let at = error.utf8_error().valid_up_to();
        format!("it is not UTF-8 at byte {at}")
    })?;
    let map = Arc::new(LineMap::parse(&text)?);
    let digest = blake3::hash(text.as_bytes()).to_hex().to_string();
    Ok(LoadedMap { map, digest, path: PathBuf::from(path) })
}

/// A date such as `2027-05-31`.
pub(super) fn date(text: &str) -> Result<Date, String> {
    text.parse().map_err(|_| {
        let meant = day_first(text).map(|date| format!("; did you mean {date}?"));
        format!("write the date as YEAR-MONTH-DAY, as in 2027-05-31{}", meant.unwrap_or_default())
    })
}

/// `31.05.2027` or `31/5/2027` as a date, where it can only be read so.
fn day_first(text: &str) -> Option<Date> {
    let parts: Vec<&str> = text.split(['.', '/', '-']).map(str::trim).collect();
    let [day, month, year] = parts.as_slice() else { return None };
    // With slashes the month may come first, unless it is too great for one.
    let is_clear = text.contains('.') || day.parse::<u8>().is_ok_and(|day| day > 12);
    Date::new(year.parse().ok()?, month.parse().ok()?, day.parse().ok()?).ok().filter(|_| is_clear)
}

/// An address and a port.
pub(super) fn address(text: &str) -> Result<SocketAddr, String> {
    text.parse().map_err(|_| {
        let meant = match text.trim_start_matches(':').parse::<u16>() {
            Ok(port) => format!("; did you mean 127.0.0.1:{port}?"),
            Err(_) => match text.strip_prefix("localhost:").map(str::parse::<u16>) {
                Some(Ok(port)) => format!("; did you mean 127.0.0.1:{port}?"),
                _ => String::new(),
            },
        };
        format!("write ADDRESS:PORT, as in 127.0.0.1:7979{meant}")
    })
}

/// A URL with its scheme.
pub(super) fn url(text: &str) -> Result<String, String> {
    let scheme = text.split_once("://").map(|(scheme, _)| scheme.to_ascii_lowercase());
    match scheme.as_deref() {
        Some("http" | "https") => Ok(text.to_owned()),
        Some(other) => Err(format!("the scheme {other} is not supported; write http or https")),
        None => {
            let host = text.trim_start_matches('/');
            let is_here = host.starts_with("127.")
                || host.starts_with("localhost")
                || host.starts_with("[::1]");
            let scheme = if is_here { "http" } else { "https" };
            Err(format!("a URL starts with its scheme; did you mean {scheme}://{host}?"))
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_date_that_is_written_otherwise_is_understood_and_not_taken() {
        assert_eq!(date("2027-05-31").unwrap().to_string(), "2027-05-31");
        for (text, meant) in [
            ("31.05.2027", Some("2027-05-31")),
            ("31/5/2027", Some("2027-05-31")),
            ("5/6/2027", None),
            ("soon", None),
            ("32.05.2027", None),
        ] {
            let why = date(text).unwrap_err();
            assert_eq!(why.contains("did you mean"), meant.is_some(), "{why}");
            assert!(why.contains(meant.unwrap_or_default()), "{why}");
        }
    }

    #[test]
    fn a_port_or_a_host_alone_is_understood() {
        for (text, words) in [
            ("8080", "did you mean 127.0.0.1:8080?"),
            (":8080", "did you mean 127.0.0.1:8080?"),
            ("localhost:8080", "did you mean 127.0.0.1:8080?"),
            ("harbour", "as in 127.0.0.1:7979"),
        ] {
            assert!(address(text).unwrap_err().contains(words), "{text}");
        }
        for (text, words) in [
            ("127.0.0.1:5101", "did you mean http://127.0.0.1:5101?"),
            ("harbour.example/v1", "did you mean https://harbour.example/v1?"),
            ("ftp://harbour.example", "the scheme ftp is not supported"),
        ] {
            assert!(url(text).unwrap_err().contains(words), "{text}");
        }
    }
}
