//! Which language was due (RFC 9110 section 12.5.4, lookup by RFC 4647 section 3.4).

/// The language of those that the service has that the request asks for most; the first where it asks
/// for none of them. `None` where the service has but one, whatever is accepted.
pub(super) fn due<'l, 's>(
    accept: impl FnOnce() -> Option<&'s str>,
    languages: &'l [String],
) -> Option<&'l str> {
    if languages.len() < 2 {
        return None;
    }
    let default = languages.first().map(String::as_str);
    let ranges = ranges(accept().unwrap_or_default());
    let refused = |language: &str| {
        ranges
            .iter()
            .any(|(range, severity)| *severity == 0.0 && range.eq_ignore_ascii_case(language))
    };
    for (range, _) in ranges.iter().filter(|(_, severity)| *severity > 0.0) {
        let found = match *range {
            "*" => languages.iter().find(|language| !refused(language)),
            range => lookup(range, languages),
        };
        if let Some(language) = found.filter(|language| !refused(language)) {
            return Some(language);
        }
    }
    default
}

/// The ranges with their severity, the greatest first; equal ones as they stand.
fn ranges(accept: &str) -> Vec<(&str, f64)> {
    let mut ranges: Vec<(&str, f64)> = Vec::new();
    for item in accept.split(',') {
        let (range, rest) = item.split_once(';').unwrap_or((item, ""));
        let severity = rest.trim().strip_prefix("q=").map_or(Some(1.0), |q| q.trim().parse().ok());
        if let Some(severity) = severity.filter(|severity: &f64| severity.is_finite())
            && !range.trim().is_empty()
        {
            ranges.push((range.trim(), severity));
        }
    }
    ranges.sort_by(|one, other| other.1.total_cmp(&one.1));
    ranges
}

/// `de-CH` finds `de-CH`, else `de`; and where only `de-AT` is there, `de` finds that.
fn lookup<'l>(range: &str, languages: &'l [String]) -> Option<&'l String> {
    let mut wanted = range;
    loop {
        if let Some(found) = languages.iter().find(|have| have.eq_ignore_ascii_case(wanted)) {
            return Some(found);
        }
        match wanted.rsplit_once('-') {
            Some((shorter, _)) => wanted = shorter,
            None => break,
        }
    }
    let prefix = format!("{}-", range.to_ascii_lowercase());
    languages.iter().find(|have| have.to_ascii_lowercase().starts_with(&prefix))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_language_that_is_asked_for_most_is_due() {
        let languages = ["en".to_owned(), "de".to_owned(), "pt-BR".to_owned()];
        for (accept, language) in [
            (None, "en"),
            (Some("de"), "de"),
            (Some("de-CH, en;q=0.9"), "de"),
            (Some("en;q=0.5, de;q=0.8"), "de"),
            (Some("fr, de;q=0.2"), "de"),
            (Some("fr"), "en"),
            (Some("*"), "en"),
            (Some("en;q=0, *"), "de"),
            (Some("pt"), "pt-BR"),
            (Some("DE"), "de"),
            (Some("de;q=x, en"), "en"),
            (Some(""), "en"),
        ] {
            assert_eq!(due(|| accept, &languages), Some(language), "{accept:?}");
        }
        assert_eq!(due(|| Some("de"), &languages[..1]), None);
    }
}
