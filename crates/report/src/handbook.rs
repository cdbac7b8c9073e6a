//! The contract as documentation: files to be put where problem types lead.
//!
//! | file | what it is |
//! |---|---|
//! | `index.html`, `index.md` | all faults, and those without a type of their own in full |
//! | `PATH/index.html`, `PATH/index.md` | a problem type, at the path of its URI |
//! | `types/NAME/index.html`, … | a type whose URI has no path that a file can have |
//! | `schemas/NAME.json` | a shape as JSON Schema 2020-12 |
//! | `openapi-components.json` | shapes and faults as `components` of an OpenAPI 3.1 description |

use faithful_clerk_contract::{ErrorContract, Fault};
use faithful_clerk_insight::handbook::{
    FaultChapter, FaultForm, Handbook, advice, components, shape_schemas,
};
use faithful_clerk_model::status;

use crate::escape::{markdown, uri_path};
use crate::html::{Error, render_chapters};
use crate::json::pretty;
use crate::page::{Page, PageFrame, PageLine, PagePart, Table, code, linked, plain, toned};
use crate::theme::Tone;

/// A file of the handbook.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct HandbookFile {
    /// Its path below the handbook's folder, with `/` between its steps.
    pub path: String,
    /// What is in it.
    pub text: String,
}

/// All files of the handbook.
///
/// # Errors
/// Only if our own template is wrong.
pub fn files(contract: &ErrorContract) -> Result<Vec<HandbookFile>, Error> {
    let book = Handbook::of(contract);
    let service = contract.service.as_deref();
    let mut files = Vec::new();
    let title = service.map_or("Errors".to_owned(), |service| format!("Errors of {service}"));
    let around = PageFrame { title: &title, service, home: None };
    draw(&mut files, "index", &around, &index(&book))?;
    for (path, chapters) in book.pages() {
        let up = "../".repeat(path.matches('/').count());
        let title = match chapters.as_slice() {
            [one] => title_of(one).to_owned(),
            _ => title.clone(),
        };
        let around = PageFrame { title: &title, service, home: Some(format!("{up}index.html")) };
        let parts = chapters.iter().map(|chapter| {
            let heading = (chapters.len() > 1).then(|| title_of(chapter).to_owned());
            let anchor = chapter.page.as_ref().and_then(|page| page.anchor.clone());
            let head: fn(&mut Page, &str) = if chapters.len() > 1 { as_label } else { as_heading };
            PagePart { anchor, title: heading, page: chapter_page(chapter, &up, head) }
        });
        draw(&mut files, path, &around, &parts.collect::<Vec<_>>())?;
    }
    for (name, schema) in shape_schemas(contract) {
        let text = pretty(&schema).unwrap_or_default();
        files.push(HandbookFile { path: format!("schemas/{name}.json"), text });
    }
    let text = pretty(&components(contract)).unwrap_or_default();
    files.push(HandbookFile { path: "openapi-components.json".to_owned(), text });
    Ok(files)
}

fn draw(
    files: &mut Vec<HandbookFile>,
    path: &str,
    around: &PageFrame<'_>,
    parts: &[PagePart],
) -> Result<(), Error> {
    let mut text = format!("# {}\n", markdown(around.title));
    for part in parts {
        if let Some(title) = &part.title {
            text.push_str(&format!("\n## {}\n", markdown(title)));
        }
        // Links lead to pages of the same kind.
        text.push('\n');
        text.push_str(&part.page.markdown().replace("index.html)", "index.md)"));
    }
    files
        .push(HandbookFile { path: format!("{path}.html"), text: render_chapters(around, parts)? });
    files.push(HandbookFile { path: format!("{path}.md"), text });
    Ok(())
}

fn title_of<'c>(chapter: &'c FaultChapter<'_>) -> &'c str {
    let fault = chapter.fault;
    let phrase = || status::phrase(fault.status).unwrap_or(&fault.name);
    fault.title.as_deref().unwrap_or_else(phrase)
}

/// All faults, then those without a type in full.
fn index(book: &Handbook<'_>) -> Vec<PagePart> {
    let mut page = Page::default();
    page.text(vec![plain(
        "Every error that the service may respond with, as the contract declares it.",
    )]);
    let mut table = Table::new(&["error", "#status", "type", "it comes when"]);
    for chapter in &book.chapters {
        let link = match &chapter.page {
            Some(page) => {
                let anchor = page.anchor.as_ref().map(|a| format!("#{}", uri_path(a)));
                format!("{}.html{}", uri_path(&page.path), anchor.unwrap_or_default())
            }
            None => format!("#{}", uri_path(&chapter.fault.name)),
        };
        table.row(vec![
            linked(title_of(chapter), link),
            plain(chapter.fault.status.to_string()),
            code(chapter.fault.type_uri.as_deref().unwrap_or("about:blank")),
            plain(chapter.when.join("; or ")),
        ]);
    }
    page.table(table);
    page.text(vec![
        plain("For programs: "),
        linked(
            "the shapes and errors as components of an OpenAPI description",
            "openapi-components.json",
        ),
        plain(", and each shape as JSON Schema in the folder "),
        code("schemas"),
        plain("."),
    ]);
    let mut parts = vec![PagePart { anchor: None, title: None, page }];
    parts.extend(book.chapters.iter().filter(|chapter| chapter.page.is_none()).map(|chapter| {
        PagePart {
            anchor: Some(chapter.fault.name.clone()),
            title: Some(title_of(chapter).to_owned()),
            page: chapter_page(chapter, "", as_label),
        }
    }));
    parts
}

fn as_heading(page: &mut Page, text: &str) {
    page.heading(text);
}

fn as_label(page: &mut Page, text: &str) {
    page.label(text);
}

/// What is said of a fault; `head` puts a heading over each of its parts.
fn chapter_page(chapter: &FaultChapter<'_>, up: &str, head: fn(&mut Page, &str)) -> Page {
    let fault = chapter.fault;
    let phrase = status::phrase(fault.status).unwrap_or_default();
    let mut page = Page::default();
    page.item(vec![plain("status "), toned(Tone::Strong, format!("{} {phrase}", fault.status))]);
    page.item(vec![plain("type "), code(fault.type_uri.as_deref().unwrap_or("about:blank"))]);
    if let Some(code_text) = &fault.code {
        page.item(vec![plain("code "), code(code_text)]);
    }
    for (language, title) in &fault.titles {
        page.item(vec![plain(format!("title in {language}: {title}"))]);
    }
    head(&mut page, "When it comes");
    if chapter.when.is_empty() {
        page.text(vec![plain("The request does not show it.")]);
    }
    chapter.when.iter().for_each(|when| page.item(vec![plain(format!("when {when}"))]));
    match chapter.endpoints.as_slice() {
        [] => page.text(vec![plain("At every endpoint.")]),
        endpoints => {
            page.text(vec![plain("At these endpoints:")]);
            endpoints.iter().for_each(|name| page.item(vec![code(name)]));
        }
    }
    head(&mut page, "What to do");
    page.text(vec![plain(advice(fault.status))]);
    let (in_regions, elsewhere): (Vec<_>, Vec<_>) =
        chapter.forms.iter().partition(|form| form.region.is_some());
    for form in in_regions.into_iter().chain(elsewhere) {
        // Where it looks the same everywhere, nobody has to know of regions.
        if chapter.forms.len() == 1 {
            form_page(&mut page, form, fault, up, head);
            continue;
        }
        let place = form.region.map_or("Elsewhere".to_owned(), |region| format!("Under {region}"));
        head(&mut page, &place);
        form_page(&mut page, form, fault, up, as_label);
    }
    page
}

/// How a fault looks, in the whole service or in one region.
fn form_page(
    page: &mut Page,
    form: &FaultForm<'_>,
    fault: &Fault,
    up: &str,
    head: fn(&mut Page, &str),
) {
    if !form.members.is_empty() {
        head(page, "Members");
        let mut table = Table::new(&["member", "what it is", "always there"]);
        for member in &form.members {
            let phrase = member.text.strip_prefix("optional ").unwrap_or(&member.text);
            // A fault with a type has to say so, though the standard lets it be left out.
            let is_type = member.name == "type" && fault.type_uri.is_some();
            let is_optional = member.optional && !is_type;
            let always = if is_optional { "no" } else { "yes" };
            table.row(vec![code(&member.name), plain(phrase), plain(always)]);
        }
        page.table(table);
        if let Some(shape) = form.shape {
            let name = faithful_clerk_insight::handbook::component_name(&shape.name);
            let link = format!("{up}schemas/{}.json", uri_path(&name));
            page.text(vec![linked("As JSON Schema", link)]);
        }
    }
    if !form.headers.is_empty() {
        head(page, "Headers");
        let mut table = Table::new(&["header", "what it is"]);
        for (name, words) in &form.headers {
            table.row(vec![code(name), plain(words)]);
        }
        page.table(table);
    }
    head(page, "An example");
    page.lines(example(form));
}

fn example(form: &FaultForm<'_>) -> Vec<PageLine> {
    let of = &form.example;
    let mut text = format!("HTTP/1.1 {} {}\n", of.status, of.phrase);
    for (name, value) in &of.headers {
        text.push_str(&format!("{name}: {value}\n"));
    }
    if let Some(body) = &of.body {
        text.push('\n');
        text.push_str(&serde_json::to_string_pretty(body).unwrap_or_default());
    }
    let line = |line: &str| {
        let bare = line.trim_start();
        PageLine { indent: line.len() - bare.len(), hang: 0, pieces: vec![plain(bare)] }
    };
    text.lines().map(line).collect()
}
