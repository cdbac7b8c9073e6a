//! Lines that a map reads, whatever is in them.

use std::path::Path;
use std::sync::Arc;

use faithful_clerk_model::exchange::Exchange;
use faithful_clerk_recording::{LineMap, ReadOptions, Source, Traversal, Unreadable, Visitor};
use proptest::prelude::*;
use serde_json::{Value, json};

fn maps() -> Vec<(String, Arc<LineMap>)> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../examples/maps");
    let files = std::fs::read_dir(folder).unwrap().map(|file| file.unwrap().path());
    let maps: Vec<_> = files
        .map(|path| {
            let text = std::fs::read_to_string(&path).unwrap();
            let map =
                LineMap::parse(&text).unwrap_or_else(|why| panic!("{}: {why}", path.display()));
            (path.display().to_string(), Arc::new(map))
        })
        .collect();
    assert_eq!(maps.len(), 4);
    maps
}

/// Counts, and looks into every part of an exchange.
#[derive(Default)]
struct Counted {
    exchanges: u64,
    unreadable: u64,
}

impl Visitor for Counted {
    fn exchange(&mut self, exchange: &Exchange<'_>) {
        self.exchanges += 1;
        assert!(!exchange.request.method.is_empty() && !exchange.request.url.is_empty());
        assert!(exchange.timing.milliseconds().is_none_or(|took| took >= 0.0));
        assert!(exchange.response.as_ref().is_none_or(|one| (100..=999).contains(&one.status)));
        let _ = format!("{exchange:?}");
    }

    fn on_unreadable(&mut self, unreadable: Unreadable) {
        let is_told = unreadable.reason.contains("line ") || unreadable.number.is_none();
        assert!(is_told, "{unreadable:?}");
        self.unreadable += 1;
    }
}

/// JSON of the members that the maps ask for, with values that fit now and then.
fn value() -> impl Strategy<Value = Value> {
    let leaf = prop_oneof![
        Just(Value::Null),
        any::<bool>().prop_map(Value::from),
        prop_oneof![Just(200), Just(404), Just(0), Just(-1), any::<i64>()].prop_map(Value::from),
        any::<f64>().prop_map(|number| json!(number)),
        prop_oneof![
            "(GET|POST|/v1/berths|harbour.example|base64|e30=|12ms|404|A: b|2027-03-08T09:00:00Z|https|443)",
            "GET /[a-z ]{0,4} HTTP/1.1",
            "\\PC{0,6}",
        ]
        .prop_map(Value::from),
    ];
    leaf.prop_recursive(5, 40, 6, |inner| {
        let name = "(request|response|http|method|url|line|scheme|host|path|query|headers|body|status|at|latency|time|took|event_time|request_headers|response_headers|response_body|duration_ms|key|name|value|stringValue|arrayValue|values|attributes|resourceSpans|scopeSpans|spans|url.path|http.request.method|http.response.status_code)";
        prop_oneof![
            prop::collection::vec(inner.clone(), 0..4).prop_map(Value::from),
            prop::collection::btree_map(name, inner, 0..8).prop_map(|members| json!(members)),
        ]
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Every line is read or named, and none stops the reading.
    #[test]
    fn every_line_is_read_or_named(
        lines in prop::collection::vec(prop_oneof![
            value().prop_map(|value| value.to_string().into_bytes()),
            prop::collection::vec(any::<u8>().prop_filter("a line end", |byte| !b"\n\r".contains(byte)), 1..20),
        ], 0..8),
        threads in 1_usize..3,
    ) {
        for (name, map) in maps() {
            let text: Vec<u8> = lines.iter().flat_map(|line| line.iter().copied().chain([b'\n'])).collect();
            let options = ReadOptions { map: Some(map), ..ReadOptions::default() };
            let traversal = Traversal { options, threads: threads.try_into().unwrap() };
            let all = traversal.visit_parallel(Source::of(text.as_slice()), 0, Counted::default);
            let sum: u64 = all.iter().map(|one| one.exchanges + one.unreadable).sum();
            let written = lines.iter().filter(|line| !line.trim_ascii().is_empty()).count() as u64;
            // A line of spans holds as many as it holds.
            if !name.ends_with("spans.toml") && written > 0 {
                prop_assert_eq!(sum, written, "{}", name);
            }
        }
    }
}
