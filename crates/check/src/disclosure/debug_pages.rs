//! The pages that frameworks make for debugging, and their tables of routes.

use super::pattern::{DisclosurePattern, Needs};
use faithful_clerk_model::finding::DisclosureKind;

pub(super) const PATTERNS: [DisclosurePattern; 4] = [
    page(
        "a debug page",
        r"Werkzeug Debugger|Action Controller: Exception caught|You're seeing this error because you have <code>DEBUG = True|Whoops\\Exception|<title>Whoops! There was an error|Symfony Exception|Ignition\.start|An unhandled exception occurred during the execution of the current web request|An unhandled exception occurred while processing the request",
        &[
            "Werkzeug Debugger",
            "Exception caught",
            "seeing this error",
            "Whoops",
            "Symfony Exception",
            "Ignition.start",
            "unhandled exception",
        ],
    ),
    page(
        "a debug page",
        r"\[(?:HttpException|SqlException|NullReferenceException|InvalidOperationException)[^\]\n]*\]|Source Error:</b>|Stack Trace:</b>",
        &[
            "[HttpException",
            "[SqlException",
            "[NullReferenceException",
            "[InvalidOperationException",
            "Source Error:</b>",
            "Stack Trace:</b>",
        ],
    ),
    page(
        "a debug page",
        r"Sinatra doesn.{1,7}t know this ditty|Action Not Found[^\n]{0,200}routes have been tried|Page not found \(yet!\)|<title>Server error \(development mode\)",
        &[
            "know this ditty",
            "Action Not Found",
            "Page not found (yet!)",
            "<title>Server error (dev",
        ],
    ),
    page(
        "a table of routes",
        r"Using the URLconf defined in (?:<code>)?[\w.]+|tried these URL patterns|Routes match in priority from top to bottom|Available routes:\s",
        &[
            "Using the URLconf defined in ",
            "tried these URL patterns",
            "Routes match in priority",
            "Available routes:",
        ],
    ),
];

const fn page(what: &'static str, regex: &'static str, auth: Needs) -> DisclosurePattern {
    DisclosurePattern { kind: DisclosureKind::DebugPage, what, regex, literals: auth }
}

#[cfg(test)]
mod tests {
    use super::super::patterns::find;
    use super::*;

    #[test]
    fn debug_pages_are_known() {
        for text in [
            "<h1>Action Controller: Exception caught</h1>",
            "<title>KeyError // Werkzeug Debugger</title>",
            "An unhandled exception occurred while processing the request.",
            "<h2>Sinatra doesn&rsquo;t know this ditty.</h2>",
            "Using the URLconf defined in <code>harbour.urls</code>",
        ] {
            assert!(find(text).iter().any(|hit| hit.kind == DisclosureKind::DebugPage), "{text}");
        }
    }
}
