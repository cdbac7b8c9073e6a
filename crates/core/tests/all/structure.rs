//! The source itself: no circles between folders, no name that stands for two types, no file too long to read.

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::{Path, PathBuf};

use regex::Regex;

/// Longer than this, a file is more than one idea.
const LONGEST_FILE: usize = 600;

/// One file of a crate.
struct SourceFile {
    path: PathBuf,
    text: String,
    /// The path of its module, as in `clauses::status`.
    module: Vec<String>,
}

impl SourceFile {
    /// Does the file only list what is in its folder?
    fn is_index(&self) -> bool {
        ["mod.rs", "lib.rs"].iter().any(|name| self.path.ends_with(name))
    }

    /// What is compiled outside of tests: unit tests may use anything of their crate.
    fn code(&self) -> &str {
        self.text.split("#[cfg(test)]").next().unwrap_or_default()
    }
}

fn crates() -> Vec<PathBuf> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).parent().unwrap();
    let mut found: Vec<PathBuf> = fs::read_dir(root).unwrap().map(|e| e.unwrap().path()).collect();
    found.sort();
    found
}

fn files(source: &Path) -> Vec<SourceFile> {
    let mut found = Vec::new();
    let mut folders = vec![source.to_owned()];
    while let Some(folder) = folders.pop() {
        for entry in fs::read_dir(&folder).unwrap() {
            let path = entry.unwrap().path();
            if path.is_dir() {
                folders.push(path);
            } else if path.extension().is_some_and(|extension| extension == "rs") {
                let inside = path.strip_prefix(source).unwrap().with_extension("");
                let mut module: Vec<String> =
                    inside.iter().map(|part| part.to_str().unwrap().to_owned()).collect();
                if module.last().is_some_and(|last| ["mod", "lib", "main"].contains(&&**last)) {
                    module.pop();
                }
                let text = fs::read_to_string(&path).unwrap();
                found.push(SourceFile { path, text, module });
            }
        }
    }
    found
}

/// The paths that `use` items name, each written out in full.
fn used_paths(file: &SourceFile) -> Vec<Vec<String>> {
    let uses = Regex::new(r"(?ms)^\s*(?:pub(?:\([a-z: ]+\))? )?use ([^;]+);").unwrap();
    let inline = Regex::new(r"\bcrate(?:::\w+)+").unwrap();
    let code: String = file
        .code()
        .lines()
        .filter(|line| !line.trim_start().starts_with("//"))
        .map(|line| format!("{line}\n"))
        .collect();
    let mut found = Vec::new();
    for tree in uses.captures_iter(&code) {
        let tree: String = tree[1].split_whitespace().collect::<Vec<_>>().join(" ");
        expand(&tree, &mut Vec::new(), &mut found);
    }
    for path in inline.find_iter(&code) {
        found.push(path.as_str().split("::").map(str::to_owned).collect());
    }
    found
}

/// Writes out `a::{b, c::{d, e}}`.
fn expand(tree: &str, before: &mut Vec<String>, found: &mut Vec<Vec<String>>) {
    let Some((path, inside)) = tree.split_once('{') else {
        let path = tree.split(" as ").next().unwrap_or_default().trim();
        let mut whole = before.clone();
        whole.extend(path.split("::").filter(|step| *step != "self").map(str::to_owned));
        found.push(whole);
        return;
    };
    let depth = before.len();
    before.extend(
        path.split("::").filter(|step| !step.trim().is_empty()).map(|s| s.trim().to_owned()),
    );
    let inside = inside.trim_end().strip_suffix('}').unwrap_or(inside);
    let (mut level, mut start) = (0_usize, 0);
    for (at, letter) in inside.char_indices() {
        match letter {
            '{' => level += 1,
            '}' => level -= 1,
            ',' if level == 0 => {
                expand(inside[start..at].trim(), before, found);
                start = at + 1;
            }
            _ => {}
        }
    }
    if !inside[start..].trim().is_empty() {
        expand(inside[start..].trim(), before, found);
    }
    before.truncate(depth);
}

/// The file that a path leads to: the module itself, or the one that an index re-exports the item from.
fn target(files: &[SourceFile], from: &SourceFile, path: &[String], hops: usize) -> Option<usize> {
    let mut whole: Vec<String> = Vec::new();
    let mut steps = path.iter().peekable();
    match steps.peek().map(|step| step.as_str()) {
        Some("crate") => {
            steps.next();
        }
        Some("super") => {
            whole = from.module.clone();
            while steps.peek().is_some_and(|step| *step == "super") {
                whole.pop();
                steps.next();
            }
        }
        // In an index, a path may start at a module of the folder.
        Some(_) if from.is_index() => whole = from.module.clone(),
        _ => return None,
    }
    whole.extend(steps.cloned());
    let (at, depth) = files
        .iter()
        .enumerate()
        .filter(|(_, file)| whole.starts_with(&file.module))
        .map(|(at, file)| (at, file.module.len()))
        .max_by_key(|(_, depth)| *depth)?;
    let item = whole.get(depth)?;
    if !files[at].is_index() || hops == 0 {
        return Some(at);
    }
    let exported = used_paths(&files[at]).into_iter().find(|path| path.last() == Some(item));
    match exported {
        Some(path) => target(files, &files[at], &path, hops - 1),
        None => Some(at),
    }
}

/// Every file that can be reached from one, by what they use.
fn reachable(edges: &BTreeMap<usize, BTreeSet<usize>>, from: usize) -> BTreeSet<usize> {
    let mut found = BTreeSet::new();
    let mut next: Vec<usize> = edges.get(&from).into_iter().flatten().copied().collect();
    while let Some(at) = next.pop() {
        if found.insert(at) {
            next.extend(edges.get(&at).into_iter().flatten());
        }
    }
    found
}

fn circles(source: &Path) -> BTreeSet<String> {
    let files = files(source);
    let mut edges: BTreeMap<usize, BTreeSet<usize>> = BTreeMap::new();
    for (at, file) in files.iter().enumerate() {
        if file.is_index() {
            continue;
        }
        for path in used_paths(file) {
            if let Some(to) = target(&files, file, &path, 4).filter(|to| *to != at) {
                edges.entry(at).or_default().insert(to);
            }
        }
    }
    let reached: Vec<BTreeSet<usize>> = (0..files.len()).map(|at| reachable(&edges, at)).collect();
    let mut found = BTreeSet::new();
    for (at, to) in edges.iter().flat_map(|(at, all)| all.iter().map(move |to| (*at, *to))) {
        let (one, other) = (&files[at], &files[to]);
        if reached[to].contains(&at) && one.path.parent() != other.path.parent() {
            let name = |file: &SourceFile| file.module.join("::");
            found.insert(format!("{} uses {}, which leads back", name(one), name(other)));
        }
    }
    found
}

#[test]
fn no_circle_of_files_leads_from_one_folder_to_another() {
    let mut found = Vec::new();
    for folder in crates() {
        let circles = circles(&folder.join("src"));
        found.extend(circles.into_iter().map(|circle| format!("{}: {circle}", folder.display())));
    }
    assert!(found.is_empty(), "{found:#?}");
}

#[test]
fn a_circle_is_seen_and_a_stack_is_none() {
    let folder = tempfile::tempdir().unwrap();
    let write = |name: &str, text: &str| {
        let path = folder.path().join(name);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, text).unwrap();
    };
    write("lib.rs", "mod low;\nmod high;\n");
    write("low/mod.rs", "mod ground;\npub use ground::Ground;\n");
    write("low/ground.rs", "pub struct Ground;\n");
    write("high/mod.rs", "mod roof;\npub use roof::{Roof, Tile};\n");
    write("high/roof.rs", "use crate::low::Ground;\npub struct Roof(Ground);\n");
    assert_eq!(circles(folder.path()), BTreeSet::new());
    write("low/ground.rs", "use crate::{\n    high::{Roof},\n};\npub struct Ground;\n");
    assert_eq!(
        circles(folder.path()).into_iter().collect::<Vec<_>>(),
        [
            "high::roof uses low::ground, which leads back",
            "low::ground uses high::roof, which leads back",
        ]
    );
}

#[test]
fn no_two_types_of_the_workspace_share_a_name() {
    let declared =
        Regex::new(r"(?m)^\s*(?:pub(?:\([a-z: ]+\))? )?(?:struct|enum|trait|type|union) (\w+)")
            .unwrap();
    let associated = Regex::new(r"^\s+type ").unwrap();
    let mut locations: BTreeMap<String, Vec<String>> = BTreeMap::new();
    for folder in crates() {
        for file in files(&folder.join("src")) {
            for found in declared.captures_iter(file.code()) {
                if !associated.is_match(found[0].trim_start_matches('\n')) {
                    let path = file.path.display().to_string();
                    locations.entry(found[1].to_owned()).or_default().push(path);
                }
            }
        }
    }
    locations.retain(|_, files| files.len() > 1);
    assert!(locations.is_empty(), "{locations:#?}");
}

#[test]
fn no_file_is_too_long_to_read() {
    for folder in crates() {
        for file in files(&folder.join("src")) {
            let lines = file.text.lines().count();
            assert!(lines <= LONGEST_FILE, "{}: {lines} lines", file.path.display());
        }
    }
}

#[test]
fn an_index_holds_docs_modules_and_lists_alone() {
    let code = Regex::new(r"(?m)^\s*(?:pub(?:\([a-z: ]+\))? )?(?:const )?(?:fn|impl|struct|enum|trait|macro_rules!) ?\b.*").unwrap();
    let mut found = Vec::new();
    for folder in crates() {
        for file in files(&folder.join("src")).iter().filter(|file| file.path.ends_with("mod.rs")) {
            for line in code.find_iter(file.code()) {
                found.push(format!("{}: {}", file.path.display(), line.as_str().trim()));
            }
        }
    }
    assert!(found.is_empty(), "{found:#?}");
}
