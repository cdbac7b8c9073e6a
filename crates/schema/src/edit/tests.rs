//! Edited texts, as they are due to the byte.

use super::DocumentText;
use super::layout::block;
use crate::parse_document;
use proptest::prelude::*;
use serde_json::{Map, Value, json};

fn edited(text: &str, additions: &Value, replacements: &[(&[&str], Value)]) -> (String, usize) {
    let document = DocumentText::read(text).unwrap();
    let owned = |path: &[&str]| path.iter().map(|step| (*step).to_owned()).collect();
    let replacements: Vec<_> =
        replacements.iter().map(|(path, value)| (owned(path), value.clone())).collect();
    let done = document.edited(additions.as_object().unwrap(), &replacements);
    (done.text, done.left.len())
}

#[test]
fn blocks_of_yaml_get_lines_behind_their_last() {
    let text = "# ports\npaths:\n    /a:\n        get:\n            responses:\n                '200': {description: ok}   # fine\n\n            # of nobody\n    /b: {}\n";
    let more = json!({"paths": {"/a": {"get": {"responses": {"404": {"$ref": "#/x"}}}}},
        "components": {"list": [1, {"a": "b c", "d": "no"}, []]}});
    let due = "# ports\npaths:\n    /a:\n        get:\n            responses:\n                '200': {description: ok}   # fine\n                \"404\":\n                    $ref: \"#/x\"\n\n            # of nobody\n    /b: {}\ncomponents:\n    list:\n        - 1\n        - a: b c\n          d: \"no\"\n        - []\n";
    assert_eq!(edited(text, &more, &[]), (due.to_owned(), 0));
}

#[test]
fn what_ends_in_one_place_ends_from_the_inside() {
    let more = json!({"a": {"b": {"x": 1}, "y": 2}, "z": 3});
    let due = "a:\n  b:\n    c: 0\n    x: 1\n  y: 2\nz: 3\n".replace("  y: 2", "  \"y\": 2");
    assert_eq!(edited("a:\n  b:\n    c: 0\n", &more, &[]), (due, 0));
}

#[test]
fn the_end_of_a_block_scalar_and_of_a_file_without_a_break_is_found() {
    let text = "a:\n  b: |\n    one\n\n    two\n  # aside\nc: >-\n  last";
    let kept = "a:\n  b: |+\n    one\n\nc: 1\n";
    let due = "a:\n  b: |+\n    one\n\n  x: 1\nc: 1\n";
    assert_eq!(edited(kept, &json!({"a": {"x": 1}}), &[]), (due.to_owned(), 0));
    let more = json!({"a": {"x": 1}, "w": {"z": true}});
    let due = "a:\n  b: |\n    one\n\n    two\n  x: 1\n  # aside\nc: >-\n  last\nw:\n  z: true";
    assert_eq!(edited(text, &more, &[]), (due.to_owned(), 0));
}

#[test]
fn braces_of_yaml_stay_in_their_line() {
    let text = "a: {b: {}, c: 1}\nd: {e: 1,}\nf:\ng: {\n  h: 1\n}\n";
    let more = json!({"a": {"b": {"x": {"w": "1"}}, "z": 2}, "d": {"x": null}, "f": {"x": 1}, "g": {"x": 1}});
    let due = "a: {b: {x: { w: \"1\" }}, c: 1, z: 2}\nd: {e: 1, x: null}\nf:\n  x: 1\ng: {\n  h: 1,\n  x: 1\n}\n";
    assert_eq!(edited(text, &more, &[]), (due.to_owned(), 0));
}

#[test]
fn json_keeps_its_layout() {
    let lines = "{\n\t\"a\": {\n\t\t\"b\": 1\n\t},\n\t\"c\": {}\n}\n";
    let more = json!({"a": {"x": {"y": [1]}}, "c": {"z": 2}});
    let due = "{\n\t\"a\": {\n\t\t\"b\": 1,\n\t\t\"x\": {\n\t\t\t\"y\": [\n\t\t\t\t1\n\t\t\t]\n\t\t}\n\t},\n\t\"c\": {\n\t\t\"z\": 2\n\t}\n}\n";
    assert_eq!(edited(lines, &more, &[]), (due.to_owned(), 0));
    let tight = "{\"a\":{\"b\":1},\"c\":{}}";
    let due = "{\"a\":{\"b\":1,\"x\":{\"y\":[1]}},\"c\":{\"z\":2}}";
    assert_eq!(edited(tight, &more, &[]), (due.to_owned(), 0));
}

#[test]
fn values_are_put_in_the_places_of_others() {
    let text = "r:\n  \"404\":\n    description: none   # old\n    content:\n      - 1\n  # next\n  \"409\": {description: x}\ns: {a: {b: 1}}\n";
    let new = json!({"$ref": "#/x"});
    let places: [(&[&str], Value); 3] =
        [(&["r", "404"], new.clone()), (&["r", "409"], new.clone()), (&["s", "a"], new)];
    let due = "r:\n  \"404\":\n    $ref: \"#/x\"\n  # next\n  \"409\":\n    $ref: \"#/x\"\ns: {a: { $ref: \"#/x\" }}\n";
    assert_eq!(edited(text, &json!({}), &places), (due.to_owned(), 0));
    let json = "{\"r\": {\"404\": {\"a\": 1}}}";
    let places: [(&[&str], Value); 1] = [(&["r", "404"], json!({"b": 2}))];
    assert_eq!(edited(json, &json!({}), &places), ("{\"r\": {\"404\": {\"b\":2}}}".to_owned(), 0));
}

#[test]
fn what_stands_in_several_places_is_left_as_it_is() {
    let text = "a: &r {x: 1}\nb: *r\nc:\n  <<: *r\n  y: 2\nd: [1]\n";
    let more = json!({"a": {"z": 1}, "b": {"z": 1}, "c": {"x": {"w": 1}}, "d": {"z": 1}});
    assert_eq!(edited(text, &more, &[]), (text.to_owned(), 4));
}

#[test]
fn other_letters_and_breaks_of_two_bytes_are_kept() {
    let text = "é: ü\r\na:\r\n  ö: 1\r\nz: 2\r\n";
    let due = "é: ü\r\na:\r\n  ö: 1\r\n  x: \"ä\"\r\nz: 2\r\n";
    assert_eq!(edited(text, &json!({"a": {"x": "ä"}}), &[]), (due.to_owned(), 0));
}

/// Values of all kinds, with keys and texts that YAML has its own ideas of.
fn value() -> impl Strategy<Value = Value> {
    let text = prop_oneof![
        "[a-c]",
        "[ -~]{0,6}",
        "é\\PC{0,3}",
        Just("no".to_owned()),
        Just("~".to_owned())
    ];
    let leaf = prop_oneof![
        Just(Value::Null),
        any::<bool>().prop_map(Value::from),
        any::<i32>().prop_map(Value::from),
        text.clone().prop_map(Value::from),
    ];
    leaf.prop_recursive(4, 24, 4, move |inner| {
        prop_oneof![
            proptest::collection::vec(inner.clone(), 0..4).prop_map(Value::from),
            members(text.clone(), inner).prop_map(Value::Object),
        ]
    })
}

fn members(
    key: impl Strategy<Value = String>,
    value: impl Strategy<Value = Value>,
) -> impl Strategy<Value = Map<String, Value>> {
    proptest::collection::vec((key, value), 0..4).prop_map(|pairs| {
        // `<<` is no key of its own in YAML.
        pairs.into_iter().filter(|(key, _)| key != "<<").collect()
    })
}

fn merge(into: &mut Map<String, Value>, more: &Map<String, Value>) {
    for (key, value) in more {
        match (into.get_mut(key), value) {
            (None, value) => _ = into.insert(key.clone(), value.clone()),
            (Some(Value::Object(inner)), Value::Object(more)) => merge(inner, more),
            // A value that is not written is one that is none yet.
            (Some(known @ Value::Null), value) => *known = value.clone(),
            (Some(_), _) => {}
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    #[test]
    fn what_is_read_again_is_what_was_there_and_what_was_added(
        document in members("[a-d]|[ -~]{1,4}", value()),
        more in members("[a-d]", value()),
        step in 1usize..5,
    ) {
        let step = " ".repeat(step);
        let block: String =
            document.iter().map(|(key, value)| block(key, value, "", &step)).collect();
        let whole = Value::Object(document.clone());
        let texts = [block, whole.to_string(), format!("{whole:#}"), super::layout::flow(&whole)];
        for text in texts.iter().filter(|_| !document.is_empty()) {
            let read = parse_document(text.as_bytes()).unwrap();
            prop_assert_eq!(&read, &whole, "{}", text);
            let edited = DocumentText::read(text).unwrap().edited(&more, &[]);
            let again = parse_document(edited.text.as_bytes());
            let mut due = document.clone();
            // In JSON, and as a word, null is a value.
            merge(&mut due, &more);
            let again = again.map_err(|why| TestCaseError::fail(format!("{why}: {}", edited.text)))?;
            for (path, _) in &edited.left {
                prop_assert!(!path.is_empty());
            }
            if edited.left.is_empty() {
                prop_assert_eq!(again, Value::Object(due), "{} of {}", edited.text, text);
            }
        }
    }

    #[test]
    fn any_text_is_read_or_not_and_never_ends_the_program(
        text in "([ -~é\n\t]|a: |- |\\{|\\}|: |\\||>|\n  ){0,40}",
        more in members("[a-d]", value()),
    ) {
        if let Ok(document) = DocumentText::read(&text) {
            let _ = document.edited(&more, &[(vec!["a".to_owned()], json!(1))]);
        }
    }
}
