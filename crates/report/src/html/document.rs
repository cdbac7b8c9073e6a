//! Makes a whole page out of its parts, escaped by the templates.

use crate::escape::terminal;
use crate::page::{Page, PageFrame, PagePart};
use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use minijinja::syntax::SyntaxConfig;
use minijinja::value::Serde;
use minijinja::{AutoEscape, Environment, Error, Output, State, UndefinedBehavior, Value};
use serde::Serialize;
use sha2::{Digest as _, Sha256};

const STYLE: &str = include_str!("assets/style.css");
const SCRIPT: &str = include_str!("assets/page.js");

/// A page of its own for what a command has to say.
pub(crate) fn document(title: &str, page: &Page) -> Result<String, Error> {
    #[derive(Serialize)]
    struct PlainPage<'p> {
        title: &'p str,
        blocks: Vec<super::blocks::HtmlBlock>,
    }
    render("plain.html", &PlainPage { title, blocks: super::blocks::of(page) })
}

/// A page of the handbook.
pub(crate) fn render_chapters(around: &PageFrame<'_>, parts: &[PagePart]) -> Result<String, Error> {
    #[derive(Serialize)]
    struct PageSection<'p> {
        anchor: Option<&'p str>,
        title: Option<&'p str>,
        blocks: Vec<super::blocks::HtmlBlock>,
    }
    #[derive(Serialize)]
    struct WholePage<'p> {
        #[serde(flatten)]
        around: &'p PageFrame<'p>,
        chapters: Vec<PageSection<'p>>,
    }
    let mut chapters = Vec::new();
    for (at, part) in parts.iter().enumerate() {
        let mut blocks = super::blocks::of(&part.page);
        super::blocks::prefix_ids(&mut blocks, at);
        let (anchor, title) = (part.anchor.as_deref(), part.title.as_deref());
        chapters.push(PageSection { anchor, title, blocks });
    }
    render("handbook.html", &WholePage { around, chapters })
}

/// Fills a template in; `title` has to be among the values.
pub(crate) fn render(template: &str, values: &impl Serialize) -> Result<String, Error> {
    let mut environment = Environment::new();
    // A member that a template misspells is an error, and not an empty place on the page.
    environment.set_undefined_behavior(UndefinedBehavior::Strict);
    environment.set_auto_escape_callback(|_| AutoEscape::Html);
    environment.set_formatter(write);
    environment.set_syntax(SyntaxConfig::builder().trim_blocks(true).lstrip_blocks(true).build()?);
    for (name, source) in [
        ("document.html", include_str!("assets/document.html")),
        ("blocks.html", include_str!("assets/blocks.html")),
        ("plain.html", include_str!("assets/plain.html")),
        ("check.html", include_str!("assets/check.html")),
        ("handbook.html", include_str!("assets/handbook.html")),
    ] {
        environment.add_template(name, source)?;
    }
    let asset = |text: &str| Value::from_safe_string(text.to_owned());
    environment.add_global("style", asset(STYLE));
    environment.add_global("script", asset(SCRIPT));
    environment.add_global("style_hash", hash(STYLE));
    environment.add_global("script_hash", hash(SCRIPT));
    environment.add_global("version", env!("CARGO_PKG_VERSION"));
    environment.get_template(template)?.render(Value::from(Serde(values)))
}

/// Everything that is written into a page goes through here.
fn write(out: &mut Output<'_>, state: &mut State<'_, '_>, value: &Value) -> Result<(), Error> {
    match value.as_str() {
        Some(text) if !value.is_safe() => {
            let shown = Value::from(terminal(text).into_owned());
            minijinja::escape_formatter(out, state, &shown)
        }
        _ => minijinja::escape_formatter(out, state, value),
    }
}

/// A hash as a policy names it (Content Security Policy Level 3, section 2.3.1).
fn hash(text: &str) -> String {
    format!("sha256-{}", STANDARD.encode(Sha256::digest(text)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::page::plain;

    #[test]
    fn a_page_is_closed_and_harmless() {
        let mut page = Page::default();
        page.heading("</script><script>alert(1)</script>");
        page.text(vec![plain("a\u{202e}b <b> \u{0}")]);
        let html = document("Survey <x>", &page).unwrap();
        assert_eq!(html.matches("<script").count(), 1, "{html}");
        assert!(html.contains("a\\u{202e}b &lt;b&gt; \\u{0}"), "{html}");
        assert!(html.contains("<title>Survey &lt;x&gt;"), "{html}");
        assert!(html.contains("default-src 'none'; style-src 'sha256-"), "{html}");
    }
}
