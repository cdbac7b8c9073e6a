//! A real browser, driven over a pair of pipes: Chromium without a window (Chrome DevTools Protocol).

use std::fs::{File, OpenOptions};
use std::io::{BufRead as _, BufReader, Write as _};
use std::path::Path;
use std::process::{Child, Command, Stdio};

use serde_json::{Value, json};
use tempfile::TempDir;

/// A browser with one page.
pub(crate) struct Browser {
    child: Child,
    to: File,
    from: BufReader<File>,
    session: String,
    next: u64,
    /// What was told without being asked for, since the last look.
    pub(crate) events: Vec<Value>,
    _folder: TempDir,
}

impl Browser {
    /// Starts one; where there is none on this machine, that is said, and the test is skipped.
    pub(crate) fn start() -> Option<Self> {
        let is_there = |name: &&&str| {
            let mut tried = Command::new(name);
            let tried = tried.arg("--version").stdout(Stdio::null()).stderr(Stdio::null()).status();
            tried.is_ok_and(|status| status.success())
        };
        let Some(name) = ["chromium", "chromium-browser"].iter().find(is_there) else {
            println!("SKIPPED: there is no Chromium here (apt-get install chromium)");
            return None;
        };
        let folder = TempDir::new().unwrap();
        let [to, from] = ["to", "from"].map(|name| folder.path().join(name));
        assert!(Command::new("mkfifo").args([&to, &from]).status().unwrap().success());
        // The browser reads commands from descriptor 3 and responses on 4.
        let child = Command::new("sh")
            .args(["-c", "exec \"$@\" 3<\"$0/to\" 4>\"$0/from\""])
            .arg(folder.path())
            .args([name, "--headless=new", "--no-sandbox", "--disable-gpu", "--no-first-run"])
            .args(["--disable-background-networking", "--disable-component-update"])
            .args(["--window-size=1280,800", "--remote-debugging-pipe"])
            .arg(format!("--user-data-dir={}", folder.path().join("profile").display()))
            .stdin(Stdio::null())
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .spawn()
            .unwrap();
        let to = OpenOptions::new().write(true).open(to).unwrap();
        let from = BufReader::new(File::open(from).unwrap());
        let mut browser = Self {
            child,
            to,
            from,
            session: String::new(),
            next: 0,
            events: Vec::new(),
            _folder: folder,
        };
        let target = browser.send("Target.createTarget", json!({"url": "about:blank"}));
        let attach = json!({"targetId": target["targetId"], "flatten": true});
        let attached = browser.send("Target.attachToTarget", attach);
        browser.session = attached["sessionId"].as_str().unwrap().to_owned();
        for domain in ["Page", "Runtime", "Log", "Network"] {
            browser.send(&format!("{domain}.enable"), json!({}));
        }
        Some(browser)
    }

    /// Sends a command and waits for its response.
    pub(crate) fn send(&mut self, method: &str, params: Value) -> Value {
        self.next += 1;
        let mut command = json!({"id": self.next, "method": method, "params": params});
        if !self.session.is_empty() {
            command["sessionId"] = json!(self.session);
        }
        self.to.write_all(format!("{command}\0").as_bytes()).unwrap();
        loop {
            let message = self.read();
            if message["id"] == self.next {
                assert!(message["error"].is_null(), "{method}: {message}");
                return message["result"].clone();
            }
            self.events.push(message);
        }
    }

    fn read(&mut self) -> Value {
        let mut bytes = Vec::new();
        self.from.read_until(0, &mut bytes).unwrap();
        bytes.pop();
        serde_json::from_slice(&bytes).expect("the browser has gone away")
    }

    /// Opens a file and waits until it is there.
    pub(crate) fn open(&mut self, path: &Path) {
        self.events.clear();
        let url = format!("file://{}", path.display());
        self.send("Page.navigate", json!({"url": url}));
        let is_loaded = |event: &Value| event["method"] == "Page.loadEventFired";
        while !self.events.iter().any(is_loaded) {
            let event = self.read();
            self.events.push(event);
        }
    }

    /// The value of an expression in the page; promises are waited for.
    #[track_caller]
    pub(crate) fn value(&mut self, expression: &str) -> Value {
        let params = json!({"expression": expression, "returnByValue": true, "awaitPromise": true});
        let result = self.send("Runtime.evaluate", params);
        assert!(result["exceptionDetails"].is_null(), "{expression}: {result:#}");
        result["result"]["value"].clone()
    }

    /// The events of a kind.
    pub(crate) fn told(&self, method: &str) -> Vec<&Value> {
        self.events
            .iter()
            .filter(|event| event["method"] == method)
            .map(|event| &event["params"])
            .collect()
    }
}

impl Drop for Browser {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}
