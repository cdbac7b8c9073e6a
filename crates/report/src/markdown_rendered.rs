//! What renderers make of recorded text in Markdown: nothing but text and code. Two of them, by other people, are asked, one with the
//! tables and bare addresses of forges.

use std::sync::LazyLock;

use proptest::prelude::*;
use pulldown_cmark::{Event, Options, Parser, Tag, TagEnd};
use regex::Regex;

use crate::page::{Page, Table, code, plain, toned};
use crate::theme::Tone;

/// A page with a text in every place that recorded text comes to.
fn page(text: &str) -> String {
    let mut page = Page::default();
    page.heading(text);
    page.label(text);
    page.text(vec![plain(text), plain(" and "), toned(Tone::Strong, text)]);
    page.item(vec![
        toned(Tone::Bad, "breach"),
        plain(" "),
        code(text),
        plain(format!(", {text} ")),
    ]);
    page.part(vec![plain("got "), plain(text)]);
    page.part(vec![plain(text)]);
    let mut table = Table::new(&["endpoint", "#found"]);
    table.row(vec![plain(text), code(text)]);
    page.table(table);
    page.item(vec![plain(text)]);
    page.markdown()
}

/// The elements that a renderer makes, but for code within a line, and the text outside of code.
fn elements(markdown: &str) -> (Vec<String>, String) {
    let options = Options::ENABLE_TABLES
        | Options::ENABLE_FOOTNOTES
        | Options::ENABLE_STRIKETHROUGH
        | Options::ENABLE_TASKLISTS
        | Options::ENABLE_MATH
        | Options::ENABLE_GFM
        | Options::ENABLE_DEFINITION_LIST
        | Options::ENABLE_SUPERSCRIPT
        | Options::ENABLE_WIKILINKS;
    let (mut made, mut text) = (Vec::new(), String::new());
    for event in Parser::new_ext(markdown, options) {
        match event {
            Event::Start(tag @ (Tag::Link { .. } | Tag::Image { .. })) => {
                panic!("{tag:?} in {markdown}")
            }
            Event::Start(tag) => {
                made.push(format!("{:?}", TagEnd::from(tag)));
                text.push('\n');
            }
            Event::Text(piece) => text.push_str(&piece),
            Event::Code(_) => text.push('\u{1}'),
            Event::SoftBreak | Event::End(_) => text.push('\n'),
            other => made.push(format!("{other:?}")),
        }
    }
    (made, text)
}

/// The same by the other renderer: its elements without code within a line.
fn other_elements(source: &str) -> String {
    let html = markdown::to_html_with_options(source, &markdown::Options::gfm()).unwrap();
    static TAGS: LazyLock<Regex> = LazyLock::new(|| Regex::new("<(/?[a-z0-9]+)[^>]*>").unwrap());
    let tags = TAGS.captures_iter(&html).map(|tag| tag[1].to_owned());
    tags.filter(|tag| tag.trim_start_matches('/') != "code").collect::<Vec<_>>().join(" ")
}

/// What forges make something of in plain text, after Markdown was rendered.
fn acting(text: &str) -> Option<String> {
    static ACTING: LazyLock<Regex> = LazyLock::new(|| {
        Regex::new(r"(?i)@\w|[#!%~&^]\w|\w+://|www\.|mailto:|:[a-z0-9_+-]+:|\$|\b[a-z]+-[0-9]+\b|\b(?:[0-9]+[a-f]|[a-f]+[0-9])[0-9a-f]{5,}\b").unwrap()
    });
    let is_own = |found: &str| {
        found.bytes().all(|byte| byte.is_ascii_lowercase() || byte == b'-' || byte.is_ascii_digit())
    };
    ACTING
        .find_iter(text)
        .map(|found| found.as_str().to_owned())
        .find(|found| !is_own(found) || !found.contains('-'))
}

fn assert_inert(text: &str) {
    let source = page(text);
    let (made, shown) = elements(&source);
    let (expected, _) = elements(&page("quay"));
    assert_eq!(made, expected, "{text:?} in\n{source}");
    assert_eq!(other_elements(&source), other_elements(&page("quay")), "{text:?} in\n{source}");
    assert_eq!(acting(&shown), None, "{text:?} in\n{source}");
}

#[test]
fn no_recorded_text_acts_in_markdown() {
    for text in [
        "@harbour-master",
        "see #12 and harbour/quay#12, GH-12, !7, ~urgent, %4, &5 or ^x",
        "https://harbour.example/a",
        "www.harbour.example",
        "quay@harbour.example",
        "\\https://harbour.example",
        "\\@harbour",
        "<script>alert(1)</script>",
        "<img src=x>",
        "&lt;b&gt; &#64;harbour &commat;x",
        "[a](https://harbour.example)",
        "![a](b)",
        "[a]: b",
        "[^1] [ ] [x]",
        "`code` and ``more``",
        "`",
        "a|b|c",
        "\\|",
        "trailing\\",
        "- item",
        "+ item",
        "1. item",
        "12) item",
        "# head",
        "> quote",
        "---",
        "===",
        "***",
        "    indented",
        " - a",
        "~~~",
        "```",
        ":smile: :+1:",
        "$x$ and $$y$$",
        "~~struck~~ ~x~",
        "**bold** _under_ __more__",
        "d41d8cd98f00b204e9800998ecf8427e 1a2b3c4",
        "xmpp:a@b mailto:a@b ftp://x",
        "a  ",
        "@a @b `@c` @d|@e",
        "a\n- b\n\n# c",
        "term\n: definition",
        "",
        "@",
        "!",
        "![",
        "*",
    ] {
        if !text.trim().is_empty() {
            assert_inert(text);
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]
    #[test]
    fn no_mixture_of_signs_acts_in_markdown(
        pieces in proptest::collection::vec(
            prop_oneof![
                Just(" ".to_owned()),
                "[-+*_`~#>|!\\[\\](){}<&;:@$%^=.\\\\/0-9\"']{1,3}",
                Just("quay".to_owned()),
                Just("https://a.example".to_owned()),
                Just("www.a.example".to_owned()),
                "\\PC{1,2}",
            ],
            1..10,
        )
    ) {
        let text = pieces.concat();
        prop_assume!(!text.trim().is_empty());
        assert_inert(&text);
    }
}
