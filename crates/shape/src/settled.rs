//! Which objects of a sketch are keyed by data, which shows only once all of them were seen.

use super::sketch::{InferredShape, Nesting};

/// With fewer keys than this nobody can tell that they are data.
const LEAST_KEYS: usize = 4;

/// Fewer members than this need not depend on a rule.
const LEAST_RULES: usize = 2;

/// In fewer objects than this nobody can tell what depends on what.
const LEAST_OBJECTS: u64 = 4;

/// One name of two letters may be any.
const LEAST_LANGUAGES: usize = 2;

/// Languages that services have texts in (ISO 639-1).
const LANGUAGES: [&str; 36] = [
    "ar", "bg", "bn", "cs", "da", "de", "el", "en", "es", "et", "fa", "fi", "fr", "he", "hi", "hr",
    "hu", "is", "it", "ja", "ko", "lt", "lv", "nb", "nl", "pl", "pt", "ro", "ru", "sk", "sl", "sv",
    "tr", "uk", "vi", "zh",
];

/// Is this the name of a language, perhaps with a region?
fn is_language(name: &str) -> bool {
    let (language, region) = name.split_once(['-', '_']).unwrap_or((name, "XX"));
    LANGUAGES.contains(&language) && (2..=4).contains(&region.len())
}

/// Does a name stand for something in a text: `{{ limit }}`, `%limit%`?
fn is_placeholder(name: &str) -> bool {
    let pairs = [('{', '}'), ('%', '%'), ('[', ']'), ('<', '>')];
    pairs
        .iter()
        .any(|(open, close)| name.len() > 2 && name.starts_with(*open) && name.ends_with(*close))
}

/// Are these names of members languages, or placeholders of a text? Then the object is keyed by data.
pub fn are_data_names<'n>(names: impl Iterator<Item = &'n str> + Clone) -> bool {
    let count = names.clone().count();
    (count > 0 && names.clone().all(is_placeholder))
        || (count >= LEAST_LANGUAGES && { names }.all(is_language))
}

impl InferredShape {
    /// The same with every member taken as keyed by data that shows itself to be: four keys or more in as
    /// many objects, all values of one form, and no key that is in most of them; or keys that are placeholders or
    /// languages; or what an entry of a list says of its rule, where no two rules say the same. The whole never is, nor
    /// are the items of a list: where they are keyed, their entries tell.
    #[must_use]
    pub fn settled(self) -> Self {
        self.settled_at(Nesting::Fixed)
    }

    fn settled_at(mut self, nesting: Nesting) -> Self {
        let members = std::mem::take(&mut self.members);
        let inner = nesting.member();
        self.members = members
            .into_iter()
            .map(|(name, member)| (name, member.settled_at(inner).folded_if_keyed(inner)))
            .collect();
        let settled = |of: Box<Self>| Box::new(of.settled_at(nesting.entry()));
        self.items = self.items.map(settled);
        self.keyed = self.keyed.map(settled);
        self
    }

    fn folded_if_keyed(mut self, nesting: Nesting) -> Self {
        let mut values = self.members.values();
        let first = values.next().map(Self::phrase);
        let is_even = values.all(|member| Some(member.phrase()) == first);
        let varies = self.members.len() >= LEAST_KEYS
            && self.members.values().all(|member| member.count * 2 <= self.objects)
            && is_even;
        let is_of_rules = matches!(nesting, Nesting::Inside)
            && self.members.len() >= LEAST_RULES
            && self.objects >= LEAST_OBJECTS
            && self.members.values().all(|member| !self.always(member));
        let names = self.members.keys().map(String::as_str);
        let is_named = are_data_names(names.clone()) && (is_even || { names }.all(is_placeholder));
        if varies || is_of_rules || is_named {
            self.fold();
        }
        self
    }
}
