//! Where the page of a problem type stands, so that its URI leads to it.

/// No step of a path is longer than file systems take.
const LONGEST: usize = 200;

/// Where a page stands.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub struct PagePath {
    /// Its folders and its file, without the ending.
    pub path: String,
    /// The anchor within it, for a type with a fragment.
    pub anchor: Option<String>,
    /// Does the type's URI lead there, if the handbook is put at the root of its host?
    pub is_at_its_uri: bool,
}

/// The page of a fault of that name, with that type.
///
/// A type with a path gets it: `https://harbour.example/faults/berth-taken` stands in
/// `faults/berth-taken/index`, and one that ends in `.html` in that very file. A type without one (`urn:`,
/// `tag:`), or with a path that can't be a file's, stands in `types/NAME/index`.
#[must_use]
pub fn page_of(name: &str, type_uri: &str) -> PagePath {
    let (whole, fragment) = match type_uri.split_once('#') {
        Some((whole, fragment)) => (whole, Some(fragment)),
        None => (type_uri, None),
    };
    let path = path_of(whole.split('?').next().unwrap_or_default());
    let steps = path.and_then(steps).filter(|steps| !steps.is_empty());
    let Some(mut steps) = steps else {
        let path = format!("types/{}/index", safe(name));
        return PagePath { path, anchor: None, is_at_its_uri: false };
    };
    let file = steps.last().and_then(|last| {
        let (stem, ending) = last.rsplit_once('.')?;
        (matches!(ending, "html" | "htm") && !stem.is_empty()).then(|| stem.to_owned())
    });
    match file {
        Some(stem) => {
            steps.pop();
            steps.push(stem);
        }
        None => steps.push("index".to_owned()),
    }
    let anchor = fragment
        .and_then(faithful_clerk_model::percent::decode)
        .filter(|anchor| !anchor.is_empty());
    PagePath { path: steps.join("/"), anchor, is_at_its_uri: true }
}

/// The path of a URI reference, if it has one (RFC 3986 section 3.3).
fn path_of(uri: &str) -> Option<&str> {
    match uri.split_once(':') {
        Some((scheme, rest)) if is_scheme(scheme) => {
            let is_web =
                scheme.eq_ignore_ascii_case("https") || scheme.eq_ignore_ascii_case("http");
            let rest = rest.strip_prefix("//").filter(|_| is_web)?;
            Some(rest.split_once('/').map_or("", |(_, path)| path))
        }
        _ => match uri.strip_prefix("//") {
            Some(rest) => Some(rest.split_once('/').map_or("", |(_, path)| path)),
            None => Some(uri),
        },
    }
}

fn is_scheme(text: &str) -> bool {
    text.starts_with(|c: char| c.is_ascii_alphabetic())
        && text.bytes().all(|byte| byte.is_ascii_alphanumeric() || b"+-.".contains(&byte))
}

/// The steps of a path, as files are called; none if one of them can't be a file's name.
fn steps(path: &str) -> Option<Vec<String>> {
    let mut steps = Vec::new();
    for step in path.split('/').filter(|step| !step.is_empty()) {
        let step = faithful_clerk_model::percent::decode(step)?;
        let is_name = step != "." && step != ".." && step.len() <= LONGEST;
        if !is_name || step.contains(|c: char| c.is_control() || "/\\:*?\"<>|".contains(c)) {
            return None;
        }
        steps.push(step);
    }
    Some(steps)
}

/// A name that can be a file's.
fn safe(name: &str) -> String {
    let keeps = |c: char| if c.is_ascii_alphanumeric() || c == '-' || c == '_' { c } else { '_' };
    name.chars().take(LONGEST).map(keeps).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_type_leads_to_its_page_and_never_out_of_the_folder() {
        for (uri, path, anchor) in [
            ("https://harbour.example/faults/berth-taken", "faults/berth-taken/index", None),
            ("https://harbour.example/faults/berth-taken/", "faults/berth-taken/index", None),
            ("https://harbour.example/faults/x.html", "faults/x", None),
            ("https://harbour.example/faults#taken", "faults/index", Some("taken")),
            ("/faults/taken?x=1", "faults/taken/index", None),
            ("faults/gr%C3%B6%C3%9Fe", "faults/größe/index", None),
            ("urn:harbour:taken", "types/n_1/index", None),
            ("https://harbour.example/", "types/n_1/index", None),
            ("https://harbour.example/../../etc/passwd", "types/n_1/index", None),
            ("https://harbour.example/%2e%2e/x", "types/n_1/index", None),
            ("https://harbour.example/a%2Fb", "types/n_1/index", None),
            ("https://harbour.example/a%00b", "types/n_1/index", None),
        ] {
            let page = page_of("n/1", uri);
            assert_eq!((page.path.as_str(), page.anchor.as_deref()), (path, anchor), "{uri}");
            assert_eq!(page.is_at_its_uri, !path.starts_with("types/"), "{uri}");
        }
    }
}
