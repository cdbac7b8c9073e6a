//! What a clause asks, for people: a table of all, or one in full.

use faithful_clerk_core::catalogue;
use faithful_clerk_core::clause::{Clause, Example};

use crate::Theme;
use crate::text::wrap::{fit, wrap};

/// All clauses in a table: name, usual weight, statement.
#[must_use]
pub fn all(theme: Theme) -> String {
    let longest = catalogue().map(|clause| clause.name.len()).max().unwrap_or_default();
    let indent = longest + 2 + 8;
    let mut text = String::new();
    let mut family = "";
    for clause in catalogue() {
        let of = clause.name.split('.').next().unwrap_or_default();
        if !family.is_empty() && family != of {
            text.push('\n');
        }
        family = of;
        let statement = wrap(clause.statement, indent, theme.width);
        let weight = theme.weight(clause.weight, &fit(clause.weight.name(), 8, ""));
        text.push_str(&format!(
            "{}{weight}{}",
            theme.strong(&fit(clause.name, longest + 2, "")),
            statement.trim_start(),
        ));
    }
    text.push_str(&format!(
        "\n{} clauses; `fclerk explain NAME` says all of one.\n",
        catalogue().count()
    ));
    text
}

/// One clause in full.
#[must_use]
pub fn one(clause: &Clause, theme: Theme) -> String {
    let weight = theme.weight(clause.weight, clause.weight.name());
    let mut text = format!("{}   {weight}\n\n", theme.strong(clause.name));
    text.push_str(&wrap(clause.statement, 2, theme.width));
    let basis: Vec<String> = clause.basis.iter().map(ToString::to_string).collect();
    for (head, body) in [
        ("Basis", basis.join("; ")),
        ("Why", clause.reason.to_owned()),
        ("Mending", clause.mending.to_owned()),
    ] {
        text.push_str(&format!("\n{}\n{}", theme.strong(head), wrap(&body, 2, theme.width)));
    }
    for (head, examples) in [("Broken", clause.broken), ("Kept", clause.kept)] {
        for example in examples {
            text.push_str(&format!("\n{}\n", theme.strong(&format!("{head}: {}", example.shows))));
            text.push_str(&exchange(example, theme));
        }
    }
    text
}

/// An example as it would be read off the wire, and what is found in it.
fn exchange(example: &Example, theme: Theme) -> String {
    let mut text = String::new();
    for line in example.request.lines() {
        text.push_str(format!("  {} {line}", theme.faint(">")).trim_end());
        text.push('\n');
    }
    let answer = if example.answer.is_empty() { "(no answer)" } else { example.answer };
    for line in answer.lines() {
        text.push_str(format!("  {} {line}", theme.faint("<")).trim_end());
        text.push('\n');
    }
    for finding in example.findings {
        text.push_str(&wrap(
            &format!("found at {}: {}", finding.place, finding.seen),
            4,
            theme.width,
        ));
    }
    text
}
