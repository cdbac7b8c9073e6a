//! What holds for any recording.

use faithful_clerk_check::ledger::LedgerSources;
use faithful_clerk_contract::DiagnosticSeverity;
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_insight::draft::draft;
use faithful_clerk_insight::survey::{Survey, SurveyCollector, SurveyData, SurveyLedger};
use faithful_clerk_model::address::RecordingNames;
use faithful_clerk_recording::{ReadOptions, Source, Traversal};
use proptest::prelude::*;
use serde_json::{Value, json};

use super::make::{added_up, compared, gathered, har, parts_between, sent, survey};

/// Bodies as services send them: problems, envelopes, lists, objects keyed by field, none.
fn body() -> impl Strategy<Value = Value> {
    let word = "[a-c]{1,2}";
    prop_oneof![
        Just(Value::Null),
        (word, any::<bool>()).prop_map(|(title, more)| match more {
            true => json!({"type": format!("https://x.example/{title}"), "title": title, "status": 404}),
            false => json!({"title": title, "status": 400, "detail": "x"}),
        }),
        (word, 0..5_i64).prop_map(|(code, n)| json!({"error": {"code": n, "message": code}})),
        prop::collection::vec(word, 0..3).prop_map(|fields| {
            let entries: Vec<Value> =
                fields.iter().map(|field| json!({"field": field, "message": "no"})).collect();
            json!({"errors": entries})
        }),
        prop::collection::btree_map(word, "[a-c ]{1,3}", 0..4).prop_map(|errors| json!({"errors": errors})),
        prop::collection::btree_map("[a-z\"\u{1}é{}/~]{0,3}", any::<Option<bool>>(), 0..4)
            .prop_map(|members| json!(members)),
        "[ -~]{0,12}".prop_map(Value::from),
    ]
}

fn exchange() -> impl Strategy<Value = Value> {
    let segment = prop_oneof![
        "(berths|vessels|tides)",
        "[0-9]{1,3}",
        "[A-C]-[0-9]",
        "2027-0[1-9]-1[0-9]",
        "[a-f]{2,4}",
        "r-[0-9a-f]{6}",
        "[ -~]{0,4}",
    ];
    let path = prop::collection::vec(segment, 1..4).prop_map(|segments| {
        let encoded = segments.iter().map(|one| one.replace(['%', '?', '#', ' ', '/', '\\'], "_"));
        encoded.collect::<Vec<_>>().join("/")
    });
    let method = prop_oneof!["GET", "POST", "PUT", "DELETE", "[A-Za-z]{1,5}"];
    let status = prop_oneof![
        Just(200_u16),
        Just(201),
        Just(400),
        Just(404),
        Just(422),
        Just(500),
        100..999_u16
    ];
    (method, path, body(), status, body()).prop_map(|(method, path, request, status, response)| {
        sent(&format!("{method} /{path}"), &request, status, response)
    })
}

/// A survey without what differs by the order: the addresses.
fn outcome(survey: &Survey) -> Vec<String> {
    let mut told: Vec<String> = survey
        .endpoints
        .iter()
        .map(|location| {
            let rows: Vec<String> = location
                .facts
                .rows
                .iter()
                .map(|(row, kind)| format!("{row:?} {} {}", survey.told(row), kind.seen.count))
                .collect();
            format!("{:?} {} {:?} {rows:?}", location.status, location.name(), location.values)
        })
        .collect();
    told.extend(survey.shapes.iter().map(|shape| {
        format!("{} {} {} {:?}", shape.name, shape.seen.count, shape.shape.phrase(), shape.forms)
    }));
    told
}

fn add(mut one: SurveyData, other: SurveyData) -> SurveyData {
    one.add(other);
    one
}

/// A number, or a token with a digit in it, is another one.
fn other_id(segment: &str) -> String {
    let is_digit = |c: char| c.is_ascii_digit();
    if !segment.is_empty() && segment.chars().all(is_digit) {
        format!("7{segment}")
    } else if segment.starts_with("r-") && segment.contains(is_digit) {
        segment.replace('a', "b")
    } else {
        segment.to_owned()
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    /// Neither the order of exchanges nor how they are shared out among workers makes a difference, and
    /// no error is lost on the way.
    #[test]
    fn a_survey_adds_up_in_any_order(
        entries in prop::collection::vec(exchange(), 0..40),
        seed in any::<usize>(),
    ) {
        let bare = ErrorContract::default();
        let whole = gathered(&entries, &bare).conclude();
        let mut turned = entries.clone();
        turned.reverse();
        let middle = if turned.is_empty() { 0 } else { seed % turned.len() };
        turned.rotate_left(middle);
        let again = gathered(&turned, &bare).conclude();
        prop_assert_eq!(outcome(&whole), outcome(&again));
        // (a + b) + c = a + (b + c)
        let third = entries.len() / 3;
        let parts = [&entries[..third], &entries[third..2 * third], &entries[2 * third..]];
        let [a, b, c] = parts.map(|part| gathered(part, &bare));
        let left = add(add(a.clone(), b.clone()), c.clone()).conclude();
        let right = add(a, add(b, c)).conclude();
        prop_assert_eq!(outcome(&left), outcome(&right));
        prop_assert_eq!(outcome(&left), outcome(&whole));
        let counted: u64 = whole.endpoints.iter().map(|location| location.facts.count).sum();
        prop_assert_eq!(counted, whole.exchanges);
    }

    /// Whatever was recorded, the draft is a contract without a mistake.
    #[test]
    fn a_draft_can_always_be_read(entries in prop::collection::vec(exchange(), 0..30)) {
        let bare = ErrorContract::default();
        let survey = gathered(&entries, &bare).conclude();
        let names = ["a\n[fault.x].har".to_owned()];
        let drafted = draft(&survey, RecordingNames(&names), None);
        let parsed = faithful_clerk_check::parse_contract(&drafted.text);
        let mistakes: Vec<_> =
            parsed.diagnostics.iter().filter(|diagnostic| diagnostic.severity == DiagnosticSeverity::Error).collect();
        prop_assert!(mistakes.is_empty(), "{:#?}\n{}", mistakes, drafted.text);
        prop_assert!(parsed.contract.is_some());
    }

    /// A recording is the same as itself.
    #[test]
    fn compared_with_itself_everything_is_the_same(entries in prop::collection::vec(exchange(), 0..30)) {
        let comparison = compared(&entries, &entries, None);
        prop_assert!(comparison.changes.is_empty(), "{:#?}", comparison.changes);
        let counts = comparison.counts;
        prop_assert_eq!((counts.only_before, counts.only_after, counts.more_often), (0, 0, 0));
        prop_assert_eq!(counts.unchanged, counts.pairs());
    }

    /// In another order it still is.
    #[test]
    fn a_shuffled_copy_is_the_same(
        entries in prop::collection::vec(exchange(), 0..30)
            .prop_flat_map(|entries| (Just(entries.clone()), Just(entries).prop_shuffle())),
    ) {
        let (entries, shuffled) = entries;
        let comparison = compared(&entries, &shuffled, None);
        prop_assert!(comparison.changes.is_empty(), "{:#?}", comparison.changes);
        let counts = comparison.counts;
        prop_assert_eq!((counts.only_before, counts.only_after, counts.more_often), (0, 0, 0));
    }

    /// Another host and other ids are the same service.
    #[test]
    fn another_host_and_other_ids_change_no_template_and_no_shape(
        entries in prop::collection::vec(exchange(), 0..40),
    ) {
        let places = |entries: &[Value]| -> Vec<String> {
            let survey = survey(entries);
            let places = survey.endpoints.iter().map(|place| {
                format!("{:?} {} {}", place.status, place.name(), place.facts.count)
            });
            let shapes = survey.shapes.iter().map(|shape| {
                format!("{} {} {}", shape.name, shape.seen.count, shape.shape.phrase())
            });
            places.chain(shapes).collect()
        };
        let mut renamed = entries.clone();
        for entry in &mut renamed {
            let url = entry["request"]["url"].as_str().unwrap();
            let Some(path) = url.strip_prefix("https://harbour.example") else { continue };
            let segments: Vec<String> = path.split('/').map(other_id).collect();
            entry["request"]["url"] = json!(format!("http://quay.example:8080{}", segments.join("/")));
        }
        prop_assert_eq!(places(&entries), places(&renamed));
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// Any split of a recording, surveyed in parts that are written down, read again and added up in any order and tree, is the
    /// recording: as a ledger, and as a draft.
    #[test]
    fn parts_of_one_survey_add_up_to_it(
        mut entries in prop::collection::vec(exchange(), 0..24),
        hosts in prop_oneof![Just(1_usize), 2..5_usize, Just(200)],
        cuts in prop::collection::btree_set(0_usize..24, 0..6),
        picks in prop::collection::vec(any::<usize>(), 12),
    ) {
        let bare = ErrorContract::default();
        if hosts == 200 {
            // More than are told apart.
            entries = (0..200).filter_map(|at| entries.get(at % entries.len().max(1)).cloned()).collect();
        }
        for (at, entry) in entries.iter_mut().enumerate() {
            let host = at * 7 % hosts;
            let path = entry["request"]["url"].as_str().unwrap().replace("harbour", &format!("quay-{host}"));
            entry["request"]["url"] = json!(path);
        }
        let names = LedgerSources { recordings: vec!["all.har".to_owned()], ..LedgerSources::default() };
        let surveyed = |(from, to): (usize, usize)| {
            let mut survey = SurveyCollector::new(&bare);
            let text = har(&entries[from..to]);
            let options = ReadOptions { first: from as u64 + 1, ..ReadOptions::default() };
            let traversal = Traversal { options, ..Traversal::default() };
            traversal.visit_in_order(Source::of(text.as_bytes()), 0, &mut survey);
            SurveyLedger { data: survey.data, elsewhere: None }.save("", &names).unwrap()
        };
        let added = |one: String, other: String| {
            let mut sum = SurveyLedger::read(&one, |_| 0).unwrap();
            sum.add(SurveyLedger::read(&other, |_| 0).unwrap());
            sum.save("", &names).unwrap()
        };
        let whole = surveyed((0, entries.len()));
        let cuts = cuts.into_iter().map(|cut| cut * entries.len().max(24) / 24);
        let parts = parts_between(cuts, entries.len()).into_iter().map(surveyed);
        let sum = added_up(parts.collect(), &picks, added);
        prop_assert_eq!(&sum, &whole);
        let drafted = |text: &str| {
            let survey = SurveyLedger::read(text, |_| 0).unwrap().decided().0.conclude();
            draft(&survey, RecordingNames(&names.recordings), None).text
        };
        let of_entries = draft(&gathered(&entries, &bare).conclude(), RecordingNames(&names.recordings), None);
        prop_assert_eq!(drafted(&sum), of_entries.text);
    }
}
