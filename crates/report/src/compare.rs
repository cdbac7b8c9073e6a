//! A comparison, to be read or to be worked on.
//!
//! As JSON it is one object, format `fclerk compare`, version 1:
//!
//! | member | what it is |
//! |---|---|
//! | `format`, `version` | `"fclerk compare"` and 1 |
//! | `between` | `versions`, `environments` or `callers` |
//! | `sides` | how both are called |
//! | `contract` | the contract that decided, or null |
//! | `recordings` | the names of all files, those of the first side first |
//! | `counts` | numbers of pairs: `regressed`, `fixed`, `changed`, `unchanged`; of exchanges: `only_before`, `only_after`, `more_often`; `unknown`: pairs of which a body could not be compared; `not_compared`: pairs beyond the different responses that are kept |
//! | `endpoints` | an array: `endpoint`, and pairs: `regressed`, `fixed`, `changed`, `unchanged` |
//! | `changes` | an array: `endpoint`, `pair` (the grade of the pairs that have it), `grade` (its own), `what`, `location` (or null), `rest`, `count` (pairs), `pairs` (the first of them: `before`, `after`) |
//! | `more` | changes that are only counted |
//! | `only_before`, `only_after` | arrays: `endpoint`, `count`, `addresses` |
//! | `excluded` | an array of `reason` and `count`: what is none of the service's |
//! | `unreadable` | what could not be read, the first of it |

use std::collections::BTreeMap;

use faithful_clerk_insight::compare::{
    Change, ChangeOccurrence, Closeness, Comparability, Comparison, ComparisonKind, Grade,
    MOST_OUTCOMES, PairCounts,
};
use faithful_clerk_model::address::Address;
use serde_json::{Value, json};

use crate::json::{self, pretty, unreadable};
use crate::page::{Page, StyledText, Table, code, plain, toned};
use crate::text::{counted, reasons};
use crate::theme::Tone;
use crate::{RecordingNames, Theme};

/// A comparison and what it was made of.
#[derive(Debug, Clone, Copy)]
pub struct ComparisonReport<'r> {
    /// The comparison.
    pub comparison: &'r Comparison,
    /// How both sides are called.
    pub sides: [&'r str; 2],
    /// The names of all recordings, for addresses.
    pub names: RecordingNames<'r>,
    /// The contract that checked, if any did.
    pub contract: Option<&'r str>,
}

/// For a terminal.
#[must_use]
pub fn terminal(compared: ComparisonReport<'_>, theme: Theme) -> String {
    page(compared).terminal(theme)
}

/// The counts and what got worse, for a terminal.
#[must_use]
pub fn overview(compared: ComparisonReport<'_>, theme: Theme) -> String {
    let mut page = Page::default();
    page.text(summary(compared));
    changes(&mut page, compared, "Regressed", &[Grade::Regressed]);
    page.terminal(theme)
}

/// As a page for a browser.
///
/// # Errors
/// Only if our own template is wrong.
pub fn html(compared: ComparisonReport<'_>) -> Result<String, crate::html::Error> {
    crate::html::document("Comparison", &page(compared))
}

/// As Markdown.
#[must_use]
pub fn markdown(compared: ComparisonReport<'_>) -> String {
    page(compared).markdown()
}

fn page(compared: ComparisonReport<'_>) -> Page {
    let comparison = compared.comparison;
    let mut page = Page::default();
    page.text(summary(compared));
    match comparison.standing() {
        Comparability::Compared => {}
        Comparability::Nothing => page.text(vec![plain("There is nothing to compare.")]),
        Comparability::AllExcluded => page.text(vec![
            toned(Tone::Bad, "Nothing was compared."),
            plain(" Every exchange was excluded; does the contract name the servers of both recordings?"),
        ]),
        Comparability::Apart => {
            page.text(vec![toned(Tone::Bad, "No request is in both recordings."), plain(unlike(compared))]);
        }
    }
    let different = comparison
        .endpoints
        .iter()
        .filter(|(_, grades)| grades.keys().any(|grade| *grade != Grade::Unchanged));
    let rows: Vec<_> = different.collect();
    if !rows.is_empty() {
        page.heading("Changed pairs, by endpoint");
        page.table(endpoints(&rows, comparison.between));
    }
    let sections: &[(&str, &[Grade])] = match comparison.between {
        ComparisonKind::Versions => &[
            ("Regressed", &[Grade::Regressed]),
            ("Fixed", &[Grade::Fixed]),
            ("Changed", &[Grade::Changed]),
        ],
        ComparisonKind::Environments | ComparisonKind::Callers => {
            &[("At odds", &[Grade::Regressed, Grade::Fixed]), ("Different", &[Grade::Changed])]
        }
    };
    for (title, grades) in sections {
        changes(&mut page, compared, title, grades);
    }
    if comparison.more > 0 {
        page.text(vec![plain(format!(
            "and {} more, only counted",
            counted(comparison.more, "change")
        ))]);
    }
    for (at, only) in comparison.only.iter().enumerate() {
        if only.is_empty() {
            continue;
        }
        let side = compared.sides.get(at).copied().unwrap_or_default();
        page.heading(format!("Only in {side}"));
        for (endpoint, noted) in only {
            let at = pairs(noted, compared);
            page.item(vec![code(endpoint), toned(Tone::Faint, format!(" ({at})"))]);
        }
    }
    page
}

fn summary(compared: ComparisonReport<'_>) -> Vec<StyledText> {
    let ComparisonReport { comparison, sides: [before, after], names: _, contract } = compared;
    let PairCounts {
        regressed,
        fixed,
        changed,
        unchanged: same,
        only_before,
        only_after,
        more_often,
        unknown,
        not_compared,
    } = comparison.counts;
    let pairs = counted(comparison.counts.pairs(), "pair");
    let tone = |count: u64, tone| if count > 0 { tone } else { Tone::Plain };
    let mut pieces = vec![plain(format!("{before} and {after}: {pairs}. "))];
    match comparison.between {
        ComparisonKind::Versions => pieces.extend([
            toned(tone(regressed, Tone::Bad), format!("{regressed} regressed")),
            plain(", "),
            toned(tone(fixed, Tone::Good), format!("{fixed} fixed")),
            plain(format!(", {changed} changed, {same} unchanged")),
        ]),
        ComparisonKind::Environments | ComparisonKind::Callers => pieces.extend([
            toned(tone(regressed + fixed, Tone::Bad), format!("{} at odds", regressed + fixed)),
            plain(format!(", {changed} different, {same} unchanged")),
        ]),
    }
    pieces.push(plain(format!("; {only_before} only in {before}, {only_after} only in {after}")));
    if more_often > 0 {
        pieces.push(plain(format!("; {more_often} more often in one than in the other")));
    }
    if !comparison.excluded.is_empty() {
        pieces.push(plain(format!("; excluded: {}", reasons(&comparison.excluded))));
    }
    if unknown > 0 {
        pieces.push(plain(format!("; in {} a body is not known", counted(unknown, "pair"))));
    }
    if not_compared > 0 {
        pieces.push(plain(format!(
            "; {} not compared, since only the first {MOST_OUTCOMES} different responses of a recording are kept",
            counted(not_compared, "more pair")
        )));
    }
    let kin = comparison.closeness.get(&Closeness::Kin).copied().unwrap_or_default();
    let alike = comparison.closeness.get(&Closeness::Alike).copied().unwrap_or_default();
    if kin + alike > 0 {
        pieces.push(plain(format!(
            "; {} paired although values differ",
            counted(kin + alike, "pair")
        )));
    }
    let by =
        contract.map_or("without a contract".to_owned(), |name| format!("checked against {name}"));
    pieces.push(plain(format!(" ({by}).")));
    if comparison.between != ComparisonKind::Versions {
        pieces.push(plain(format!(" Changes are described from {before} to {after}.")));
    }
    pieces
}

fn unlike(compared: ComparisonReport<'_>) -> String {
    let [before, after] = &compared.comparison.origins;
    let [first, second] = compared.sides;
    let of = |origins: &Vec<String>| match origins.as_slice() {
        [] => "no service".to_owned(),
        origins => origins.join(", "),
    };
    format!(
        " Are these recordings of one service? {first} calls {}, {second} calls {}. If only the base URL differs, name both as `servers` in a contract.",
        of(before),
        of(after),
    )
}

fn endpoints(rows: &[(&String, &BTreeMap<Grade, u64>)], between: ComparisonKind) -> Table {
    let heads: &[&'static str] = match between {
        ComparisonKind::Versions => &["endpoint", "#regressed", "#fixed", "#changed", "#unchanged"],
        ComparisonKind::Environments | ComparisonKind::Callers => {
            &["endpoint", "#at odds", "#different", "#unchanged"]
        }
    };
    let mut table = Table::new(heads);
    for (endpoint, grades) in rows {
        let count = |grades: &BTreeMap<Grade, u64>, wanted: &[Grade], tone: Tone| {
            let count: u64 = wanted.iter().filter_map(|grade| grades.get(grade)).sum();
            if count > 0 { toned(tone, count.to_string()) } else { toned(Tone::Faint, "-") }
        };
        let mut row = vec![plain(endpoint.as_str())];
        row.extend(match between {
            ComparisonKind::Versions => vec![
                count(grades, &[Grade::Regressed], Tone::Bad),
                count(grades, &[Grade::Fixed], Tone::Good),
            ],
            ComparisonKind::Environments | ComparisonKind::Callers => {
                vec![count(grades, &[Grade::Regressed, Grade::Fixed], Tone::Bad)]
            }
        });
        row.push(count(grades, &[Grade::Changed], Tone::Plain));
        row.push(count(grades, &[Grade::Unchanged], Tone::Faint));
        table.row(row);
    }
    table
}

fn changes(page: &mut Page, compared: ComparisonReport<'_>, title: &str, grades: &[Grade]) {
    let all = compared.comparison.changes.iter();
    let mine: Vec<_> = all.filter(|((grade, ..), _)| grades.contains(grade)).collect();
    if mine.is_empty() {
        return;
    }
    page.heading(title);
    let mut last = "";
    for ((_, endpoint, change), noted) in mine {
        if endpoint != last {
            page.label(endpoint.as_str());
            last = endpoint;
        }
        let mut pieces = vec![word(change.grade, compared.comparison.between), plain(&change.what)];
        if let Some(place) = &change.location {
            pieces.extend([plain(" "), code(place)]);
        }
        pieces.push(plain(change.rest.as_str()));
        pieces.push(toned(Tone::Faint, format!(" ({})", pairs(noted, compared))));
        page.item(pieces);
    }
}

/// Whether a change is for the better, where one recording is later than the other.
fn word(grade: Grade, between: ComparisonKind) -> StyledText {
    match (between, grade) {
        (ComparisonKind::Versions, Grade::Regressed) => toned(Tone::Bad, "regressed: "),
        (ComparisonKind::Versions, Grade::Fixed) => toned(Tone::Good, "fixed: "),
        _ => plain(""),
    }
}

/// `#3 #4`, or `#3→#5` where a pair has other numbers on each side; with the names of the files where a side
/// has several.
fn pairs(noted: &ChangeOccurrence, compared: ComparisonReport<'_>) -> String {
    let few = compared.names.0.len() <= 2;
    let address = |address: &Address| match few {
        true => format!("#{}", address.number),
        false => compared.names.address(*address),
    };
    let pair = |(before, after): &(Address, Address)| match address(before) == address(after) {
        true => address(before),
        false => format!("{}→{}", address(before), address(after)),
    };
    let first: Vec<String> = noted.first.iter().map(pair).collect();
    match noted.count.saturating_sub(first.len() as u64) {
        0 => first.join(" "),
        more => format!("{} and {more} more", first.join(" ")),
    }
}

/// As JSON.
///
/// # Errors
/// Only if serde can't write what is text, numbers and lists.
pub fn json(compared: ComparisonReport<'_>) -> Result<String, serde_json::Error> {
    let ComparisonReport { comparison, sides, names, contract } = compared;
    let PairCounts {
        regressed,
        fixed,
        changed,
        unchanged: same,
        only_before,
        only_after,
        more_often,
        unknown,
        not_compared,
    } = comparison.counts;
    let change =
        |((pair, endpoint, change), noted): (&(Grade, String, Change), &ChangeOccurrence)| {
            let Change { grade, what, location, rest } = change;
            let pairs = noted.first.iter().map(|(before, after)| {
            json!({"before": names.address(*before), "after": names.address(*after)})
        });
            json!({
                "endpoint": endpoint,
                "pair": pair.name(),
                "grade": grade.name(),
                "what": what,
                "location": location,
                "rest": rest,
                "count": noted.count,
                "pairs": pairs.collect::<Vec<_>>(),
            })
        };
    let only = |only: &BTreeMap<String, ChangeOccurrence>| -> Vec<Value> {
        let one = |(endpoint, noted): (&String, &ChangeOccurrence)| {
            let first = noted.first.iter().map(|(address, _)| names.address(*address));
            json!({"endpoint": endpoint, "count": noted.count, "addresses": first.collect::<Vec<_>>()})
        };
        only.iter().map(one).collect()
    };
    let grades = |(endpoint, grades): (&String, &BTreeMap<Grade, u64>)| {
        let count = |grade| grades.get(&grade).copied().unwrap_or_default();
        json!({
            "endpoint": endpoint,
            "regressed": count(Grade::Regressed),
            "fixed": count(Grade::Fixed),
            "changed": count(Grade::Changed),
            "unchanged": count(Grade::Unchanged),
        })
    };
    pretty(&json!({
        "format": "fclerk compare",
        "version": 1,
        "between": match comparison.between {
            ComparisonKind::Versions => "versions",
            ComparisonKind::Environments => "environments",
            ComparisonKind::Callers => "callers",
        },
        "sides": sides,
        "contract": contract,
        "recordings": names.0,
        "counts": {
            "regressed": regressed,
            "fixed": fixed,
            "changed": changed,
            "unchanged": same,
            "only_before": only_before,
            "only_after": only_after,
            "more_often": more_often,
            "unknown": unknown,
            "not_compared": not_compared,
        },
        "endpoints": comparison.endpoints.iter().map(grades).collect::<Vec<_>>(),
        "changes": comparison.changes.iter().map(change).collect::<Vec<_>>(),
        "more": comparison.more,
        "only_before": only(&comparison.only[0]),
        "only_after": only(&comparison.only[1]),
        "excluded": json::reasons(&comparison.excluded),
        "unreadable": unreadable(&comparison.unreadable, names),
    }))
}
