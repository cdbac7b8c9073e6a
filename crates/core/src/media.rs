//! Media types, as far as judging needs them: the type itself without parameters, and its kind.

/// The type and subtype in lower case, without parameters (RFC 9110 section 8.3.1).
///
/// `application/problem+json; charset=utf-8` gives `application/problem+json`.
#[must_use]
pub fn essence(media: &str) -> String {
    media.split(';').next().unwrap_or_default().trim().to_ascii_lowercase()
}

/// The weight of a range in `Accept` (RFC 9110 section 12.4.2); one that can't be read weighs 1.
#[must_use]
pub fn weight(range: &str) -> f64 {
    let mut parameters = range.split(';').skip(1).map(str::trim);
    let weight = parameters.find_map(|parameter| {
        parameter.strip_prefix("q=").or_else(|| parameter.strip_prefix("Q="))
    });
    weight.and_then(|weight| weight.trim().parse().ok()).unwrap_or(1.0)
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
    fn ranges_cover_whole_types_only() {
        assert!(falls_under("image/png", "image/*"));
        assert!(!falls_under("imagery/png", "image/*"));
        assert!(falls_under("text/plain", "*/*"));
    }
}
