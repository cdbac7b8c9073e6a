//! How an enum of findings is written: each variant with its words beside it.

/// Makes an enum whose variants each have a wording: `Variant(field: Type) => "words with {field}"`.
///
/// It has the traits that ledgers and outputs need, [`Display`](std::fmt::Display) gives the words, and
/// [`Detail`](super::Detail) reaches every text, so no variant can be forgotten by a mask.
macro_rules! worded {
    (
        $(#[$meta:meta])*
        pub enum $name:ident {
            $($(#[$doc:meta])* $variant:ident $(($($field:ident: $type:ty),+))? => $($words:expr),+;)+
        }
    ) => {
        $(#[$meta])*
        #[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, serde::Serialize, serde::Deserialize)]
        #[serde(rename_all = "kebab-case")]
        #[non_exhaustive]
        pub enum $name {
            $($(#[$doc])* $variant $(($($type),+))?,)+
        }

        impl std::fmt::Display for $name {
            fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                match self {
                    $(Self::$variant $(($($field),+))? => write!(f, $($words),+),)+
                }
            }
        }

        impl super::Detail for $name {
            fn rewrite(&mut self, by: &dyn Fn(&str) -> Option<String>) {
                // Variants without fields use nothing of it.
                let _ = by;
                match self {
                    $(Self::$variant $(($($field),+))? => { $($($field.rewrite(by);)+)? })+
                }
            }
        }
    };
}

pub(super) use worded;

use std::fmt::Display;

/// `400, 404 or 409`.
pub(super) fn one_of<T: Display>(items: &[T]) -> String {
    listed(items, "or")
}

/// `missing-credentials and invalid-body`.
pub(super) fn all_of<T: Display>(items: &[T]) -> String {
    listed(items, "and")
}

/// `If-Match and no If-None-Match`.
pub(super) fn none_of<T: Display>(items: &[T]) -> String {
    let words: Vec<String> = items.iter().map(T::to_string).collect();
    words.join(" and no ")
}

/// `/name, /length_m`.
pub(super) fn each<T: Display>(items: &[T]) -> String {
    let words: Vec<String> = items.iter().map(T::to_string).collect();
    words.join(", ")
}

fn listed<T: Display>(items: &[T], word: &str) -> String {
    match items.split_last() {
        None => String::new(),
        Some((last, [])) => last.to_string(),
        Some((last, rest)) => format!("{} {word} {last}", each(rest)),
    }
}
