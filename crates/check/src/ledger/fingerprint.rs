//! Fingerprints: what makes a finding of today the same as one of last week.
//!
//! A fingerprint is made of the clause, the endpoint, the location (indexes in arrays and members that are
//! named after ids aside), what was expected and what was got, as data: the wording is no part of it, and neither is what
//! varies by nature, such as recorded text, times and counts. The exchange's address is no part of it either, so it survives
//! another recording.

use serde::Serialize;
use serde_json::Value;
use sha2::{Digest as _, Sha256};

use super::FindingKey;
use faithful_clerk_contract::{ErrorContract, Waiver};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::json::pointer::tokens;

/// The fingerprint of a finding in the row of that name: 16 hexadecimal digits.
#[must_use]
pub fn fingerprint(row: &str, key: &FindingKey) -> String {
    let FindingKey {
        severity: _,
        clause,
        location,
        expected,
        got,
        because: _,
        not_checked: _,
        conforming: _,
    } = key;
    let location = match location {
        Location::Pointer(pointer) => settled_pointer(pointer),
        location => location.to_string(),
    };
    let mut hash = Sha256::new();
    for part in [*clause, row, &location, &settled(expected), &settled(got)] {
        hash.update(part);
        hash.update([0]);
    }
    let hash = hash.finalize();
    hash.iter().take(8).map(|byte| format!("{byte:02x}")).collect()
}

/// The same of a waiver that covers nothing.
pub fn of_unused(waiver: &Waiver, contract: &ErrorContract) -> String {
    let row = waiver.row.as_ref().map_or("everywhere".to_owned(), |row| row.name(contract));
    format!("unused waiver of {} at {row}", waiver.clause)
}

/// A value as JSON, without what was recorded and with settled pointers.
fn settled(value: &impl Serialize) -> String {
    let mut value = serde_json::to_value(value).unwrap_or_default();
    settle(&mut value);
    value.to_string()
}

fn settle(value: &mut Value) {
    match value {
        Value::Array(items) => items.iter_mut().for_each(settle),
        Value::Object(members) => {
            // The members are those of `Recorded`, `Measured` and `Pointer`.
            members.remove("recorded");
            if let Some(Value::String(pointer)) = members.get_mut("pointer") {
                *pointer = settled_pointer(pointer);
            }
            members.values_mut().for_each(settle);
        }
        _ => {}
    }
}

/// A pointer without its indexes and without members that are named after ids.
fn settled_pointer(pointer: &str) -> String {
    let tokens = tokens(pointer).unwrap_or_default();
    let varies = |token: &str| token.contains(|c: char| c.is_ascii_digit());
    let settled = tokens.iter().map(|token| if varies(token) { "/*" } else { token });
    settled.collect::<Vec<_>>().join("/")
}

#[cfg(test)]
mod tests {
    use super::*;
    use faithful_clerk_model::finding::{
        Expected, FieldRef, Got, Measured, ObservedValue, Pointer, Recorded, Severity, Subject,
    };
    use serde_json::json;

    fn of(clause: &'static str, pointer: &str, expected: Expected, got: Got) -> String {
        let key = FindingKey {
            severity: Severity::Breach,
            clause,
            location: Location::Pointer(pointer.to_owned()),
            expected,
            got,
            because: None,
            not_checked: None,
            conforming: None,
        };
        fingerprint("GET /berths", &key)
    }

    #[test]
    fn what_varies_by_nature_makes_no_other_finding() {
        let most = |kept: u64, total: u64| {
            let title = ObservedValue::Title(Recorded::quoted("no berth"));
            Expected::AsMost(title, kept.into(), total.into(), Subject::Errors)
        };
        let one = of("a.b", "/errors/0", most(5, 7), Got::quoted("no berth \"Z-99\""));
        let two = of("a.b", "/errors/12", most(9, 9), Got::quoted("no berth A-3"));
        assert_eq!(one, two);
        let version = |text: &str| Got::Disclosure("a version".to_owned(), Recorded::text(text));
        assert_eq!(
            of("a.b", "", Expected::NoError, version("nginx/1.25.3")),
            of("a.b", "", Expected::NoError, version("nginx/1.27.0"))
        );
        let all = |index: u32| {
            let field = FieldRef::Body(Pointer::new(format!("/items/{index}/nights")));
            Expected::EveryInvalidField(vec![field])
        };
        assert_eq!(of("a.b", "", all(0), Got::NoFields), of("a.b", "", all(3), Got::NoFields));
        let time = |time: usize| Got::Milliseconds(Measured::count(time));
        let limit = || Expected::ResponseWithin("250".to_owned());
        assert_eq!(of("a.b", "", limit(), time(300)), of("a.b", "", limit(), time(9000)));
    }

    #[test]
    fn another_status_type_location_or_expectation_is_another_finding() {
        let expected = || Expected::StatusLine(404);
        let one = of("a.b", "/status", expected(), Got::Status(200));
        assert_ne!(one, of("a.b", "/status", expected(), Got::Status(500)));
        assert_ne!(one, of("a.b", "/status", Expected::StatusLine(422), Got::Status(200)));
        assert_ne!(one, of("a.b", "/code", expected(), Got::Status(200)));
        assert_ne!(one, of("a.c", "/status", expected(), Got::Status(200)));
        let value = |value| of("a.b", "/x", Expected::Object, Got::value(&value));
        assert_ne!(value(json!(3)), value(json!(null)));
        assert_eq!(value(json!(3)), value(json!(4)));
    }
}
