//! Edited texts, as they are due to the byte.

use super::DocumentText;
use serde_json::{Value, json};

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
