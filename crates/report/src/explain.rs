//! What a clause asks, for people: a table of all, or one in full.

use faithful_clerk_core::catalogue;
use faithful_clerk_core::clause::{Clause, Example, HARBOUR};

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
        let weight = theme.weight(clause.severity, &fit(clause.severity.name(), 8, ""));
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
    let weight = theme.weight(clause.severity, clause.severity.name());
    let mut text = format!("{}   usually a {weight}\n\n", theme.strong(clause.name));
    text.push_str(&wrap(clause.statement, 2, theme.width));
    let basis: Vec<String> = clause.basis.iter().map(ToString::to_string).collect();
    for (head, body) in [
        ("Basis", basis.join("; ")),
        ("Why", clause.reason.to_owned()),
        ("Mending", clause.fix.to_owned()),
    ] {
        text.push_str(&format!("\n{}\n{}", theme.strong(head), wrap(&body, 2, theme.width)));
    }
    for (head, examples) in [("Broken", clause.broken), ("Kept", clause.met)] {
        for example in examples {
            text.push_str(&format!("\n{}\n", theme.strong(&format!("{head}: {}", example.shows))));
            if let Some(contract) = own_contract(example, clause) {
                text.push_str(&theme.faint("  under a contract with\n"));
                for line in contract.lines() {
                    text.push_str(format!("  {} {line}", theme.faint("|")).trim_end());
                    text.push('\n');
                }
            }
            text.push_str(&exchange(example, theme));
        }
    }
    text
}

/// All clauses in full, as a Markdown page.
#[must_use]
pub fn markdown() -> String {
    let mut text = String::from(
        "# The clauses\n\n\
         This page is written by `fclerk explain --format markdown`; a test says that it is current. What \
         a weight is, and how a contract changes it, stands in [contract.md](contract.md#weights).\n\n\
         | clause | weight | what holds |\n|---|---|---|\n",
    );
    for clause in catalogue() {
        let anchor = clause.name.replace('.', "");
        let (name, weight) = (clause.name, clause.severity.name());
        text.push_str(&format!("| [{name}](#{anchor}) | {weight} | {} |\n", clause.statement));
    }
    for clause in catalogue() {
        text.push_str(&in_full(clause));
    }
    text
}

fn in_full(clause: &Clause) -> String {
    let basis: Vec<String> = clause.basis.iter().map(ToString::to_string).collect();
    let mut text = format!(
        "\n## {}\n\n{} Usually a {}.\n\nBasis: {}.\n\n{}\n\nMending: {}\n",
        clause.name,
        clause.statement,
        clause.severity.name(),
        basis.join("; "),
        clause.reason,
        clause.fix,
    );
    for (head, examples) in [("Broken", clause.broken), ("Kept", clause.met)] {
        for example in examples {
            text.push_str(&format!("\n{head}: {}\n\n", example.shows));
            if let Some(contract) = own_contract(example, clause) {
                text.push_str(&format!("```toml\n{contract}\n```\n\n"));
            }
            text.push_str("```http\n");
            let all = example.beside.iter().copied().chain([(example.request, example.response)]);
            let all: Vec<String> =
                all.map(|(request, answer)| format!("{request}\n\n{answer}")).collect();
            // A byte order mark would not be seen.
            let all = all.join("\n\n").replace('\u{feff}', "(U+FEFF)");
            text.push_str(&format!("{}\n```\n", all.trim_end()));
            for (place, seen) in example.findings {
                text.push_str(&format!("\nFound at {place}: `{}`\n", seen.replace('`', "'")));
            }
        }
    }
    text
}

/// The contract of an example where it is not that of all of them, but for what every contract has. It is
/// shown once, at the clause's first example.
fn own_contract(example: &Example, clause: &Clause) -> Option<&'static str> {
    let first = clause.broken.first().is_some_and(|first| first.shows == example.shows);
    let own = example.contract != HARBOUR && first;
    let (_, rest) = example.contract.split_once("servers = [\"https://harbour.example/v1\"]\n")?;
    own.then_some(rest.trim())
}

/// An example as it would be read off the wire, and what is found in it.
fn exchange(example: &Example, theme: Theme) -> String {
    let mut text = String::new();
    for (request, answer) in example.beside {
        text.push_str(&message(request, ">", theme));
        text.push_str(&message(answer, "<", theme));
        text.push_str("  and then\n");
    }
    let answer = if example.response.is_empty() { "(no answer)" } else { example.response };
    text.push_str(&message(example.request, ">", theme));
    text.push_str(&message(answer, "<", theme));
    for (place, seen) in example.findings {
        text.push_str(&wrap(&format!("found at {place}: {seen}"), 4, theme.width));
    }
    text
}

/// One message, each line behind a mark; a JSON body that is too long for a line is spread out.
fn message(message: &str, mark: &str, theme: Theme) -> String {
    let (head, body) = message.split_once("\n\n").unwrap_or((message, ""));
    let spread = serde_json::from_str::<serde_json::Value>(body)
        .ok()
        .filter(|_| body.len() + 4 > theme.width)
        .and_then(|value| serde_json::to_string_pretty(&value).ok());
    let body = spread.as_deref().unwrap_or(body);
    let between = if body.is_empty() { None } else { Some("") };
    let mut text = String::new();
    for line in head.lines().chain(between).chain(body.lines()) {
        text.push_str(format!("  {} {line}", theme.faint(mark)).trim_end());
        text.push('\n');
    }
    text
}
