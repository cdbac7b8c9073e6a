//! `fclerk handbook`: the contract as pages, schemas and components.

use serde_json::Value;

use crate::harness::Project;

fn read(project: &Project, path: &str) -> String {
    std::fs::read_to_string(project.path().join(path))
        .unwrap_or_else(|error| panic!("{path}: {error}"))
}

/// HTML with its slashes as they are meant.
fn plain(html: &str) -> String {
    html.replace("&#x2f;", "/")
}

#[test]
fn a_type_has_a_page_at_the_path_of_its_uri() {
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    project.run("handbook").exits(0).says("files are in handbook");
    for format in ["html", "md"] {
        let page = plain(&read(&project, &format!("handbook/faults/berth-taken/index.{format}")));
        for text in [
            "The berth is taken",
            "409 Conflict",
            "berth_id",
            "POST /reservations",
            "resolve the conflict",
        ] {
            assert!(page.contains(text), "{text} in {format}");
        }
        let index = plain(&read(&project, &format!("handbook/index.{format}")));
        assert!(index.contains(&format!("faults/berth-taken/index.{format}")), "{index}");
        assert!(index.contains("about:blank"));
    }
    // Every relative link of every page leads to a file.
    let mut pages = vec!["index.html".to_owned()];
    let mut at = 0;
    while let Some(page) = pages.get(at).cloned() {
        at += 1;
        let html = plain(&read(&project, &format!("handbook/{page}")));
        let folder = page.rsplit_once('/').map_or("", |(folder, _)| folder).to_owned();
        for link in html.split("<a href=\"").skip(1).filter_map(|rest| rest.split('"').next()) {
            let link = link.split('#').next().unwrap();
            if link.is_empty() {
                continue;
            }
            let mut steps: Vec<&str> = folder.split('/').filter(|step| !step.is_empty()).collect();
            for step in link.split('/') {
                match step {
                    ".." => _ = steps.pop(),
                    step => steps.push(step),
                }
            }
            let target = steps.join("/");
            read(&project, &format!("handbook/{target}"));
            if target.ends_with(".html") && !pages.contains(&target) {
                pages.push(target);
            }
        }
    }
    // Nine types, and the first page.
    assert_eq!(pages.len(), 10, "{pages:?}");
}

/// What is shown as an example keeps to the schema that stands beside it, and so do the responses of the
/// service that was fixed.
#[test]
fn examples_and_answers_keep_to_the_schemas() {
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    project.run("handbook").exits(0);
    let schema = |name: &str| -> jsonschema::Validator {
        let schema: Value =
            serde_json::from_str(&read(&project, &format!("handbook/schemas/{name}.json")))
                .unwrap();
        assert_eq!(schema["$schema"], "https://json-schema.org/draft/2020-12/schema");
        jsonschema::options().should_validate_formats(true).build(&schema).unwrap()
    };
    for (path, name) in [
        ("faults/berth-taken", "the-fault-berth-taken"),
        ("faults/no-such-berth", "harbour-problem"),
        ("faults/invalid-request", "invalid-request"),
    ] {
        let page = read(&project, &format!("handbook/{path}/index.md"));
        let body = page.split("```text").nth(1).unwrap().split("\n\n").nth(1).unwrap();
        let body: Value = serde_json::from_str(body.split("```").next().unwrap()).unwrap();
        let errors: Vec<String> =
            schema(name).iter_errors(&body).map(|error| error.to_string()).collect();
        assert!(errors.is_empty(), "{path}: {errors:?}\n{body:#}");
    }
    let har: Value = serde_json::from_str(&read(&project, "after.har")).unwrap();
    let problem = schema("harbour-problem");
    let mut count = 0;
    for entry in har["log"]["entries"].as_array().unwrap() {
        let content = &entry["response"]["content"];
        if content["mimeType"]
            .as_str()
            .is_some_and(|media| media.starts_with("application/problem+json"))
        {
            let body: Value = serde_json::from_str(content["text"].as_str().unwrap()).unwrap();
            assert!(problem.is_valid(&body), "{body:#}");
            count += 1;
        }
    }
    assert!(count > 20, "{count}");
    assert!(
        !schema("the-fault-berth-taken")
            .is_valid(&serde_json::json!({"title": "x", "status": 409}))
    );
    assert!(!problem.is_valid(&serde_json::json!({"title": "x", "status": 99})));
}

#[test]
fn the_components_name_every_fault_and_refer_to_what_is_there() {
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    project.run("handbook --output out").exits(0);
    let text = read(&project, "out/openapi-components.json");
    let components: Value = serde_json::from_str(&text).unwrap();
    let responses = components["components"]["responses"].as_object().unwrap();
    assert_eq!(responses.len(), 16);
    assert_eq!(
        responses["berth-taken"]["content"]["application/problem+json"]["schema"]["allOf"][1]["properties"]
            ["status"]["const"],
        409
    );
    for reference in text.split("\"$ref\": \"").skip(1) {
        let pointer = reference.split('"').next().unwrap().trim_start_matches('#');
        assert!(components.pointer(pointer).is_some(), "{pointer}");
    }
}

#[test]
fn types_that_lead_nowhere_or_out_of_the_folder_have_pages_in_types() {
    let project = Project::new();
    let fault = |name: &str, uri: &str| {
        format!("[fault.{name}]\nstatus = 409\ntype = \"{uri}\"\ntitle = \"<b>{name}</b>\"\n")
    };
    let contract = format!(
        "contract = 1\nservice = \"x\"\n[error]\nmedia = \"application/problem+json\"\nshape = \"problem\"\n{}{}{}{}[everywhere]\nfaults = [\"a\", \"b\", \"c\", \"d\"]\n",
        fault("a", "urn:harbour:taken"),
        fault("b", "https://harbour.example/../../../etc/passwd"),
        fault("c", "https://harbour.example/faults#one"),
        fault("d", "https://harbour.example/faults#two"),
    );
    project.write("error-contract.toml", contract);
    project
        .run("handbook --output deep/book")
        .exits(0)
        .complains("urn:harbour:taken has no path that a file could have");
    assert!(read(&project, "deep/book/types/b/index.html").contains("&lt;b&gt;b&lt;"));
    // Two types of one document are two parts of it, each at its fragment.
    let page = read(&project, "deep/book/faults/index.html");
    assert!(page.contains("id=\"one\"") && page.contains("id=\"two\""), "{page}");
    assert!(!page.contains("<b>"));
    let outside: Vec<_> = std::fs::read_dir(project.path())
        .unwrap()
        .map(|entry| entry.unwrap().file_name())
        .collect();
    assert_eq!(outside.len(), 2, "{outside:?}");
}

#[test]
fn a_folder_of_somebody_else_is_left_as_it_is() {
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    project.write("site/index.html", "mine");
    project.run("handbook --output site").exits(2).complains("nothing was written");
    assert_eq!(read(&project, "site/index.html"), "mine");
    project.run("handbook --output book").exits(0);
    project.run("handbook --output book").exits(0);
    project.write("file", "");
    project.run("handbook --output file").exits(2);
    project.run("handbook --contract none.toml").exits(2);
}
