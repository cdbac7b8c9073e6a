//! In which line of a description an operation stands.

use std::collections::HashMap;

/// The lines of a description, with those that start with a path.
#[derive(Debug)]
pub(crate) struct PathLines<'t> {
    lines: Vec<&'t str>,
    paths: HashMap<&'t str, usize>,
}

impl<'t> PathLines<'t> {
    pub(crate) fn of(text: &'t str) -> Self {
        let lines: Vec<&str> = text.lines().collect();
        let mut paths = HashMap::new();
        for (at, line) in lines.iter().enumerate() {
            if let Some(path) = key(line).filter(|key| key.starts_with('/')) {
                paths.entry(path).or_insert(at);
            }
        }
        Self { lines, paths }
    }

    /// The line of an operation, from 1, as far as the layout shows it: a path in a line of its own, and
    /// below it the method. Where all stands in one line, that line is it.
    pub(crate) fn operation(&self, method: &str, path: &str) -> Option<usize> {
        let Some(at) = self.paths.get(path).copied() else {
            return (self.lines.len() == 1).then_some(1);
        };
        let depth = self.lines.get(at).map_or(0, |line| indent(line));
        let below = self.lines.iter().enumerate().skip(at + 1);
        let below = below.take_while(|(_, line)| line.trim().is_empty() || indent(line) > depth);
        let is_method = |line: &str| key(line).is_some_and(|key| key.eq_ignore_ascii_case(method));
        let operation = below.filter(|(_, line)| is_method(line)).map(|(at, _)| at).next();
        Some(operation.unwrap_or(at) + 1)
    }
}

fn indent(line: &str) -> usize {
    line.len() - line.trim_start().len()
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
        let json = PathLines::of("{\n \"paths\": {\n  \"/b\": {\n   \"get\": {}\n  }}}");
        assert_eq!(json.operation("GET", "/b"), Some(4));
        let line = PathLines::of("{\"paths\":{\"/b\":{\"get\":{}}}}");
        assert_eq!(line.operation("GET", "/b"), Some(1));
    }
}
