//! One entry of a validation error: which place of the request it names, how, and why.

use serde::{Deserialize, Serialize};

use faithful_clerk_model::json::folded;
use faithful_clerk_model::json::pointer::tokens;

/// One entry of a validation error.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct ReportedField {
    /// The place as the entry writes it, where it writes one.
    pub location: Option<String>,
    /// The same in steps, read from a pointer, a list, or a path.
    pub steps: Vec<String>,
    /// How the place is written.
    pub form: LocationForm,
    /// Where the location stands in the response, as a JSON Pointer.
    pub pointer: String,
    /// Where the entry stands in the response.
    pub entry: String,
    /// Was it agreed that the location is a JSON Pointer?
    pub is_pointer: bool,
    /// The reason, where the entry gives one.
    pub reason: Option<String>,
    /// The code of the rule, where the entry gives one.
    pub code: Option<String>,
    /// All text of the entry.
    pub words: String,
}

/// How an entry writes its place.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Default, Serialize, Deserialize)]
pub enum LocationForm {
    /// It names none.
    #[default]
    None,
    /// A JSON Pointer, `/crew/0/name`.
    Pointer,
    /// A JSON Pointer as a URI fragment, `#/crew/0/name`.
    Fragment,
    /// A name alone.
    Name,
    /// A path with dots, `crew.0.name`.
    Dots,
    /// A path with brackets, `crew[0].name`.
    Brackets,
    /// A array of reference tokens, `["crew", 0, "name"]`.
    TokenArray,
    /// The name of a parameter, said to be one.
    Parameter,
}

impl LocationForm {
    /// The words for it.
    #[must_use]
    pub fn words(self) -> &'static str {
        match self {
            Self::None => "nothing",
            Self::Pointer => "JSON Pointers",
            Self::Fragment => "JSON Pointers as URI fragments",
            Self::Name => "names",
            Self::Dots => "paths with dots",
            Self::Brackets => "paths with brackets",
            Self::TokenArray => "arrays of reference tokens",
            Self::Parameter => "names of parameters",
        }
    }

    /// The form of a location's text.
    #[must_use]
    pub fn of(location: &str) -> Self {
        match location.chars().next() {
            None | Some('/') => Self::Pointer,
            Some('#') => Self::Fragment,
            Some(_) if location.contains('[') => Self::Brackets,
            Some(_) if location.contains('.') => Self::Dots,
            Some(_) => Self::Name,
        }
    }
}

/// Names that stand for the body as a whole.
const WHOLE: [&str; 8] =
    ["_schema", "non_field_errors", "nonFieldErrors", "base", "__all__", "*", "_", "$"];

/// Names for the body as a part of the request, before a path into it.
const BODY_WORDS: [&str; 8] =
    ["body", "requestBody", "request_body", "request", "json", "payload", "data", "input"];

/// Names for the path as a part of the request.
const PATH_WORDS: [&str; 6] = ["path", "params", "param", "pathParams", "path_params", "uri"];

/// Names for the query and the headers as parts of the request.
const PARAMETER_WORDS: [&str; 6] =
    ["query", "querystring", "queryParams", "query_params", "header", "headers"];

/// The steps of a location: of a pointer, or of a path with dots and brackets.
#[must_use]
pub fn location_steps(location: &str) -> Vec<String> {
    if location.starts_with(['/', '#']) || location.is_empty() {
        return tokens(location).unwrap_or_default();
    }
    if WHOLE.contains(&location) {
        return Vec::new();
    }
    // `query:page` says that it names a parameter.
    if let Some((part, name)) = location.split_once(':')
        && (PATH_WORDS.contains(&part) || PARAMETER_WORDS.contains(&part))
    {
        return vec![part.to_owned(), name.to_owned()];
    }
    let path = location.strip_prefix("$.").unwrap_or(location);
    // A pointer without its first slash (`crew/0/name`) is a path, too.
    let between: &[char] = if path.contains(['.', '[']) { &['.', '[', ']'] } else { &['/'] };
    let parts = path.split(between).filter(|part| !part.is_empty());
    parts.map(|part| part.trim_matches(['"', '\'']).to_owned()).collect()
}

impl ReportedField {
    /// Does this entry name that place, or one below it?
    ///
    /// A pointer that the contract declares has to lead there. Any other location may have a step before it that
    /// only says 'the body', and a path may write a name in another style (`vesselId` for `vessel_id`).
    #[must_use]
    pub fn is_at_or_below(&self, location: &[String]) -> bool {
        self.leads(|steps, same| {
            steps.len() >= location.len()
                && steps.iter().zip(location).all(|(one, other)| same(one, other))
        })
    }

    /// Does this entry name a place that holds that one?
    #[must_use]
    pub fn is_above(&self, location: &[String]) -> bool {
        self.leads(|steps, same| {
            steps.len() < location.len()
                && steps.iter().zip(location).all(|(one, other)| same(one, other))
        })
    }

    fn leads(&self, fits: impl Fn(&[String], &dyn Fn(&str, &str) -> bool) -> bool) -> bool {
        if self.location.is_none() {
            return false;
        }
        let is_path = !self.is_pointer
            && !matches!(self.form, LocationForm::Pointer | LocationForm::Fragment);
        let same =
            |one: &str, other: &str| one == other || (is_path && folded(one) == folded(other));
        fits(&self.steps, &same) || self.behind_body_word().is_some_and(|steps| fits(steps, &same))
    }

    /// The steps behind a first one that only says which part of the request is meant.
    fn behind_body_word(&self) -> Option<&[String]> {
        let (first, rest) = self.steps.split_first()?;
        (!self.is_pointer && BODY_WORDS.contains(&first.as_str())).then_some(rest)
    }

    /// The paths into the body that its location can be: as it is written, and behind a word for the body.
    pub fn paths(&self) -> impl Iterator<Item = &[String]> {
        std::iter::once(self.steps.as_slice()).chain(self.behind_body_word())
    }

    /// Does it say that it names a parameter of the path, the query or a header?
    #[must_use]
    pub fn is_in_parameters(&self) -> bool {
        let is_word = |part: &String| {
            PATH_WORDS.contains(&part.as_str()) || PARAMETER_WORDS.contains(&part.as_str())
        };
        matches!(self.steps.as_slice(), [part, _] if is_word(part))
    }

    /// Does it name a path parameter, by whatever name it has in the service's code?
    #[must_use]
    pub fn is_in_path(&self) -> bool {
        matches!(self.steps.as_slice(), [part, _] if PATH_WORDS.contains(&part.as_str()))
    }

    /// Does it name a parameter of that name?
    #[must_use]
    pub fn is_parameter(&self, name: &str) -> bool {
        self.location.is_some()
            && self.steps.last().is_some_and(|last| folded(last) == folded(name))
    }
}

/// Does the text hold the field's name as a word, in whatever letter case?
#[must_use]
pub fn mentions(text: &str, field: &str) -> bool {
    let (text, field) = (text.to_lowercase(), field.to_lowercase());
    if field.is_empty() {
        return false;
    }
    let inner = |c: char| c.is_alphanumeric() || c == '_';
    text.match_indices(&field).any(|(at, _)| {
        let before = text.get(..at).and_then(|text| text.chars().next_back());
        let after = text.get(at + field.len()..).and_then(|text| text.chars().next());
        !before.is_some_and(inner) && !after.is_some_and(inner)
    })
}

#[cfg(test)]
mod tests {
    use super::location_steps;

    #[test]
    fn a_location_is_a_path_however_it_is_written() {
        for location in
            ["/crew/0/name", "crew/0/name", "crew.0.name", "crew[0].name", "$.crew[0].name"]
        {
            assert_eq!(location_steps(location), ["crew", "0", "name"], "{location}");
        }
        assert_eq!(location_steps("name"), ["name"]);
    }
}
