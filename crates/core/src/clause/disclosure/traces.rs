//! What stack traces look like, by language.
//!
//! Every pattern has to be certain by itself: a frame with a source file and a line in the form of
//! its language, or a sentence that only the run-time writes. Words such as 'line 12' alone are none.

use std::sync::{LazyLock, OnceLock};

use regex::bytes::{Regex, RegexBuilder, RegexSet, RegexSetBuilder};

/// A trace that was found.
pub(super) struct Trace {
    pub(super) language: &'static str,
    /// The first piece of it.
    pub(super) text: String,
}

/// `(?:"|&quot;)` and `&lt;` let the same patterns find traces in HTML.
const PATTERNS: [(&str, &str); 21] = [
    (
        "Java or Kotlin",
        r"\bat (?:[\w$.@-]+/)*[\w$.]+[.$][\w$<>]+(?:&lt;init&gt;)?\((?:[\w$-]+\.(?:java|kt|kts|scala|groovy|clj):\d+|Native Method|Unknown Source)\)",
    ),
    ("Java or Kotlin", r"\bCaused by: (?:[a-z][\w]*\.)+[A-Z]\w*(?:Exception|Error)\b"),
    ("Java or Kotlin", r#"\bException in thread (?:"|&quot;)"#),
    ("Python", r"Traceback \(most recent call last\):"),
    ("Python", r#"\bFile (?:"|&quot;|&#34;|')[^"'<>\n]+\.pyx?(?:"|&quot;|&#34;|'), line \d+"#),
    (
        "JavaScript",
        r"\bat (?:async )?(?:[\w$.<>\[\] ]+ )?\(?(?:file://|node:|webpack:|/|[A-Za-z]:\\)[^\s()<>]*:\d+:\d+\)?",
    ),
    (
        "JavaScript",
        r"\bat (?:async )?[\w$.<>]+ \((?:native|index \d+|<anonymous>|&lt;anonymous&gt;)\)",
    ),
    ("Go", r"\bgoroutine \d+ \[[a-z][a-z ,0-9]*\]:"),
    ("Go", r"\.go:\d+ \+0x[0-9a-f]+"),
    (".NET", r"\bat [\w.`<>\[\],+|$&;]+\([^()\n]*\) in [^\n<>]+:line \d+"),
    (".NET", r"\bat (?:System|Microsoft)\.[\w.`<>\[\],+|$&;]+\([^()\n]*\)"),
    (".NET", r"--- End of (?:inner exception )?stack trace"),
    ("PHP", r"(?m)#\d+ [^\n#]+\.php\(\d+\): "),
    (
        "PHP",
        r"(?:Fatal error|Warning|Notice|Parse error)(?:</b>)?:[^\n]+ in (?:<b>)?[^\n<]+\.php(?:</b>)? on line (?:<b>)?\d+",
    ),
    ("PHP", r"\bin /[^\s<>]+\.php:\d+"),
    ("Ruby", r"[\w./-]+\.rb:\d+:in (?:`|'|‘|&#39;|&#x27;|&#96;)"),
    ("Ruby", r"/gems/[\w.-]+-\d+(?:\.\d+)+/[\w./-]+\.rb:\d+"),
    ("Rust", r"\bthread (?:'|&#39;|&#x27;)[^'\n&]+(?:'|&#39;|&#x27;)(?: \(\d+\))? panicked at "),
    ("Rust", r"(?m)^\s*\d+: (?:0x[0-9a-f]+ - )?[\w:<>{}, ]*::[\w:<>{}#, ]+\s+at [^\n]+\.rs:\d+"),
    ("Rust", r"\bpanicked at [^\n]+\.rs:\d+:\d+"),
    ("Rust", r"(?m)^\s*at /?[^\s:]+\.rs:\d+(?::\d+)?$"),
];

struct Patterns {
    set: RegexSet,
    each: [OnceLock<Option<Regex>>; PATTERNS.len()],
}

/// Compiled at the first error answer, so that a run without one does not pay for it; and of the single
/// patterns only those that are found. Bytes and ASCII classes make the automaton a tenth as large.
static COMPILED: LazyLock<Option<Patterns>> = LazyLock::new(|| {
    let set = RegexSetBuilder::new(PATTERNS.map(|(_, pattern)| pattern)).unicode(false).build();
    Some(Patterns { set: set.ok()?, each: [const { OnceLock::new() }; PATTERNS.len()] })
});

/// The first trace in a text, by the order of the table.
pub(super) fn find(text: &str) -> Option<Trace> {
    let patterns = COMPILED.as_ref()?;
    if !patterns.set.is_match(text.as_bytes()) {
        return None;
    }
    let at = patterns.set.matches(text.as_bytes()).iter().next()?;
    let (language, pattern) = PATTERNS.get(at)?;
    let regex = patterns
        .each
        .get(at)?
        .get_or_init(|| RegexBuilder::new(pattern).unicode(false).build().ok());
    let found = regex.as_ref()?.find(text.as_bytes())?;
    Some(Trace { language, text: String::from_utf8_lossy(found.as_bytes()).into_owned() })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_pattern_compiles() {
        assert!(COMPILED.is_some());
        for (_, pattern) in PATTERNS {
            assert!(RegexBuilder::new(pattern).unicode(false).build().is_ok(), "{pattern}");
        }
    }

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
            assert_eq!(find(text).map(|trace| trace.language), Some(language), "{text}");
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
            assert!(
                find(text).is_none(),
                "{text}: {}",
                find(text).map_or(String::new(), |t| t.text)
            );
        }
    }
}
