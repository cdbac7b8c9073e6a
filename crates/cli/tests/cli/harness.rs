//! A temporary folder, and runs of the program in it that tell all about themselves when they fail.

use std::fmt;
use std::path::{Path, PathBuf};
use std::process::{Command, Output, Stdio};

use serde_json::{Value, json};
use tempfile::TempDir;
use unicode_width::UnicodeWidthStr;

/// A temporary folder with files in it.
pub(crate) struct Project {
    folder: TempDir,
}

/// What a run of the program gave.
pub(crate) struct Run {
    call: String,
    pub(crate) code: Option<i32>,
    pub(crate) stdout: String,
    pub(crate) stderr: String,
}

impl Project {
    pub(crate) fn new() -> Self {
        Self { folder: TempDir::new().unwrap() }
    }

    /// A folder with a contract and one recording, `a.har`, of these exchanges.
    pub(crate) fn with(contract: &str, exchanges: &[Value]) -> Self {
        let project = Self::new();
        project.write("error-contract.toml", contract);
        project.write("a.har", har(exchanges));
        project
    }

    pub(crate) fn path(&self) -> &Path {
        self.folder.path()
    }

    pub(crate) fn write(&self, name: &str, text: impl AsRef<[u8]>) -> PathBuf {
        let path = self.path().join(name);
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        std::fs::write(&path, text).unwrap();
        path
    }

    pub(crate) fn command(&self, call: &str) -> Command {
        let mut command = Command::new(env!("CARGO_BIN_EXE_fclerk"));
        command.current_dir(self.path()).args(call.split_whitespace());
        // Nothing of the caller's own terminal may matter.
        for name in ["NO_COLOR", "COLUMNS", "LC_ALL", "LC_CTYPE", "LANG"] {
            command.env_remove(name);
        }
        command
    }

    pub(crate) fn run(&self, call: &str) -> Run {
        self.run_with(call, Stdio::null())
    }

    /// Runs it with a limit on its processor time; a call that needs more is killed, so that its exit code is none.
    ///
    /// How busy the machine is does not matter, and work that grows with the square of its input is far beyond it.
    #[cfg(unix)]
    pub(crate) fn run_in_seconds(&self, seconds: u32, call: &str) -> Run {
        let plain = self.command(call);
        let mut command = Command::new("sh");
        command.args(["-c", &format!("ulimit -t {seconds} && exec \"$0\" \"$@\"")]);
        command.arg(plain.get_program()).args(plain.get_args()).current_dir(self.path());
        let output = command.stdin(Stdio::null()).output().unwrap();
        Run::of_output(call, output)
    }

    /// There is no such limit.
    #[cfg(not(unix))]
    pub(crate) fn run_in_seconds(&self, _: u32, call: &str) -> Run {
        self.run(call)
    }

    pub(crate) fn run_with(&self, call: &str, stdin: impl Into<Stdio>) -> Run {
        Run::of_output(call, self.command(call).stdin(stdin).output().unwrap())
    }

    /// Asserts that what a call writes fits a terminal of that width.
    #[track_caller]
    pub(crate) fn fits(&self, call: &str, columns: usize) {
        let output = self.command(call).env("COLUMNS", columns.to_string()).output().unwrap();
        let text = String::from_utf8(output.stdout).unwrap();
        let widest = text.lines().map(UnicodeWidthStr::width).max().unwrap_or_default();
        assert!(widest <= columns, "{widest} columns of {columns}: {call}\n{text}");
    }

    /// Runs `check --format json` on `a.har` and gives what it wrote.
    pub(crate) fn checked(&self) -> Value {
        self.run("check --format json a.har").json()
    }
}

impl fmt::Display for Run {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Self { call, code, stdout, stderr } = self;
        write!(f, "fclerk {call}\n== code {code:?}\n== stdout\n{stdout}\n== stderr\n{stderr}")
    }
}

impl Run {
    pub(crate) fn of_output(call: &str, output: Output) -> Self {
        Self {
            call: call.to_owned(),
            code: output.status.code(),
            stdout: String::from_utf8(output.stdout).expect("standard output is UTF-8"),
            stderr: String::from_utf8(output.stderr).expect("standard error is UTF-8"),
        }
    }

    /// A run that was made by hand.
    pub(crate) fn of(call: &str, code: Option<i32>, stdout: String, stderr: String) -> Self {
        Self { call: call.to_owned(), code, stdout, stderr }
    }

    /// Asserts the exit code.
    #[track_caller]
    pub(crate) fn exits(self, code: i32) -> Self {
        assert_eq!(self.code, Some(code), "{self}");
        self
    }

    /// Asserts that a stream holds a text.
    #[track_caller]
    pub(crate) fn says(self, text: &str) -> Self {
        assert!(self.stdout.contains(text), "no {text:?} in stdout of\n{self}");
        self
    }

    #[track_caller]
    pub(crate) fn complains(self, text: &str) -> Self {
        assert!(self.stderr.contains(text), "no {text:?} in stderr of\n{self}");
        self
    }

    #[track_caller]
    pub(crate) fn json(&self) -> Value {
        serde_json::from_str(&self.stdout).unwrap_or_else(|error| panic!("{error}\n{self}"))
    }
}

/// A HAR file of these entries.
pub(crate) fn har(entries: &[Value]) -> String {
    json!({"log": {"version": "1.2", "entries": entries}}).to_string()
}

/// An entry: a request without a body, and a response of this status, media type and body.
pub(crate) fn got(method: &str, path: &str, status: u16, media: &str, body: &str) -> Value {
    sent(method, path, &[], None, status, media, body)
}

/// An entry with request headers and a JSON request body.
pub(crate) fn sent(
    method: &str,
    path: &str,
    headers: &[(&str, &str)],
    request: Option<&str>,
    status: u16,
    media: &str,
    body: &str,
) -> Value {
    let fields = |pairs: &[(&str, &str)]| {
        pairs.iter().map(|(name, value)| json!({"name": name, "value": value})).collect::<Vec<_>>()
    };
    let mut entry = json!({
        "request": {"method": method, "url": format!("https://harbour.example/v1{path}"),
                    "headers": fields(headers), "bodySize": request.map_or(0, str::len)},
        "response": {"status": status, "headers": fields(&[("Content-Type", media)]),
                     "content": {"size": body.len(), "text": body}},
    });
    if let Some(text) = request {
        entry["request"]["postData"] = json!({"mimeType": "application/json", "text": text});
    }
    entry
}

/// The findings of a check as `(exchange, clause, severity, location)`, sorted.
pub(crate) fn findings(check: &Value) -> Vec<(u64, String, String, String)> {
    let mut rows = Vec::new();
    for finding in check["findings"].as_array().unwrap() {
        let text = |name: &str| finding[name].as_str().unwrap().to_owned();
        let addresses = finding["addresses"].as_array().unwrap();
        assert_eq!(finding["count"].as_u64().unwrap(), addresses.len() as u64, "{finding}");
        for address in addresses {
            let number = address.as_str().unwrap().rsplit('#').next().unwrap().parse().unwrap();
            rows.push((number, text("clause"), text("severity"), text("location")));
        }
    }
    rows.sort();
    rows
}
