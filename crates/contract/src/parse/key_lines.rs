//! Where the keys of a contract stand in its text.

use toml::de::{DeTable, DeValue};

use crate::model::KeyLines;

/// Keys deeper than that are told by the one that holds them.
const MOST_LEVELS: usize = 4;

/// The line of every key, down to the keys of an endpoint, a fault or a shape, and of what a region has in tables.
pub(super) fn key_lines(text: &str, document: &DeTable<'_>) -> KeyLines {
    let starts: Vec<usize> = text.match_indices('\n').map(|(at, _)| at).collect();
    let mut lines = KeyLines::default();
    walk(document, &mut Vec::new(), &starts, &mut lines);
    lines
}

fn walk(table: &DeTable<'_>, path: &mut Vec<String>, starts: &[usize], lines: &mut KeyLines) {
    for (key, node) in table {
        path.push(key.get_ref().to_string());
        let line = starts.partition_point(|start| *start < key.span().start) + 1;
        lines.insert(path, line);
        if let DeValue::Table(inner) = node.get_ref()
            && path.len() < MOST_LEVELS
        {
            walk(inner, path, starts, lines);
        }
        path.pop();
    }
}
