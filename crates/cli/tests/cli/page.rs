//! The page for a browser, in a real one.

use faithful_clerk_check::clauses::HARBOUR;
use serde_json::{Value, json};

use crate::browser::Browser;
use crate::harness::{Project, got, har};
use crate::reports::hostile;

/// Nothing was complained of, and nothing asked for beside the file itself.
#[track_caller]
fn is_quiet(browser: &Browser) {
    for method in ["Runtime.exceptionThrown", "Runtime.consoleAPICalled", "Log.entryAdded"] {
        assert_eq!(browser.told(method), Vec::<&Value>::new(), "{method}");
    }
    let requests: Vec<&Value> = browser.told("Network.requestWillBeSent");
    let others: Vec<_> = requests.iter().filter(|request| request["type"] != "Document").collect();
    assert!(others.is_empty() && requests.len() == 1, "{requests:#?}");
}

const LOST_LINKS: &str = "[...document.querySelectorAll('a[href]')].map(a => a.getAttribute('href'))
    .filter(href => !href.startsWith('#') || !document.getElementById(decodeURIComponent(href.slice(1))))";

const SHOWN: &str = "[...document.querySelectorAll('.finding:not([hidden])')].map(of => of.dataset)
    .map(of => ({...of}))";

#[test]
fn the_page_of_a_check_works() {
    let Some(mut browser) = Browser::start() else { return };
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    project.run("check before.har -q --report html=a.html --report json=a.json").exits(1);
    browser.open(&project.path().join("a.html"));
    is_quiet(&browser);
    let check = project.run("check before.har --format json").json();
    // The grid is there, and every link of the page leads somewhere in it.
    let rows = browser.value("document.querySelectorAll('table.grid tbody tr').length");
    assert_eq!(rows, check["grid"].as_array().unwrap().len());
    assert_eq!(browser.value(LOST_LINKS), json!([]));
    // A cell opens its exchanges, and an exchange opens when it is linked to.
    let cell = "document.querySelector('table.grid td.broken a')";
    browser.value(&format!("{cell}.click()"));
    let panel = "[...document.querySelectorAll('.panel')].filter(p => getComputedStyle(p).display !== 'none')";
    assert_eq!(
        browser.value(&format!("new Promise(done => setTimeout(() => done({panel}.length), 200))")),
        1
    );
    let exchange = browser.value(&format!("{panel}[0].querySelector('li a').getAttribute('href')"));
    browser.value(&format!("{panel}[0].querySelector('li a').click()"));
    let open = format!("document.querySelector('{}').open", exchange.as_str().unwrap());
    assert_eq!(
        browser.value(&format!("new Promise(done => setTimeout(() => done({open}), 200))")),
        true
    );
    // A filter filters.
    let all = check["findings"].as_array().unwrap();
    assert_eq!(browser.value(SHOWN).as_array().unwrap().len(), all.len());
    let filter = |name: &str, value: &str| {
        format!(
            "new Promise(done => {{ const form = document.getElementById('filter'); form.reset(); \
             form.elements['{name}'].value = {}; form.dispatchEvent(new Event('input', {{bubbles: true}})); \
             setTimeout(() => done({SHOWN}), 400); }})",
            json!(value)
        )
    };
    for (name, value, member) in
        [("severity", "warning", "severity"), ("clause", "media.declared", "clause")]
    {
        let shown = browser.value(&filter(name, value));
        let shown = shown.as_array().unwrap();
        let expected = all.iter().filter(|finding| finding[member] == value).count();
        assert_eq!(shown.len(), expected, "{name}");
        assert!(expected > 0 && shown.iter().all(|of| of[name] == value), "{shown:?}");
    }
    let shown = browser.value(&filter("text", "stack trace"));
    assert!((1..all.len()).contains(&shown.as_array().unwrap().len()), "{shown}");
    let count = browser.value("document.querySelector('#filter output').value");
    assert!(count.as_str().unwrap().ends_with(&format!(" of {} shown", all.len())), "{count}");
    is_quiet(&browser);
}

#[test]
fn the_page_can_be_read_without_scripts() {
    let Some(mut browser) = Browser::start() else { return };
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    project.run("check before.har -q --report html=a.html").exits(1);
    browser.send("Emulation.setScriptExecutionDisabled", json!({"value": true}));
    browser.open(&project.path().join("a.html"));
    is_quiet(&browser);
    let display = |of: &str| format!("getComputedStyle(document.querySelector('{of}')).display");
    assert_eq!(browser.value(&display("#filter")), "none");
    assert_eq!(browser.value(&display(".finding")), "block");
    assert_eq!(browser.value("document.querySelectorAll('.exchange').length > 20"), true);
    // A link to a cell shows its exchanges.
    let id = browser.value("document.querySelector('.panel').id");
    let url =
        format!("file://{}#{}", project.path().join("a.html").display(), id.as_str().unwrap());
    browser.send("Page.navigate", json!({"url": url}));
    assert_eq!(browser.value(&display(&format!("#{}", id.as_str().unwrap()))), "block");
}

#[test]
fn nothing_recorded_gets_into_the_page_as_markup() {
    let Some(mut browser) = Browser::start() else { return };
    let project = hostile();
    for call in ["check a.har", "survey a.har", "coverage a.har", "compare a.har a.har"] {
        project.run(&format!("{call} -q --report html=a.html"));
        browser.open(&project.path().join("a.html"));
        is_quiet(&browser);
        assert_ne!(browser.value("document.title"), "caught", "{call}");
        assert_eq!(browser.value("document.scripts.length"), 1, "{call}");
        assert_eq!(browser.value(LOST_LINKS), json!([]), "{call}");
        let text = browser.value("document.body.textContent");
        assert!(call != "check a.har" || text.as_str().unwrap().contains("</script><script>"));
    }
}

/// The relative luminances of each text and of what is behind it (WCAG 2.2, 'contrast ratio').
const CONTRASTS: &str = "(() => {
  const parse = (colour) => colour.match(/[\\d.]+/g).map(Number);
  const light = ([r, g, b]) => [r, g, b].map(v => v / 255)
    .map(v => v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)
    .reduce((sum, v, at) => sum + v * [0.2126, 0.7152, 0.0722][at], 0);
  const behind = (element) => {
    for (let at = element; at; at = at.parentElement) {
      const colour = parse(getComputedStyle(at).backgroundColor);
      if (colour.length < 4 || colour[3] > 0) return colour;
    }
    return [255, 255, 255];
  };
  for (const details of document.querySelectorAll('details')) details.open = true;
  const found = new Map();
  for (const element of document.body.querySelectorAll('*')) {
    const has_text = [...element.childNodes].some(n => n.nodeType === 3 && n.data.trim());
    if (!has_text || element.tagName === 'SCRIPT') continue;
    const [a, b] = [parse(getComputedStyle(element).color), behind(element)].map(light);
    const ratio = (Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05);
    const name = element.tagName + '.' + element.className;
    if (ratio < 4.5) found.set(name, ratio);
  }
  return [...found];
})()";

#[test]
fn the_page_has_contrast_by_day_and_by_night() {
    let Some(mut browser) = Browser::start() else { return };
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    project.run("check before.har -q --report html=a.html").exits(1);
    project.run("survey before.har -q --report html=s.html").exits(0);
    for scheme in ["light", "dark"] {
        let features = json!({"features": [{"name": "prefers-color-scheme", "value": scheme}]});
        browser.send("Emulation.setEmulatedMedia", features);
        for name in ["a.html", "s.html"] {
            browser.open(&project.path().join(name));
            assert_eq!(browser.value(CONTRASTS), json!([]), "{name}, {scheme}");
        }
    }
}

/// Every table has heads, every control a name, and what is drawn as a mark has words.
#[test]
fn the_page_speaks_to_a_screen_reader() {
    let Some(mut browser) = Browser::start() else { return };
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    project.run("check before.har -q --report html=a.html").exits(1);
    browser.open(&project.path().join("a.html"));
    for (what, expression) in [
        (
            "tables without heads",
            "[...document.querySelectorAll('table')].filter(t => !t.querySelector('th[scope=col]')).length",
        ),
        (
            "rows without a head",
            "[...document.querySelectorAll('tbody tr')].filter(r => !r.querySelector('th[scope=row]')).length",
        ),
        (
            "controls without a label",
            "[...document.querySelectorAll('input, select')].filter(c => !c.labels.length).length",
        ),
        (
            "marks without words",
            "[...document.querySelectorAll('table.grid td')].filter(c => !c.querySelector('.aside').textContent).length",
        ),
        (
            "links without words",
            "[...document.querySelectorAll('a')].filter(a => !(a.getAttribute('aria-label') || a.textContent).trim()).length",
        ),
        (
            "anchors that stand twice",
            "(() => { const ids = [...document.querySelectorAll('[id]')].map(e => e.id); return ids.length - new Set(ids).size; })()",
        ),
        ("no language", "document.documentElement.lang ? 0 : 1"),
    ] {
        assert_eq!(browser.value(expression), 0, "{what}");
    }
}

#[test]
fn ten_thousand_findings_stay_usable() {
    let Some(mut browser) = Browser::start() else { return };
    let endpoints: String = (0..100)
        .map(|number| format!("\n[endpoint.\"GET /piers/{number}\"]\nsuccess = [200]\nfaults = [\"no-such-berth\"]\n"))
        .collect();
    let exchanges: Vec<Value> = (0..5000)
        .map(|number| {
            let odd = format!("no pier {number}");
            let body = json!({"type": format!("https://harbour.example/faults/{number}"), "title": odd,
                              "status": 400 + number % 50, "detail": 1});
            got("GET", &format!("/piers/{}", number % 100), 404, "application/problem+json", &body.to_string())
        })
        .collect();
    let project = Project::with(&format!("{HARBOUR}{endpoints}"), &exchanges);
    project.write("a.har", har(&exchanges));
    project.run("check a.har -q --report html=a.html").exits(1);
    let size = std::fs::metadata(project.path().join("a.html")).unwrap().len();
    assert!(size < 20_000_000, "{size}");
    browser.open(&project.path().join("a.html"));
    is_quiet(&browser);
    let count = browser.value("document.querySelectorAll('.finding').length");
    assert_eq!(count, 10_000);
    let paint =
        browser.value("performance.getEntriesByName('first-contentful-paint')[0].startTime");
    assert!(paint.as_f64().unwrap() < 2000.0, "{paint} ms");
    println!("{count} findings, {size} bytes, first paint after {paint} ms");
}
