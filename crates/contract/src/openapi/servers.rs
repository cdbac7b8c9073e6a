//! Base URLs of a description, with what their variables may be.

use serde_json::Value;

use super::description::DescriptionReader;
use crate::Server;

/// Variables make so many base URLs of one, and no more.
const MOST_SPELLED: usize = 64;

/// The base URLs of a list of server objects (OpenAPI 3.1.1 section 4.8.5).
pub(super) fn servers(desk: &mut DescriptionReader<'_>, servers: Option<&Value>) -> Vec<Server> {
    let mut found = Vec::new();
    for server in servers.and_then(Value::as_array).into_iter().flatten() {
        let Some(url) = server.get("url").and_then(Value::as_str) else { continue };
        // Nothing is what several frameworks write for the root.
        let url = if url.is_empty() { "/" } else { url };
        let (urls, is_cut) = spelled(url, server.get("variables"));
        if is_cut {
            let what = format!(
                "a server URL with more than {MOST_SPELLED} combinations of values, so one of its variables may be anything"
            );
            desk.warning(&what, url);
        }
        for url in urls {
            match Server::read(&url) {
                Ok(server) => found.push(server),
                // One that is relative to where the description was got, which nobody knows.
                Err(_) => desk.warning("a server URL that can't be used as a base", &url),
            }
        }
    }
    found
}

/// A base URL with each value that its variables are enumerated with. A variable without an enumeration may be anything
/// that one segment, a part of a host or a port can be; its default stands where that is more. Second: did a variable
/// have too many values to enumerate, and may be anything too?
fn spelled(url: &str, variables: Option<&Value>) -> (Vec<String>, bool) {
    let (mut urls, mut is_cut) = (vec![url.to_owned()], false);
    for (name, variable) in variables.and_then(Value::as_object).into_iter().flatten() {
        let hole = format!("{{{name}}}");
        let text = |value: &Value| match value {
            Value::String(text) => Some(text.clone()),
            Value::Number(number) => Some(number.to_string()),
            _ => None,
        };
        let default = variable.get("default").and_then(text);
        let named = variable.get("enum").and_then(Value::as_array);
        let mut values: Vec<String> = named.into_iter().flatten().filter_map(text).collect();
        let is_scheme = url.starts_with(&format!("{hole}:"));
        let is_several = |default: &String| default.contains('/') || default.is_empty();
        if values.is_empty() {
            values.extend(default.filter(|default| is_scheme || is_several(default)));
        }
        if values.is_empty() {
            continue;
        }
        if urls.len() * values.len() > MOST_SPELLED {
            is_cut = true;
            continue;
        }
        let each = |url: &String| -> Vec<String> {
            values.iter().map(|value| url.replace(&hole, value)).collect()
        };
        urls = urls.iter().flat_map(each).collect();
    }
    // Of two variables in one place nobody can tell where one ends.
    let with_defaults = |url: String| match Server::read(&url) {
        Ok(_) => url,
        Err(_) => defaulted(&url, variables),
    };
    (urls.into_iter().map(with_defaults).collect(), is_cut)
}

/// A base URL with every variable at its default.
fn defaulted(url: &str, variables: Option<&Value>) -> String {
    let variables = variables.and_then(Value::as_object).into_iter().flatten();
    variables.fold(url.to_owned(), |url, (name, variable)| {
        let default = variable.get("default").and_then(Value::as_str).unwrap_or_default();
        url.replace(&format!("{{{name}}}"), default)
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    #[test]
    fn variables_are_enumerated_anything_or_their_default() {
        for (url, variables, due) in [
            ("https://harbour.example/v1", json!({}), vec!["https://harbour.example/v1"]),
            (
                "https://{quay}.harbour.example/{tenant}",
                json!({"quay": {"default": "north"}, "tenant": {"default": "a"}}),
                vec!["https://{quay}.harbour.example/{tenant}"],
            ),
            (
                "https://{quay}.harbour.example:{port}/v1",
                json!({"quay": {"enum": ["north", "south"], "default": "north"}, "port": {"default": "443"}}),
                vec![
                    "https://north.harbour.example:{port}/v1",
                    "https://south.harbour.example:{port}/v1",
                ],
            ),
            (
                "{scheme}://harbour.example/{base}",
                json!({"scheme": {"default": "https"}, "base": {"default": "api/v2"}}),
                vec!["https://harbour.example/api/v2"],
            ),
            (
                "https://harbour.example/{name}-{version}",
                json!({"name": {"default": "api"}, "version": {"default": "v1"}}),
                vec!["https://harbour.example/api-v1"],
            ),
            ("/{base}", json!({"base": {"default": ""}}), vec!["/"]),
        ] {
            let due: Vec<String> = due.into_iter().map(str::to_owned).collect();
            assert_eq!(spelled(url, Some(&variables)), (due, false), "{url}");
        }
    }

    #[test]
    fn a_variable_with_too_many_values_may_be_anything_and_that_is_told() {
        let many: Vec<String> = (0..100).map(|number| number.to_string()).collect();
        let variables = json!({"a": {"enum": many}, "b": {"enum": ["x", "y"]}});
        let due = ["https://{a}.example/x", "https://{a}.example/y"].map(str::to_owned).to_vec();
        assert_eq!(spelled("https://{a}.example/{b}", Some(&variables)), (due, true));
    }
}
