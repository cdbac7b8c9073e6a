//! What a clause asks, for people: a table of all, or one in full.

use faithful_clerk_check::clauses::catalogue;
use faithful_clerk_check::clauses::{Clause, Example, HARBOUR};
use faithful_clerk_contract::{ErrorContract, Fault, FaultClass, KeyDescription};
use faithful_clerk_model::situation::Situation;

use crate::Theme;
use crate::escape::terminal;
use crate::finding_text::LABEL_WIDTH;
use crate::text::wrap::{fit, wrap};

/// All clauses in a table: name, usual severity, statement.
#[must_use]
pub fn all(theme: Theme) -> String {
    let mut text = table(catalogue(), theme);
    text.push_str(&format!(
        "\n{} clauses; `fclerk explain NAME` says all of one.\n",
        catalogue().count()
    ));
    text
}

/// The clauses of a family in a table, if there is one of that name.
#[must_use]
pub fn family(name: &str, theme: Theme) -> Option<String> {
    let of_family = || catalogue().filter(|clause| clause.name.split('.').next() == Some(name));
    of_family().next()?;
    let text = table(of_family(), theme);
    Some(format!("{text}\n`fclerk explain NAME` says all of one.\n"))
}

/// A situation: when it holds, how it is recognised, and which situations there are beside it.
#[must_use]
pub fn situation(situation: Situation, theme: Theme) -> String {
    let known = if situation.is_visible_in_request() {
        "It is seen from the request and the contract."
    } else {
        "It can be true of any request as far as a recording shows: a case of the contract declares it, or the response tells of it."
    };
    let mut text = format!("{}   a situation\n\n", theme.strong(situation.name()));
    text.push_str(&wrap(situation.description(), 2, theme.width));
    text.push_str(&wrap(known, 2, theme.width));
    let clauses = "A fault is for it by its `when`. Clauses: situation.requires-error, status.fits-situation.";
    text.push_str(&wrap(clauses, 2, theme.width));
    text.push_str(&format!("\n{}\n", theme.strong("All situations")));
    let names: Vec<&str> = Situation::ALL.into_iter().map(Situation::name).collect();
    text.push_str(&wrap(&names.join(", "), 2, theme.width));
    text
}

/// A fault of a contract: what it is, when it is expected, and where it is declared.
#[must_use]
pub fn fault(fault: &Fault, contract: &ErrorContract, file: &str, theme: Theme) -> String {
    let line = contract.key_lines.line(&["fault", &fault.name]);
    let at = line.map(|line| format!(", {line}")).unwrap_or_default();
    let mut text =
        format!("{}   a fault of {}{at}\n\n", theme.strong(&terminal(&fault.name)), terminal(file));
    let situations: Vec<&str> = fault.when.iter().map(|one| one.name()).collect();
    let when = match fault.class {
        FaultClass::AnyRequest => "any request".to_owned(),
        FaultClass::Internal => "never expected: it is the service's own failure".to_owned(),
        FaultClass::Expected if situations.is_empty() => "nothing that a request shows".to_owned(),
        FaultClass::Expected => situations.join(", "),
    };
    for (label, value) in [
        ("status", Some(fault.status.to_string())),
        ("type", fault.type_uri.clone()),
        ("title", fault.title.clone()),
        ("code", fault.code.clone()),
        ("when", Some(when)),
    ] {
        if let Some(value) = value {
            let value = wrap(&terminal(&value), 2 + LABEL_WIDTH, theme.width);
            text.push_str(&format!("  {label:LABEL_WIDTH$}{}", value.trim_start()));
        }
    }
    text
}

/// A key of contracts, in each table that has it.
#[must_use]
pub fn keys(of: &[KeyDescription], theme: Theme) -> String {
    let described = of.iter().map(|key| {
        let mut text = format!("{}   a key of contracts\n\n", theme.strong(&key.path));
        text.push_str(&wrap(&key.description, 2, theme.width));
        if !key.values.is_empty() {
            let values = format!("Values: {}", key.values.join(", "));
            text.push_str(&wrap(&values, 2, theme.width));
        }
        if let Some(default) = &key.default {
            text.push_str(&wrap(&format!("Default: {default}"), 2, theme.width));
        }
        text
    });
    described.collect::<Vec<_>>().join("\n")
}

fn table(clauses: impl Iterator<Item = &'static Clause>, theme: Theme) -> String {
    let longest = catalogue().map(|clause| clause.name.len()).max().unwrap_or_default();
    let indent = longest + 2 + 8;
    let mut text = String::new();
    let mut family = "";
    for clause in clauses {
        let of = clause.name.split('.').next().unwrap_or_default();
        if !family.is_empty() && family != of {
            text.push('\n');
        }
        family = of;
        let statement = wrap(clause.statement, indent, theme.width);
        let severity = theme.weight(clause.severity, &fit(clause.severity.name(), 8, ""));
        text.push_str(&format!(
            "{}{severity}{}",
            theme.strong(&fit(clause.name, longest + 2, "")),
            statement.trim_start(),
        ));
    }
    text
}

/// One clause in full.
#[must_use]
pub fn one(clause: &Clause, theme: Theme) -> String {
    let severity = theme.weight(clause.severity, clause.severity.name());
    let mut text = format!("{}   default severity: {severity}\n\n", theme.strong(clause.name));
    text.push_str(&wrap(clause.statement, 2, theme.width));
    let basis: Vec<String> = clause.basis.iter().map(ToString::to_string).collect();
    for (head, body) in [
        ("Basis", basis.join("; ")),
        ("Why", clause.reason.to_owned()),
        ("How to fix", clause.fix.to_owned()),
    ] {
        text.push_str(&format!("\n{}\n{}", theme.strong(head), wrap(&body, 2, theme.width)));
    }
    for (head, examples) in [("Broken", clause.broken), ("Met", clause.met)] {
        for example in examples {
            text.push_str(&format!("\n{}\n", theme.strong(&format!("{head}: {}", example.shows))));
            for (head, lines) in [
                ("under a contract with", own_contract(example, clause)),
                ("and the description", own_description(example, clause)),
            ] {
                let Some(lines) = lines else { continue };
                text.push_str(&theme.faint(&format!("  {head}\n")));
                for line in lines.lines() {
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
         This page is generated by `fclerk explain --format markdown`; a test keeps it current. [contract.md](contract.md#severities) explains severities and how a contract changes them.\n\n\
         | clause | severity | what holds |\n|---|---|---|\n",
    );
    for clause in catalogue() {
        let anchor = clause.name.replace('.', "");
        let (name, severity) = (clause.name, clause.severity.name());
        text.push_str(&format!("| [{name}](#{anchor}) | {severity} | {} |\n", clause.statement));
    }
    for clause in catalogue() {
        text.push_str(&in_full(clause));
    }
    text
}

fn in_full(clause: &Clause) -> String {
    let basis: Vec<String> = clause.basis.iter().map(ToString::to_string).collect();
    let mut text = format!(
        "\n## {}\n\n{} Usually a {}.\n\nBasis: {}.\n\n{}\n\nHow to fix: {}\n",
        clause.name,
        clause.statement,
        clause.severity.name(),
        basis.join("; "),
        clause.reason,
        clause.fix,
    );
    for (head, examples) in [("Broken", clause.broken), ("Met", clause.met)] {
        for example in examples {
            text.push_str(&format!("\n{head}: {}\n\n", example.shows));
            if let Some(contract) = own_contract(example, clause) {
                text.push_str(&format!("```toml\n{contract}\n```\n\n"));
            }
            if let Some(description) = own_description(example, clause) {
                text.push_str(&format!("```json\n{description}\n```\n\n"));
            }
            text.push_str("```http\n");
            let all = example.beside.iter().copied().chain([(example.request, example.response)]);
            let all: Vec<String> =
                all.map(|(request, answer)| format!("{request}\n\n{answer}")).collect();
            // A byte order mark would not be seen.
            let all = all.join("\n\n").replace('\u{feff}', "(U+FEFF)");
            text.push_str(&format!("{}\n```\n", all.trim_end()));
            for (location, seen) in example.findings {
                text.push_str(&format!("\nFinding at {location}: `{}`\n", seen.replace('`', "'")));
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

/// The description that the contract of an example names; shown once, too.
fn own_description(example: &Example, clause: &Clause) -> Option<&'static str> {
    own_contract(example, clause).and(example.description)
}

/// An example as it would be read off the wire, and what is found in it.
fn exchange(example: &Example, theme: Theme) -> String {
    let mut text = String::new();
    for (request, answer) in example.beside {
        text.push_str(&message(request, ">", theme));
        text.push_str(&message(answer, "<", theme));
        text.push_str("  and then\n");
    }
    let answer = if example.response.is_empty() { "(no response)" } else { example.response };
    text.push_str(&message(example.request, ">", theme));
    text.push_str(&message(answer, "<", theme));
    for (location, seen) in example.findings {
        text.push_str(&wrap(&format!("finding at {location}: {seen}"), 4, theme.width));
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
