//! Any text in Markdown and in a log: two renderers make nothing of it, and no runner finds a command.
#![no_main]

use faithful_clerk_report::escape::{lines, markdown, terminal};
use libfuzzer_sys::fuzz_target;
use pulldown_cmark::{Event, Options, Parser, Tag, TagEnd};

fn page(text: &str) -> String {
    let safe = markdown(text.trim());
    format!("## {safe}\n\n**{safe}**\n\n{safe}\n\n- **x** {safe}\n  - {safe}\n- {safe}\n")
}

/// The elements, but for code within a line.
fn elements(source: &str) -> Vec<String> {
    let options = Options::all()
        - Options::ENABLE_SMART_PUNCTUATION
        - Options::ENABLE_HEADING_ATTRIBUTES
        - Options::ENABLE_YAML_STYLE_METADATA_BLOCKS
        - Options::ENABLE_PLUSES_DELIMITED_METADATA_BLOCKS;
    let mut made = Vec::new();
    for event in Parser::new_ext(source, options) {
        match event {
            Event::Start(tag @ (Tag::Link { .. } | Tag::Image { .. })) => panic!("{tag:?} in {source}"),
            Event::Start(tag) => made.push(format!("{:?}", TagEnd::from(tag))),
            Event::Text(_) | Event::Code(_) | Event::SoftBreak | Event::End(_) => {}
            other => made.push(format!("{other:?}")),
        }
    }
    made
}

fn other_elements(source: &str) -> Vec<String> {
    let html = markdown::to_html_with_options(source, &markdown::Options::gfm()).expect("Markdown has no errors");
    let tags = html.split('<').skip(1).filter_map(|rest| rest.split(['>', ' ']).next());
    tags.filter(|tag| tag.trim_start_matches('/') != "code").map(str::to_owned).collect()
}

/// As runners look: two of the number sign and a bracket anywhere, two colons and a name where a line begins.
fn has_command(log: &str) -> bool {
    log.contains("##[") || log.contains("##vso[") || log.lines().any(|line| {
        let line = line.trim_start();
        line.starts_with("##teamcity[")
            || line.strip_prefix("::").is_some_and(|rest| rest.starts_with(|c: char| c.is_ascii_alphabetic()))
    })
}

fuzz_target!(|text: &str| {
    assert!(!has_command(&terminal(text)) && !has_command(&lines(text)) && !has_command(&markdown(text)), "{text}");
    // Wherever a line is broken at a space.
    assert!(!has_command(&terminal(text).replace(' ', "\n")), "{text}");
    if !text.trim().is_empty() {
        let source = page(text);
        assert_eq!(elements(&source), elements(&page("quay")), "{source}");
        assert_eq!(other_elements(&source), other_elements(&page("quay")), "{source}");
    }
});
