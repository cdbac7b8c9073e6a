//! What is of a person, for those who want that replaced, too: addresses of e-mail, numbers of telephones and cards by their
//! form, names by the members and parameters that they stand under.

use std::ops::Range;
use std::sync::LazyLock;

use faithful_clerk_model::json::folded;
use regex::Regex;

/// Members and parameters whose value is a person's name, telephone number or address of e-mail, without regard to case,
/// hyphens and underscores.
const NAMES: [&str; 35] = [
    "firstname",
    "lastname",
    "middlename",
    "fullname",
    "givenname",
    "givennames",
    "familyname",
    "surname",
    "forename",
    "maidenname",
    "nickname",
    "displayname",
    "preferredname",
    "legalname",
    "cardholder",
    "cardholdername",
    "accountholder",
    "holdername",
    "contactname",
    "contactperson",
    "customername",
    "guestname",
    "passengername",
    "ownername",
    "username",
    "email",
    "emailaddress",
    "phone",
    "phonenumber",
    "telephone",
    "mobile",
    "mobilenumber",
    "fax",
    "msisdn",
    "cardnumber",
];

/// Members whose member `name` is a person's name.
const PEOPLE: [&str; 16] = [
    "person",
    "contact",
    "customer",
    "user",
    "guest",
    "passenger",
    "owner",
    "holder",
    "recipient",
    "sender",
    "employee",
    "author",
    "patient",
    "member",
    "skipper",
    "crew",
];

static ADDRESSES: LazyLock<Option<Regex>> = LazyLock::new(|| {
    let pattern = concat!(
        r"[A-Za-z0-9._%+-]*[A-Za-z0-9_%+-]@(?:[A-Za-z0-9](?:[A-Za-z0-9-]*[A-Za-z0-9])?\.)+[A-Za-z]{2,}",
        r"|\+[0-9](?:[ ()./-]{0,2}[0-9]){7,14}\b",
        r"|\b[2-6][0-9]{3}(?:[ -]?[0-9]){9,15}\b",
    );
    Regex::new(pattern).ok()
});

/// Does a member or parameter of that name hold what is of a person? `around` is the name of the member around it.
pub(super) fn is_personal_name(name: &str, around: &str) -> bool {
    let name = folded(name);
    let is_person = || {
        let around = folded(around);
        let one = around.strip_suffix('s').unwrap_or(&around);
        PEOPLE.iter().any(|known| *known == around || *known == one)
    };
    NAMES.contains(&&*name) || name == "name" && is_person()
}

/// Can a value under such a name be of a person? A word of one or two letters, a truth value and an empty text can't.
pub(super) fn can_be_personal(text: &str) -> bool {
    text.trim().chars().count() > 1 && !matches!(text.trim(), "true" | "false" | "null")
}

/// Where addresses of e-mail, numbers of telephones with their country, and numbers of cards stand in a text.
pub(super) fn personal_spans(text: &str) -> Vec<Range<usize>> {
    // Each of them has an @ or at least eight digits.
    let bytes = text.as_bytes();
    let digits = bytes.iter().filter(|byte| byte.is_ascii_digit()).count();
    if digits < 8 && memchr::memchr(b'@', bytes).is_none() {
        return Vec::new();
    }
    let Some(addresses) = ADDRESSES.as_ref() else {
        return std::iter::once(0..text.len()).collect();
    };
    let is_one = |found: &str| {
        !found.starts_with(|c: char| c.is_ascii_digit()) || found.contains('@') || is_card(found)
    };
    addresses
        .find_iter(text)
        .filter(|found| is_one(found.as_str()))
        .map(|found| found.range())
        .collect()
}

/// Is it the number of a card: 13 to 19 digits with the right checksum (ISO/IEC 7812-1, annex B)?
pub(super) fn is_card(text: &str) -> bool {
    let digits: Vec<u32> = text.chars().filter_map(|c| c.to_digit(10)).collect();
    let sum: u32 = digits
        .iter()
        .rev()
        .enumerate()
        .map(|(at, digit)| match at % 2 {
            0 => *digit,
            _ => 2 * digit - if *digit > 4 { 9 } else { 0 },
        })
        .sum();
    let is_range = digits.first().is_some_and(|first| (2..=6).contains(first));
    // Numbers of 13 digits are times in milliseconds as often as cards; only one issuer has some, and they begin with 4.
    let is_length = match digits.len() {
        13 => digits.first() == Some(&4),
        14..=19 => true,
        _ => false,
    };
    is_range && is_length && sum.is_multiple_of(10)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn addresses_and_numbers_are_found_by_their_form() {
        let found = |text: &str| -> Vec<String> {
            personal_spans(text).into_iter().map(|range| text[range].to_owned()).collect()
        };
        for (text, one) in [
            ("write to ada.quill+quay@harbour.example.", "ada.quill+quay@harbour.example"),
            ("call +44 20 7946 0958 now", "+44 20 7946 0958"),
            ("+442079460958", "+442079460958"),
            ("paid with 4000 0012 3456 7899, thanks", "4000 0012 3456 7899"),
            ("\"5105105105105100\"", "5105105105105100"),
        ] {
            assert_eq!(found(text), [one], "{text}");
        }
        for text in [
            "4000 0012 3456 7890",
            "2027-01-31T12:00:00+00:00",
            "1798761600000",
            "202701311200",
            "@harbour",
            "a@b",
            "1b4e28ba-2fa1-11d2-883f-0016d3cca427",
            "1.234567890123456",
        ] {
            assert_eq!(found(text), [""; 0], "{text}");
        }
    }

    #[test]
    fn names_of_people_are_known_by_the_members_that_hold_them() {
        for (name, around) in
            [("first_name", ""), ("lastName", "berth"), ("name", "customer"), ("name", "guests")]
        {
            assert!(is_personal_name(name, around), "{around}.{name}");
        }
        for (name, around) in
            [("name", ""), ("name", "berth"), ("filename", "user"), ("title", "customer")]
        {
            assert!(!is_personal_name(name, around), "{around}.{name}");
        }
        assert!(can_be_personal("Ada Quill") && !can_be_personal("x") && !can_be_personal("true"));
    }
}
