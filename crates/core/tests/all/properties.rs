//! What holds for any input.

use faithful_clerk_check::Check;
use faithful_clerk_check::classify::{Classification, Credentials, classify};
use faithful_clerk_check::clauses::{HARBOUR, check_exchange};
use faithful_clerk_model::address::Address;
use faithful_clerk_model::json::pointer;
use faithful_clerk_recording::{Batch, Format, ReadOptions, Source, har, open};
use faithful_clerk_shape::{DataLocations, InferredShape, differences, parse};
use proptest::prelude::*;
use serde_json::{Value, json};

fn any_json() -> impl Strategy<Value = Value> {
    let leaf = prop_oneof![
        Just(Value::Null),
        any::<bool>().prop_map(Value::from),
        any::<i64>().prop_map(Value::from),
        "[a-z\"\\\\{}\\[\\],:\u{1}é]{0,8}".prop_map(Value::from),
    ];
    leaf.prop_recursive(4, 24, 4, |inner| {
        prop_oneof![
            prop::collection::vec(inner.clone(), 0..4).prop_map(Value::from),
            prop::collection::hash_map("[a-z\"\\\\]{0,6}|log|entries", inner, 0..4)
                .prop_map(|members| Value::Object(members.into_iter().collect())),
        ]
    })
}

/// The entries that the splitter finds, as serde_json reads them.
fn cut(text: &str) -> Vec<Value> {
    let opening = ReadOptions { format: Some(Format::Har), ..ReadOptions::default() };
    let mut splitter = open(Source::of(text.as_bytes()), 0, &opening);
    let (mut batch, mut found) = (Batch::default(), Vec::new());
    while splitter.next(&mut batch) {
        assert!(batch.unreadable.is_empty(), "{:?}", batch.unreadable);
        let entries = batch.entries().iter().filter_map(|piece| batch.entry(piece));
        found.extend(entries.map(|bytes| serde_json::from_slice::<Value>(bytes).unwrap()));
    }
    found
}

/// Any value, or an object that has so many members that it, or two of them together, are keyed by data.
fn item() -> impl Strategy<Value = Value> {
    let wide = prop::collection::vec(0..120_u8, 20..80)
        .prop_map(|names| names.iter().map(|name| (format!("k{name}"), json!({"n": 1}))).collect());
    prop_oneof![4 => any_json(), 1 => wide]
}

proptest! {
    #[test]
    fn the_cutter_finds_the_entries_that_a_parser_finds(
        entries in prop::collection::vec(any_json(), 0..6),
        before in any_json(),
        within in any_json(),
        behind in any_json(),
        pretty in any::<bool>(),
    ) {
        let log = json!({"_b": before, "log": {"_w": within, "entries": entries, "pages": behind}, "_z": behind});
        let text = if pretty { serde_json::to_string_pretty(&log) } else { serde_json::to_string(&log) };
        prop_assert_eq!(cut(&text.unwrap()), entries);
    }

    #[test]
    fn any_bytes_to_the_reader_end_in_order(bytes in prop::collection::vec(any::<u8>(), 0..200)) {
        let contract = faithful_clerk_check::parse_contract(HARBOUR).contract.unwrap();
        let mut har = b"{\"log\":{\"entries\":[{".to_vec();
        har.extend(&bytes);
        // Random bytes are no recording, and it is said of both.
        prop_assert!(Check::new(&contract).recording(Source::of(bytes.as_slice()), 0).unreadable.count > 0);
        prop_assert!(Check::new(&contract).recording(Source::of(har.as_slice()), 0).unreadable.count > 0);
    }

    #[test]
    fn any_answer_is_judged_without_panic(body in any_json(), status in 100u16..700, json in any::<bool>()) {
        let contract = faithful_clerk_check::parse_contract(HARBOUR).contract.unwrap();
        let media = if json { "application/problem+json" } else { "text/html" };
        for (method, path) in [("GET", "berths/1"), ("POST", "reservations"), ("GET", "x"), ("PUT", "berths/1")] {
            let entry = json!({
                "request": {"method": method, "url": format!("https://harbour.example/v1/{path}"),
                            "postData": {"mimeType": "application/json", "text": body.to_string()}},
                "response": {"status": status, "headers": [{"name": "content-type", "value": media}],
                             "content": {"text": body.to_string()}},
            });
            let text = entry.to_string();
            let exchange = har::exchange(text.as_bytes(), Address::default()).unwrap();
            if let Classification::Classified(classified) = classify(&exchange, &contract, Credentials::Recorded) {
                let _ = check_exchange(&classified);
            }
        }
    }

    /// Of k invalid fields, a response that lists them all keeps `validation.complete`; with any one
    /// left out it breaks, and the one is named.
    #[test]
    fn an_incomplete_list_is_told_by_what_it_lacks(broken in prop::collection::btree_set(0usize..6, 1..6), seed in any::<usize>()) {
        let fields: Vec<String> = (0..6).map(|n| format!("field_{n}")).collect();
        let rules: String = fields.iter().map(|name| format!("{name} = \"integer from 1 to 9\"\n")).collect();
        let contract = HARBOUR.replace(
            "vessel_id = \"string matching ^[A-Z]{2}[0-9]{4}$\"\nnights = \"integer from 1 to 28\"\nnote = \"optional string, at most 200\"\n",
            &rules,
        );
        let contract = faithful_clerk_check::parse_contract(&contract).contract.unwrap();
        let body: serde_json::Map<String, Value> =
            fields.iter().enumerate().map(|(n, name)| (name.clone(), json!(if broken.contains(&n) { 0 } else { 5 }))).collect();
        let left = *broken.iter().nth(seed % broken.len()).unwrap();
        for without in [None, Some(left)] {
            let errors: Vec<Value> = broken.iter().filter(|n| Some(**n) != without)
                .map(|n| json!({"pointer": format!("/field_{n}"), "detail": "has to be from 1 to 9"})).collect();
            if errors.is_empty() { continue }
            let response = json!({"type": "https://harbour.example/faults/invalid-request",
                "title": "The request is not valid", "status": 422, "errors": errors});
            let entry = json!({
                "request": {"method": "POST", "url": "https://harbour.example/v1/reservations",
                            "headers": [{"name": "Authorization", "value": "x"}],
                            "postData": {"mimeType": "application/json", "text": Value::Object(body.clone()).to_string()}},
                "response": {"status": 422, "headers": [{"name": "content-type", "value": "application/problem+json"}],
                             "content": {"text": response.to_string()}},
            }).to_string();
            let exchange = har::exchange(entry.as_bytes(), Address::default()).unwrap();
            let Classification::Classified(classified) = classify(&exchange, &contract, Credentials::Recorded) else { panic!("excluded") };
            let found: Vec<_> = check_exchange(&classified).findings;
            match without {
                None => prop_assert!(found.is_empty(), "{:?}", found),
                Some(n) => {
                    prop_assert_eq!(found.len(), 1);
                    prop_assert_eq!(found[0].clause, "validation.complete");
                    prop_assert!(found[0].got.to_string().ends_with(&format!("without /field_{n}")), "{}", found[0].got);
                }
            }
        }
    }

    /// Whatever the rules are and in whichever form the response tells: a list of all invalid fields keeps
    /// the clause, and one with any left out breaks it, naming that one.
    #[test]
    fn in_every_form_what_is_left_out_is_named(
        rules in prop::collection::vec((0usize..7, any::<bool>()), 2..7),
        form in 0usize..6,
        seed in any::<usize>(),
    ) {
        // Each rule with a value that fits and one that does not.
        let all = [
            ("integer from 1 to 9", json!(5), json!(0)),
            ("string matching ^[A-Z]-[0-9]$", json!("A-3"), json!("a3")),
            ("date", json!("2031-04-05"), json!("soon")),
            ("one of north, mill", json!("mill"), json!("outer")),
            ("array of string, at least 1", json!(["x"]), json!([])),
            ("boolean or null", json!(null), json!("yes")),
            ("string, at most 3", json!("abc"), json!("abcd")),
        ];
        let name = |n: usize| format!("field_{n}");
        let fields: String =
            rules.iter().enumerate().map(|(n, (rule, _))| format!("{} = \"{}\"\n", name(n), all[*rule].0)).collect();
        let contract = format!(
            "contract = 1\nservers = [\"https://harbour.example/v1\"]\n[fault.invalid]\nstatus = 422\n\
             when = [\"invalid-body\"]\n[endpoint.\"POST /things\"]\nfaults = [\"invalid\"]\n\
             [endpoint.\"POST /things\".body-members]\n{fields}"
        );
        let contract = faithful_clerk_check::parse_contract(&contract).contract.unwrap();
        let body: serde_json::Map<String, Value> = rules.iter().enumerate()
            .map(|(n, (rule, broken))| (name(n), if *broken { all[*rule].2.clone() } else { all[*rule].1.clone() })).collect();
        let broken: Vec<String> =
            rules.iter().enumerate().filter(|(_, (_, broken))| *broken).map(|(n, _)| name(n)).collect();
        prop_assume!(!broken.is_empty());
        let left = &broken[seed % broken.len()];
        for without in [None, Some(left)] {
            let told: Vec<&String> = broken.iter().filter(|field| Some(*field) != without).collect();
            if told.is_empty() { continue }
            let list = |entry: &dyn Fn(&str) -> Value| told.iter().map(|field| entry(field)).collect::<Vec<_>>();
            let keyed = |value: &dyn Fn() -> Value| -> serde_json::Map<String, Value> {
                told.iter().map(|field| ((*field).clone(), value())).collect()
            };
            let response = match form {
                0 => json!({"errors": list(&|f| json!({"pointer": format!("/{f}"), "detail": "is wrong"}))}),
                1 => json!({"message": "no", "details": list(&|f| json!({"field": f, "message": "is wrong"}))}),
                2 => json!({"errors": keyed(&|| json!("is wrong"))}),
                3 => json!({"errors": keyed(&|| json!(["is wrong"]))}),
                4 => json!({"detail": list(&|f| json!({"loc": ["body", f], "msg": "is wrong"}))}),
                _ => json!({"message": list(&|f| json!(format!("{f} is wrong"))).iter().filter_map(Value::as_str).collect::<Vec<_>>().join(", ")}),
            };
            let entry = json!({
                "request": {"method": "POST", "url": "https://harbour.example/v1/things",
                            "postData": {"mimeType": "application/json", "text": Value::Object(body.clone()).to_string()}},
                "response": {"status": 422, "headers": [{"name": "content-type", "value": "application/json"}],
                             "content": {"text": response.to_string()}},
            }).to_string();
            let exchange = har::exchange(entry.as_bytes(), Address::default()).unwrap();
            let Classification::Classified(classified) = classify(&exchange, &contract, Credentials::Recorded) else { panic!("excluded") };
            let found: Vec<_> = check_exchange(&classified).findings;
            match without {
                None => prop_assert!(found.is_empty(), "{response}: {found:?}"),
                Some(field) => {
                    prop_assert_eq!(found.len(), 1, "{}: {:?}", response, found);
                    prop_assert_eq!(found[0].clause, "validation.complete");
                    prop_assert!(found[0].got.to_string().ends_with(&format!("without /{field}")), "{}", found[0].got);
                }
            }
        }
    }

    #[test]
    fn a_sketch_of_a_list_is_the_sum_of_its_items_in_any_order(items in prop::collection::vec(item(), 0..6)) {
        let sketch = |value: &Value| InferredShape::of(value, &DataLocations::default());
        let sum = |items: &mut dyn Iterator<Item = &Value>| {
            items.fold(InferredShape::default(), |mut sum, item| {
                sum.add(sketch(item));
                sum
            })
        };
        let whole = sketch(&Value::from(items.clone())).items.unwrap_or_default();
        prop_assert_eq!(&*whole, &sum(&mut items.iter()));
        prop_assert_eq!(&*whole, &sum(&mut items.iter().rev()));
    }

    #[test]
    fn differences_do_not_depend_on_counts(one in prop::collection::vec(item(), 0..4), other in prop::collection::vec(item(), 0..4)) {
        let [one, other] = [one, other].map(|items| InferredShape::of(&Value::from(items), &DataLocations::default()));
        prop_assert_eq!(
            differences(&one.clone().uncounted(), &other.clone().uncounted()),
            differences(&one, &other)
        );
    }

    #[test]
    fn a_pointer_is_read_back_as_it_was_written(tokens in prop::collection::vec(any::<String>(), 0..5)) {
        let written = pointer::from_tokens(&tokens);
        prop_assert_eq!(pointer::tokens(&written), Some(tokens));
    }

    #[test]
    fn any_contract_and_any_phrase_are_read_without_panic(text in any::<String>(), lines in "([a-z.\\[\\]\"= \n{}]|fault|shape|status|like){0,60}") {
        let _ = parse(&text, &|_| None);
        for text in [text, lines.clone(), format!("contract = 1\n[shape.a]\n{lines}"), format!("{HARBOUR}{lines}")] {
            for diagnostic in faithful_clerk_check::parse_contract(&text).diagnostics {
                let _ = diagnostic.line_and_column(&text);
                assert!(diagnostic.span.end <= text.len());
            }
        }
    }
}
