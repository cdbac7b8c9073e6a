//! Media types, as far as checking needs them: the type itself without parameters, its kind, its charset.

use std::borrow::Cow;

/// The type and subtype in lower case, without parameters (RFC 9110 section 8.3.1).
///
/// `application/problem+json; charset=utf-8` gives `application/problem+json`.
#[must_use]
pub fn essence(media: &str) -> Cow<'_, str> {
    if matches!(media, "application/json" | "application/problem+json") {
        return Cow::Borrowed(media);
    }
    // Nearly all others are in lower case, too, and have at most parameters behind them.
    let is_plain =
        |byte: &u8| matches!(byte, b'a'..=b'z' | b'0'..=b'9' | b'/' | b'+' | b'-' | b'.');
    let plain = media.bytes().take_while(is_plain).count();
    match media.split_at_checked(plain) {
        Some((essence, rest)) if rest.is_empty() || rest.starts_with(';') => {
            return Cow::Borrowed(essence);
        }
        _ => {}
    }
    let essence = media.split(';').next().unwrap_or_default().trim();
    match essence.bytes().any(|byte| byte.is_ascii_uppercase()) {
        true => Cow::Owned(essence.to_ascii_lowercase()),
        false => Cow::Borrowed(essence),
    }
}

/// Text in UTF-8, of bytes in the charset that a media type says. What says none, or is UTF-8 anyway, is left.
#[must_use]
pub fn in_utf_8<'b>(bytes: &'b [u8], media: &str) -> Cow<'b, [u8]> {
    const LATIN_1: [&str; 4] = ["iso-8859-1", "latin1", "iso_8859-1", "windows-1252"];
    if std::str::from_utf8(bytes).is_ok() {
        return Cow::Borrowed(bytes);
    }
    let charset = media.split(';').skip(1).find_map(|parameter| {
        let (name, value) = parameter.split_once('=')?;
        name.trim().eq_ignore_ascii_case("charset").then(|| value.trim().trim_matches('"'))
    });
    let is_latin_1 =
        LATIN_1.iter().any(|name| charset.is_some_and(|c| c.eq_ignore_ascii_case(name)));
    if !is_latin_1 {
        return Cow::Borrowed(bytes);
    }
    // Every byte of Latin-1 is the code point of its number; Windows' own characters are few.
    let text: String = bytes.iter().copied().map(char::from).collect();
    Cow::Owned(text.into_bytes())
}

/// The media type of JSON:API 1.1.
pub const JSON_API: &str = "application/vnd.api+json";

/// The parameters of a media type that JSON:API 1.1 does not allow ('Content Negotiation'): all but `ext` and `profile`,
/// and the weight of a range in `Accept`.
pub fn json_api_misuse(media: &str) -> impl Iterator<Item = &str> {
    let parameters = media.split(';').skip(1).map(str::trim).filter(|text| !text.is_empty());
    parameters.filter(|parameter| {
        let name = parameter.split('=').next().unwrap_or_default().trim();
        !["ext", "profile", "q"].iter().any(|known| name.eq_ignore_ascii_case(known))
    })
}

/// The severity of a range in `Accept` (RFC 9110 section 12.4.2); one that can't be read counts 1.
#[must_use]
pub fn weight(range: &str) -> f64 {
    let mut parameters = range.split(';').skip(1).map(str::trim);
    let weight = parameters.find_map(|parameter| {
        parameter.strip_prefix("q=").or_else(|| parameter.strip_prefix("Q="))
    });
    weight.and_then(|weight| weight.trim().parse().ok()).unwrap_or(1.0)
}

/// Is a media type the declared one: its essence, and the parameters that the declaration names?
#[must_use]
pub fn is_declared(media: &str, declared: &str) -> bool {
    let parameters = |text: &str| -> Vec<(String, String)> {
        let pairs = text.split(';').skip(1).filter_map(|part| part.trim().split_once('='));
        pairs
            .map(|(name, value)| (name.to_ascii_lowercase(), value.trim_matches('"').to_owned()))
            .collect()
    };
    let own = parameters(media);
    essence(media) == essence(declared) && parameters(declared).iter().all(|one| own.contains(one))
}

/// How much a media type is wanted by the values of `Accept`, from 0 to 1: the most specific range that covers it decides
/// (RFC 9110 section 12.5.1). Where no range is named, all are wanted.
#[must_use]
pub fn quality<'v>(wanted: &str, accept: impl Iterator<Item = &'v str>) -> f64 {
    let specificity = |range: &str| match range {
        "*/*" => 0,
        range if range.ends_with("/*") => 1,
        _ => 2,
    };
    let ranges: Vec<(Cow<'_, str>, f64)> = accept
        .flat_map(|value| value.split(','))
        .map(|range| (essence(range.trim()), weight(range)))
        .filter(|(range, _)| !range.is_empty())
        .collect();
    if ranges.is_empty() {
        return 1.0;
    }
    let covering = ranges.iter().filter(|(range, _)| falls_under(wanted, range));
    let best = covering.max_by(|(one, weight), (other, other_weight)| {
        specificity(one).cmp(&specificity(other)).then(weight.total_cmp(other_weight))
    });
    best.map_or(0.0, |(_, weight)| *weight)
}

/// Is this essence JSON: `application/json`, `text/json`, or the `+json` suffix (RFC 6839 section 3.1)?
#[must_use]
pub fn is_json(essence: &str) -> bool {
    matches!(essence, "application/json" | "text/json") || essence.ends_with("+json")
}

/// Is this essence HTML?
#[must_use]
pub fn is_html(essence: &str) -> bool {
    matches!(essence, "text/html" | "application/xhtml+xml")
}

/// Does `essence` fall under `range`, which may be `*/*` or `type/*` (RFC 9110 section 12.5.1)?
#[must_use]
pub fn falls_under(essence: &str, range: &str) -> bool {
    if range == "*/*" || range == essence {
        return true;
    }
    range.strip_suffix("/*").is_some_and(|family| {
        essence.strip_prefix(family).is_some_and(|rest| rest.starts_with('/'))
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn parameters_and_letter_case_do_not_make_another_type() {
        for media in [
            "application/json",
            "Application/JSON; charset=utf-8",
            "application/json;charset=UTF-8",
        ] {
            assert_eq!(essence(media), "application/json");
        }
    }

    #[test]
    fn json_is_known_by_name_or_suffix() {
        assert!(is_json("application/json") && is_json("application/vnd.api+json"));
        assert!(!is_json("application/jsonp") && !is_json("text/plain"));
    }

    #[test]
    fn a_range_weighs_one_unless_it_says() {
        assert_eq!(
            (weight("text/html"), weight("a/b;q=0"), weight("a/b; x=1; q=0.5")),
            (1.0, 0.0, 0.5)
        );
    }

    #[test]
    fn the_most_specific_range_decides() {
        for (accept, wanted, quality) in [
            (&["application/json"][..], "application/json", 1.0),
            (&["text/*;q=0.3, text/html;q=0.7, */*;q=0.5"], "text/html", 0.7),
            (&["text/*;q=0.3, text/html;q=0.7, */*;q=0.5"], "text/plain", 0.3),
            (&["text/*;q=0.3, text/html;q=0.7, */*;q=0.5"], "image/png", 0.5),
            (&["*/*, application/json;q=0"], "application/json", 0.0),
            (&["application/*;q=0", "*/*"], "application/json", 0.0),
            (&["text/html"], "application/json", 0.0),
            (&[], "application/json", 1.0),
            (&["", " , "], "application/json", 1.0),
            (&["Application/JSON; charset=utf-8; q=0.2"], "application/json", 0.2),
        ] {
            assert_eq!(
                super::quality(wanted, accept.iter().copied()),
                quality,
                "{accept:?} {wanted}"
            );
        }
    }

    #[test]
    fn declared_parameters_make_another_type_and_others_do_not() {
        for (media, declared, is_it) in [
            ("application/json; charset=utf-8", "application/json", true),
            ("application/json;version=2", "application/json; version=2", true),
            ("application/json; Version=\"2\"; x=1", "application/json; version=2", true),
            ("application/json", "application/json; version=2", false),
            ("application/json; version=1", "application/json; version=2", false),
            ("text/json; version=2", "application/json; version=2", false),
        ] {
            assert_eq!(is_declared(media, declared), is_it, "{media} {declared}");
        }
    }

    #[test]
    fn ranges_cover_whole_types_only() {
        assert!(falls_under("image/png", "image/*"));
        assert!(!falls_under("imagery/png", "image/*"));
        assert!(falls_under("text/plain", "*/*"));
    }
}
