//! A check as JUnit XML, for dashboards that show how test cases went over time.
//!
//! A test suite is an endpoint, a test case a family of clauses there, so that the same cases are there in
//! every run. A case fails if a finding in it lets the check fail; other findings are told in its
//! `system-out`. Where nothing was recorded at an endpoint, its cases are skipped. What could not be read
//! is an error in a suite of its own.
//!
//! What XML 1.0 has no place for is what would harm a terminal, too, and is written out; the rest is the
//! writer's to escape.

use std::collections::{BTreeMap, BTreeSet};
use std::io::Error;

use faithful_clerk_check::clauses::catalogue;
use faithful_clerk_check::grid::Grid;
use faithful_clerk_check::ledger::StaleWaiver;
use faithful_clerk_model::finding::Severity;
use quick_xml::Writer;
use quick_xml::events::{BytesDecl, Event};

use crate::CheckReport;
use crate::escape::{lines, terminal};
use crate::groups::{FindingGroup, ListedFinding, groups};
use crate::text::counted;

/// A test case before it is written.
struct TestCase {
    suite: String,
    name: String,
    outcome: TestOutcome,
    out: String,
}

enum TestOutcome {
    Passed,
    Skipped(&'static str),
    /// What failed in a line, of which severity, and all of it.
    Failed(String, &'static str, String),
    Error(String, String),
}

/// The whole of it.
///
/// # Errors
/// Only if the writer can't write what is text.
pub fn check(report: &CheckReport<'_>) -> Result<String, Error> {
    let suites = suites(report);
    let of = |is: fn(&TestOutcome) -> bool| {
        suites
            .iter()
            .flat_map(|(_, cases)| cases)
            .filter(|case| is(&case.outcome))
            .count()
            .to_string()
    };
    let mut writer = Writer::new_with_indent(Vec::new(), b' ', 1);
    writer.write_event(Event::Decl(BytesDecl::new("1.0", Some("UTF-8"), None)))?;
    let name = report.contract.service.as_deref().unwrap_or("error contract");
    let all = of(|_| true);
    writer
        .create_element("testsuites")
        .with_attribute(("name", terminal(name).as_ref()))
        .with_attribute(("tests", all.as_str()))
        .with_attribute((
            "failures",
            of(|outcome| matches!(outcome, TestOutcome::Failed(..))).as_str(),
        ))
        .with_attribute((
            "errors",
            of(|outcome| matches!(outcome, TestOutcome::Error(..))).as_str(),
        ))
        .with_attribute((
            "skipped",
            of(|outcome| matches!(outcome, TestOutcome::Skipped(_))).as_str(),
        ))
        .write_inner_content(|writer| {
            suites.iter().try_for_each(|(name, cases)| suite(writer, name, cases))
        })?;
    let mut text = String::from_utf8_lossy(&writer.into_inner()).into_owned();
    text.push('\n');
    Ok(text)
}

fn suite(writer: &mut Writer<Vec<u8>>, name: &str, cases: &[TestCase]) -> Result<(), Error> {
    let of = |is: fn(&TestOutcome) -> bool| {
        cases.iter().filter(|case| is(&case.outcome)).count().to_string()
    };
    writer
        .create_element("testsuite")
        .with_attribute(("name", terminal(name).as_ref()))
        .with_attribute(("tests", of(|_| true).as_str()))
        .with_attribute((
            "failures",
            of(|outcome| matches!(outcome, TestOutcome::Failed(..))).as_str(),
        ))
        .with_attribute((
            "errors",
            of(|outcome| matches!(outcome, TestOutcome::Error(..))).as_str(),
        ))
        .with_attribute((
            "skipped",
            of(|outcome| matches!(outcome, TestOutcome::Skipped(_))).as_str(),
        ))
        .write_inner_content(|writer| cases.iter().try_for_each(|case| test_case(writer, case)))?;
    Ok(())
}

fn test_case(writer: &mut Writer<Vec<u8>>, case: &TestCase) -> Result<(), Error> {
    let told =
        |writer: &mut Writer<Vec<u8>>, element: &str, message: &str, kind: &str, text: &str| {
            writer
                .create_element(element)
                .with_attribute(("message", terminal(message).as_ref()))
                .with_attribute(("type", kind))
                .write_text_content(quick_xml::events::BytesText::new(&lines(text)))
                .map(drop)
        };
    let element = writer
        .create_element("testcase")
        .with_attribute(("classname", terminal(&case.suite).as_ref()))
        .with_attribute(("name", terminal(&case.name).as_ref()));
    if matches!(case.outcome, TestOutcome::Passed) && case.out.is_empty() {
        element.write_empty()?;
        return Ok(());
    }
    element.write_inner_content(|writer| {
        match &case.outcome {
            TestOutcome::Passed => {}
            TestOutcome::Skipped(why) => {
                writer.create_element("skipped").with_attribute(("message", *why)).write_empty()?;
            }
            TestOutcome::Failed(message, kind, text) => {
                told(writer, "failure", message, kind, text)?;
            }
            TestOutcome::Error(message, text) => {
                told(writer, "error", message, "unreadable", text)?;
            }
        }
        if !case.out.is_empty() {
            let text = lines(&case.out);
            let text = quick_xml::events::BytesText::new(&text);
            writer.create_element("system-out").write_text_content(text)?;
        }
        Ok(())
    })?;
    Ok(())
}

/// The cases of every endpoint, and those of the recordings and the waivers.
fn suites(report: &CheckReport<'_>) -> Vec<(String, Vec<TestCase>)> {
    let families: BTreeSet<&str> = catalogue().map(|clause| family(clause.name)).collect();
    let groups = groups(report);
    let by_row: BTreeMap<_, _> =
        groups.iter().filter_map(|group| Some((group.row?, group))).collect();
    let mut suites = Vec::new();
    for (row, cells) in &Grid::of(report.contract, report.ledger).rows {
        let suite = row.name(report.contract);
        let is_tried = cells.iter().any(|(_, cell)| cell.met + cell.broken + cell.not_checked > 0);
        let cases = families.iter().map(|family| match by_row.get(row) {
            Some(group) => case(report, group, family),
            None => {
                let outcome = if is_tried {
                    TestOutcome::Passed
                } else {
                    TestOutcome::Skipped("no exchange was recorded")
                };
                let (suite, out) = (suite.clone(), String::new());
                TestCase { suite, name: (*family).to_owned(), outcome, out }
            }
        });
        suites.push((suite.clone(), cases.collect()));
    }
    suites.push(("(the run)".to_owned(), run(report)));
    suites
}

fn family(clause: &str) -> &str {
    clause.split('.').next().unwrap_or_default()
}

fn case(report: &CheckReport<'_>, group: &FindingGroup<'_>, name: &str) -> TestCase {
    let of_family = |shown: &&ListedFinding<'_>| family(shown.key.clause) == name;
    let fails = |shown: &&ListedFinding<'_>| shown.key.severity <= report.gate.fail_on;
    let (failed, told): (Vec<_>, Vec<_>) = group.new.iter().filter(of_family).partition(fails);
    let more = group.more.iter().filter(|((clause, _), _)| family(clause) == name);
    let more_failed: Vec<(Severity, u64)> = more
        .map(|((_, weight), count)| (*weight, *count))
        .filter(|(weight, _)| *weight <= report.gate.fail_on)
        .collect();
    let known = group.known.iter().filter(of_family);
    let out: Vec<String> = told
        .into_iter()
        .map(|shown| sentence(report, shown))
        .chain(known.map(|shown| format!("known: {}", sentence(report, shown))))
        .collect();
    let count: u64 = failed.iter().map(|shown| shown.entry.count).sum::<u64>()
        + more_failed.iter().map(|(_, count)| count).sum::<u64>();
    let severities =
        failed.iter().map(|shown| shown.key.severity).chain(more_failed.iter().map(|of| of.0));
    let outcome = match severities.min() {
        None => TestOutcome::Passed,
        Some(worst) => {
            let mut lines: Vec<String> =
                failed.iter().map(|shown| sentence(report, shown)).collect();
            lines.extend(more_failed.iter().map(|(weight, count)| {
                format!("and {} with other texts", counted(*count, weight.name()))
            }));
            TestOutcome::Failed(counted(count, "finding"), worst.name(), lines.join("\n"))
        }
    };
    TestCase { suite: group.name.clone(), name: name.to_owned(), outcome, out: out.join("\n") }
}

fn sentence(report: &CheckReport<'_>, shown: &ListedFinding<'_>) -> String {
    let (key, entry) = (shown.key, &shown.entry);
    let at = report.names().list(entry.count, &entry.first);
    let text = shown.text(report).sentence();
    format!("{} {} {text} ({at})", key.severity.name(), key.clause)
}

/// Was everything read, and do all waivers still count?
fn run(report: &CheckReport<'_>) -> Vec<TestCase> {
    let suite = || "(the run)".to_owned();
    let unreadable = &report.ledger.unreadable;
    let told = unreadable.first.iter().map(|unreadable| unreadable.told(report.names()));
    let read = match unreadable.count {
        0 => TestOutcome::Passed,
        count => {
            let text = told.collect::<Vec<_>>().join("\n");
            TestOutcome::Error(format!("{} could not be read", counted(count, "part")), text)
        }
    };
    let expired: Vec<String> = report
        .ledger
        .stale
        .iter()
        .filter(|(_, stale)| **stale == StaleWaiver::Expired)
        .filter_map(|(at, _)| report.contract.waivers.get(*at))
        .map(|waiver| format!("{}, line {}: until {}", waiver.clause, waiver.line, waiver.until))
        .collect();
    let waivers = match expired.len() {
        0 => TestOutcome::Passed,
        count => {
            let message = format!("{} expired", counted(count as u64, "waiver"));
            TestOutcome::Failed(message, "breach", expired.join("\n"))
        }
    };
    let case = |name: &str, outcome| TestCase {
        suite: suite(),
        name: name.to_owned(),
        outcome,
        out: String::new(),
    };
    vec![case("recordings", read), case("waivers", waivers)]
}
