//! What stack traces look like, by language.
//!
//! Every pattern has to be certain by itself: a frame with a source file and a line in the form of
//! its language, or a sentence that only the run-time writes. Words such as 'line 12' alone are none.

use super::pattern::{DisclosurePattern, Needs};
use faithful_clerk_model::finding::DisclosureKind;

/// `(?:"|&quot;)` and `&lt;` let the same patterns find traces in HTML.
pub(super) const PATTERNS: [DisclosurePattern; 27] = [
    trace(
        "a Java or Kotlin trace",
        r"\bat (?:[\w$.@-]+/)*[\w$.]+[.$][\w$<>]+(?:&lt;init&gt;)?\((?:[\w$-]+\.(?:java|kt|kts|scala|groovy|clj):\d+|Native Method|Unknown Source)\)",
        &[
            ".java:",
            ".kt:",
            ".kts:",
            ".scala:",
            ".groovy:",
            ".clj:",
            "Native Method",
            "Unknown Source",
        ],
    ),
    trace(
        "a Java or Kotlin trace",
        r"\bCaused by: (?:[a-z][\w]*\.)+[A-Z]\w*(?:Exception|Error)\b",
        &["Caused by: "],
    ),
    trace(
        "a Java or Kotlin trace",
        r#"\bException in thread (?:"|&quot;)"#,
        &["Exception in thread "],
    ),
    trace(
        "a Python trace",
        r"Traceback \(most recent call last\):",
        &["Traceback (most recent call last):"],
    ),
    trace(
        "a Python trace",
        r#"\bFile (?:"|&quot;|&#34;|')[^"'<>\n]+\.pyx?(?:"|&quot;|&#34;|'), line \d+"#,
        &[".py"],
    ),
    trace(
        "a JavaScript trace",
        r"\bat(?: [\w$.<>\[\] ]+)? \(?(?:file://|node:|webpack:|/)[^\s()<>]*:\d+:\d+\)?",
        &[" file://", "(file://", " node:", "(node:", " webpack:", "(webpack:", " /", "(/"],
    ),
    trace(
        "a JavaScript trace",
        r"\bat(?: [\w$.<>\[\] ]+)? \(?[A-Za-z]:\\[^\s()<>]*:\d+:\d+\)?",
        &[":\\"],
    ),
    trace(
        "a JavaScript trace",
        r"\bat (?:async )?[\w$.<>]+ \((?:native|index \d+|<anonymous>|&lt;anonymous&gt;)\)",
        &["native", "index ", "anonymous"],
    ),
    trace("a Go trace", r"\bgoroutine \d+ \[[A-Za-z][\w ,()]*\]:", &["goroutine "]),
    trace("a Go trace", r"\.go:\d+ \+0x[0-9a-f]+", &[".go:"]),
    trace(
        "a .NET trace",
        r"\bat [\w.`<>\[\],+|$&;]+\([^()\n]*\) in [^\n<>]+:line \d+",
        &[":line "],
    ),
    trace(
        "a .NET trace",
        r"\bat (?:System|Microsoft)\.[\w.`<>\[\],+|$&;]+\([^()\n]*\)",
        &["at System.", "at Microsoft."],
    ),
    trace("a .NET trace", r"--- End of (?:inner exception )?stack trace", &["--- End of "]),
    trace("a PHP trace", r"(?m)#\d+ [^\n#]+\.php\(\d+\): ", &[".php("]),
    trace(
        "a PHP trace",
        r"(?:Fatal error|Warning|Notice|Parse error)(?:</b>)?:[^\n]+ in (?:<b>)?[^\n<]+\.php(?:</b>)? on line (?:<b>)?\d+",
        &[" on line "],
    ),
    trace("a PHP trace", r"\bin /[^\s<>]+\.php:\d+", &[".php:"]),
    trace("a Ruby trace", r"[\w./-]+\.rb:\d+:in (?:`|'|‘|&#39;|&#x27;|&#96;)", &[".rb:"]),
    trace("a Ruby trace", r"/gems/[\w.-]+-\d+(?:\.\d+)+/[\w./-]+\.rb:\d+", &["/gems/"]),
    trace(
        "a Rust trace",
        r"\bthread (?:'|&#39;|&#x27;)[^'\n&]+(?:'|&#39;|&#x27;)(?: \(\d+\))? panicked at ",
        &[" panicked at "],
    ),
    trace(
        "a Rust trace",
        r"(?m)^\s*\d+: (?:0x[0-9a-f]+ - )?[\w:<>{}, ]*::[\w:<>{}#, ]+\s+at [^\n]+\.rs:\d+",
        &[".rs:"],
    ),
    trace("a Rust trace", r"\bpanicked at [^\n]+\.rs:\d+:\d+", &["panicked at "]),
    trace("a Rust trace", r"(?m)^\s*at /?[^\s:]+\.rs:\d+(?::\d+)?$", &[".rs:"]),
    // Frames without a word before them.
    trace(
        "a Java or Kotlin trace",
        r"\b(?:[a-z_]\w*\.)+[\w$]+\.[\w$<>]+\([\w$-]+\.(?:java|kt|kts|scala|groovy|clj):\d+\)",
        &[".java:", ".kt:", ".kts:", ".scala:", ".groovy:", ".clj:"],
    ),
    trace(
        "a JavaScript trace",
        r"(?m)(?:^\s*|@|\()(?:file://|webpack:|https?://|/|[A-Za-z]:\\)[^\s()<>@]*\.[cm]?[jt]sx?:\d+:\d+",
        &[
            ".js:", ".mjs:", ".cjs:", ".ts:", ".mts:", ".cts:", ".jsx:", ".tsx:", ".mjsx:",
            ".cjsx:", ".mtsx:", ".ctsx:",
        ],
    ),
    trace(
        "a .NET trace",
        r"[\w.`<>\[\],+]+\([^()\n]*\) in [^\n<>]+\.(?:cs|vb|fs):line \d+",
        &[":line "],
    ),
    trace(
        "a PHP trace",
        r#"(?:^|[\s"])#\d+ (?:\[internal function\]: |\{main\})"#,
        &["[internal function]", " {main}"],
    ),
    trace(
        "an Elixir trace",
        r"\b[\w/.-]+\.exs?:\d+: [A-Z]\w*(?:\.\w+)*[?!]?/\d+",
        &[".ex:", ".exs:"],
    ),
];

const fn trace(what: &'static str, regex: &'static str, auth: Needs) -> DisclosurePattern {
    DisclosurePattern { kind: DisclosureKind::StackTrace, what, regex, literals: auth }
}

#[cfg(test)]
mod tests {
    use super::super::patterns::{PatternMatch, find};
    use super::*;

    #[test]
    fn traces_are_known_by_language() {
        for (language, text) in [
            ("Java or Kotlin", "\tat example.harbour.Berths.find(Berths.java:42)"),
            ("Java or Kotlin", "at example.harbour.TidesKt$main$1.invoke(Tides.kt:7)"),
            ("Java or Kotlin", "Caused by: java.lang.NullPointerException: berth"),
            ("Java or Kotlin", "at java.base/java.lang.Thread.run(Unknown Source)"),
            (
                "Python",
                "Traceback (most recent call last):\n  File \"/srv/tides.py\", line 3, in get",
            ),
            ("Python", "File &quot;/srv/harbour/tides.py&quot;, line 3, in get"),
            ("JavaScript", "    at findBerth (/srv/harbour/berths.js:12:9)"),
            ("JavaScript", "at async Server.handle (file:///srv/harbour/server.mjs:101:13)"),
            (
                "JavaScript",
                "at process.processTicksAndRejections (node:internal/process/task_queues:95:5)",
            ),
            ("JavaScript", "at Array.map (<anonymous>)"),
            ("JavaScript", "at Server.find (C:\\harbour\\berths.js:12:9)"),
            ("JavaScript", "at /srv/harbour/berths.js:12:9"),
            ("JavaScript", "at async file:///srv/harbour/berths.mjs:1:9"),
            ("Go", "goroutine 17 [running]:\nmain.find()"),
            ("Go", "\t/srv/harbour/berths.go:42 +0x1d"),
            (".NET", "   at Harbour.Berths.Find(String id) in /srv/Berths.cs:line 42"),
            (".NET", "at System.Linq.Enumerable.First[TSource](IEnumerable`1 source)"),
            (".NET", "--- End of stack trace from previous location ---"),
            ("PHP", "#0 /srv/harbour/berths.php(42): Berths->find('Z-99')"),
            (
                "PHP",
                "<b>Warning</b>: Undefined variable in <b>/srv/berths.php</b> on line <b>42</b>",
            ),
            ("PHP", "Uncaught Error: none in /srv/berths.php:42"),
            ("Ruby", "app/berths.rb:42:in `find'"),
            ("Ruby", "/usr/lib/ruby/gems/rack-3.0.8/lib/rack/method_override.rb:28"),
            ("Rust", "thread 'main' panicked at src/berths.rs:42:5:"),
            ("Rust", "   3: harbour::berths::find\n             at ./src/berths.rs:42"),
        ] {
            let found: Vec<PatternMatch> = find(text);
            let what =
                found.iter().find(|hit| hit.kind == DisclosureKind::StackTrace).map(|hit| hit.what);
            assert_eq!(what, Some(format!("a {language} trace").as_str()), "{text}");
        }
    }

    #[test]
    fn what_only_sounds_like_a_trace_is_none() {
        for text in [
            "expected `,` at line 1 column 14",
            "The file plan.py is not a plan, line 3 is empty",
            "/v1/berths/A-3",
            "at 12:30:05 the lock opens",
            "arrives at /quay/3:12",
            "https://harbour.example/faults/no-such-berth",
            "see help.php for more",
            "panic at the harbour",
            "Exception: the berth is taken",
            "NullPointerException",
            "Caused by: high tide",
            "at least 3 (three)",
            "goroutine",
            "thread pool exhausted",
            "at Berth.North (2 of 3)",
            "main.go is the entry",
            "on line 12",
            "trace id 4bf92f35",
            "open at System (the main lock)",
            "#12 north.php",
            "10:02:11 a.m. at quay:4:2",
        ] {
            let found = find(text);
            assert!(
                found.iter().all(|hit| hit.kind != DisclosureKind::StackTrace),
                "{text}: {found:?}"
            );
        }
    }
}
