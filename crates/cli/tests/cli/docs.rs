//! The documentation says what is so.

use std::path::{Path, PathBuf};

use faithful_clerk_contract::DiagnosticSeverity;
use faithful_clerk_schema::FileLoader;

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

fn read(name: &str) -> String {
    std::fs::read_to_string(root().join(name)).unwrap()
}

/// The fenced blocks of a language.
fn blocks(page: &str, language: &str) -> Vec<String> {
    let mut found = Vec::new();
    let mut rest = page;
    while let Some((_, behind)) = rest.split_once(&format!("\n```{language}\n")) {
        let (block, after) = behind.split_once("\n```").unwrap();
        found.push(block.to_owned());
        rest = after;
    }
    found
}

/// The files that examples of the reference name.
#[derive(Debug)]
struct Examples;

impl FileLoader for Examples {
    fn read(&self, path: &str) -> Result<Vec<u8>, String> {
        Ok(match path {
            "schemas/reservation.json" => r#"{"type": "object"}"#,
            "schemas/all.yaml" => "$defs: {vessel: {type: object}}",
            "harbour.openapi.yaml" => {
                "openapi: 3.1.0\npaths: {'/berths/{id}': {get: {responses: {'200': {description: one}}}}}"
            }
            "guild-contract.toml" => "contract = 1\n[error]\nmedia = \"application/problem+json\"\n\
                shape = \"guild-problem\"\n[shape.guild-problem]\nlike = \"problem\"\nhouse = \"string\"\n\
                [fault.not-found]\nstatus = [404, 410]\ntitle = \"Not here\"\n\
                when = [\"resource-not-found\", \"unknown-route\"]\n[everywhere]\nfaults = [\"not-found\"]\n",
            other => return Err(format!("no example is called {other}")),
        }
        .as_bytes()
        .to_vec())
    }
}

#[test]
fn every_example_of_the_contract_reference_is_read_without_a_mistake() {
    let page = read("docs/contract.md");
    let examples = blocks(&page, "toml");
    assert!(examples.len() >= 10, "{}", examples.len());
    for example in examples {
        let text = format!("contract = 1\n{example}\n");
        let parsed = faithful_clerk_check::parse_contract_with_files(&text, &Examples);
        let mistakes: Vec<_> = parsed
            .diagnostics
            .iter()
            .filter(|diagnostic| {
                // An example of shapes need not have an endpoint.
                diagnostic.severity == DiagnosticSeverity::Error
                    || !diagnostic.message.contains("no endpoint")
            })
            .collect();
        assert!(mistakes.is_empty(), "{example}\n{mistakes:#?}");
    }
}

#[test]
fn the_contract_reference_names_every_key_kind_and_situation() {
    let page = read("docs/contract.md");
    let situations = faithful_clerk_model::situation::Situation::ALL
        .map(faithful_clerk_model::situation::Situation::name);
    for word in faithful_clerk_contract::contract_keys().chain(situations) {
        let forms = [format!("`{word}`"), format!("`[{word}"), format!("`[[{word}")];
        // Or an example has it.
        let is_set = |line: &str| {
            let mut words = line.split_whitespace().skip_while(|one| *one != word).skip(1);
            words.next() == Some("=")
        };
        let is_named = forms.iter().any(|form| page.contains(form)) || page.lines().any(is_set);
        assert!(is_named, "`{word}`");
    }
    for kind in faithful_clerk_shape::type_names() {
        assert!(page.contains(&format!("`{kind}")), "{kind}");
    }
}

#[test]
fn the_page_of_the_clauses_is_what_the_program_writes() {
    let run = crate::harness::Project::new().run("explain --format markdown").exits(0);
    let how = "write it anew: fclerk explain --format markdown > docs/clauses.md";
    assert!(read("docs/clauses.md") == run.stdout, "{how}");
}

#[test]
fn the_number_of_clauses_is_the_catalogues() {
    let counted = format!("{} clauses", faithful_clerk_check::clauses::catalogue().count());
    for page in ["README.md", "CHANGELOG.md"] {
        assert!(read(page).contains(&counted), "{page}: {counted}");
    }
}

#[test]
fn every_picture_that_a_page_shows_is_there() {
    for page in ["README.md", "docs/tutorial.md", "docs/contract.md", "docs/design.md"] {
        let text = read(page);
        let folder = root().join(page).parent().unwrap().to_owned();
        for link in text.split("](").skip(1).filter_map(|rest| rest.split(')').next()) {
            if !link.contains("://") && !link.starts_with('#') {
                let file = link.split('#').next().unwrap();
                assert!(folder.join(file).exists(), "{page}: {link}");
            }
        }
    }
}

/// The finding that the README reads aloud is one that the program makes.
#[test]
fn the_finding_in_the_readme_is_a_real_one() {
    let project = crate::harness::Project::new();
    project.run("demo --files-only --output .").exits(0);
    let run = project.run("check before.har").exits(1);
    let page = read("README.md");
    let block =
        blocks(&page, "text").into_iter().find(|block| block.contains("  breach   ")).unwrap();
    assert!(run.stdout.contains(&block), "{block}\n{run}");
}

/// The steps of the README run as they are written, one after the other, and exit as it says.
#[cfg(unix)]
#[test]
fn the_steps_of_the_readme_run_as_written() {
    let page = read("README.md");
    assert!(page.lines().count() <= 120, "{}", page.lines().count());
    let section = page.split("## The job in eight steps").nth(1).unwrap();
    let section = section.split("\n## ").next().unwrap();
    let mut script = String::new();
    for (step, text) in (1..).zip(section.split("```sh\n").skip(1)) {
        for line in text.split("```").next().unwrap().lines().map(str::trim) {
            if !line.is_empty() {
                script.push_str(&format!("{line} > out-{step} 2>&1\necho {step} $?\n"));
            }
        }
    }
    let project = crate::harness::Project::new();
    let program = Path::new(env!("CARGO_BIN_EXE_fclerk")).parent().unwrap();
    let path = format!("{}:{}", program.display(), std::env::var("PATH").unwrap());
    let output = std::process::Command::new("sh")
        .args(["-c", &script])
        .env("PATH", path)
        .current_dir(project.path())
        .output()
        .unwrap();
    let exits = String::from_utf8(output.stdout).unwrap();
    let exits: Vec<&str> = exits.lines().collect();
    assert_eq!(
        exits,
        ["1 0", "2 0", "2 0", "3 0", "4 1", "5 0", "6 0", "7 1", "8 1", "8 0"],
        "{script}"
    );
    let folder = project.path().join("saltmarsh-harbour");
    for name in ["drafted.toml", "page.html", "junit.xml", "handbook"] {
        assert!(folder.join(name).exists(), "{name}");
    }
}

/// The members of a value at every depth but within recorded bodies and headers.
fn members(value: &serde_json::Value, found: &mut std::collections::BTreeSet<String>) {
    match value {
        serde_json::Value::Object(object) => {
            for (name, member) in object {
                found.insert(name.clone());
                if !["body", "headers"].contains(&name.as_str()) {
                    members(member, found);
                }
            }
        }
        serde_json::Value::Array(items) => items.iter().for_each(|item| members(item, found)),
        _ => {}
    }
}

/// `docs/formats.md` sends readers of JSON to these pages.
#[test]
fn every_member_of_a_json_format_is_described() {
    let project = crate::harness::Project::new();
    project.run("demo --files-only --output .").exits(0);
    for (command, page) in [
        ("check before.har", "json.rs"),
        ("survey before.har", "survey/mod.rs"),
        ("draft before.har", "drafted.rs"),
        ("show before.har#29", "show/mod.rs"),
        ("coverage before.har", "coverage.rs"),
        ("compare before.har after.har", "compare.rs"),
    ] {
        let run = project.run(&format!("{command} --format json"));
        let json: serde_json::Value = serde_json::from_str(&run.stdout).unwrap();
        let text = read(&format!("crates/report/src/{page}"));
        let docs: String = text.lines().take_while(|line| line.starts_with("//!")).collect();
        let mut names = std::collections::BTreeSet::new();
        members(&json, &mut names);
        let missing: Vec<_> =
            names.iter().filter(|name| !docs.contains(&format!("`{name}`"))).collect();
        assert!(missing.is_empty(), "{page} does not describe {missing:?}");
    }
}
