//! In which line of a description an operation stands.

use std::collections::HashMap;

/// The lines of a description that start with a path, and those of what stands right below it.
#[derive(Debug, Default)]
pub(crate) struct PathLines {
    paths: HashMap<String, PathLine>,
    /// Does all stand in one line?
    is_one: bool,
}

/// Where a path stands, from line 1, and the keys right below it.
#[derive(Debug)]
struct PathLine {
    line: usize,
    keys: Vec<(String, usize)>,
}

impl PathLines {
    pub(crate) fn of(text: &str) -> Self {
        let mut paths = HashMap::new();
        // The path that was read last, how deep it stands, and how deep what is right below it.
        let mut open: Option<(String, PathLine, usize, Option<usize>)> = None;
        for (number, line) in text.lines().enumerate().map(|(at, line)| (at + 1, line)) {
            let begins = line.trim_start_matches([' ', '\t']);
            let depth = line.len() - begins.len();
            if begins.is_empty() {
                continue;
            }
            if let Some((_, path, own, below)) = &mut open
                && depth > *own
            {
                if depth == *below.get_or_insert(depth)
                    && let Some(key) = key(line)
                {
                    path.keys.push((key.to_owned(), number));
                }
                continue;
            }
            if let Some((name, path, ..)) = open.take() {
                paths.entry(name).or_insert(path);
            }
            // Most lines of a large description are none of a path, and are told by their first letters.
            if begins.trim_start_matches(['"', '\'']).starts_with('/')
                && let Some(key) = key(line)
            {
                let new = PathLine { line: number, keys: Vec::new() };
                open = Some((key.to_owned(), new, depth, None));
            }
        }
        if let Some((name, path, ..)) = open {
            paths.entry(name).or_insert(path);
        }
        Self { paths, is_one: !text.trim_end().contains('\n') }
    }

    /// The line of an operation, from 1, as far as the layout shows it: a path in a line of its own, and
    /// below it the method. Where all stands in one line, that line is it.
    pub(crate) fn operation(&self, method: &str, path: &str) -> Option<usize> {
        let Some(path) = self.paths.get(path) else { return self.is_one.then_some(1) };
        let named = path.keys.iter().find(|(key, _)| key.eq_ignore_ascii_case(method));
        Some(named.map_or(path.line, |(_, line)| *line))
    }
}

/// The key that a line starts with, as YAML or JSON writes it.
fn key(line: &str) -> Option<&str> {
    let line = line.trim();
    for quote in ['"', '\''] {
        if let Some(rest) = line.strip_prefix(quote) {
            let (key, rest) = rest.split_once(quote)?;
            return rest.trim_start().starts_with(':').then_some(key);
        }
    }
    line.strip_suffix(':').or_else(|| line.split_once(": ").map(|(key, _)| key))
}

#[cfg(test)]
mod tests {
    use super::PathLines;

    #[test]
    fn operations_are_found_by_their_layout() {
        let yaml = "openapi: 3.1.0\npaths:\n  /berths/{id}:\n    summary: x\n    get:\n      a: b\n  \
                    '/b':\n    post:\n";
        let yaml = PathLines::of(yaml);
        assert_eq!(yaml.operation("GET", "/berths/{id}"), Some(5));
        assert_eq!(yaml.operation("PUT", "/berths/{id}"), Some(3));
        assert_eq!(yaml.operation("POST", "/b"), Some(8));
        assert_eq!(yaml.operation("GET", "/c"), None);
        let behind = PathLines::of("paths:\n  /b:\n    get:\ncomponents:\n    put:\n");
        assert_eq!(behind.operation("PUT", "/b"), Some(2));
        let json = PathLines::of("{\n \"paths\": {\n  \"/b\": {\n   \"get\": {}\n  }}}");
        assert_eq!(json.operation("GET", "/b"), Some(4));
        let line = PathLines::of("{\"paths\":{\"/b\":{\"get\":{}}}}");
        assert_eq!(line.operation("GET", "/b"), Some(1));
    }
}
