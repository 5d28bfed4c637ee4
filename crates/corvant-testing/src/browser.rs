//! A browser without a window, driven through its debugging protocol: what a page does for people, not what its source
//! says.
//!
//! The protocol goes over two pipes, as JSON with a zero byte behind each message; nothing listens on any port.

use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use serde_json::{Value, json};
use std::ffi::OsString;
use std::io::{BufRead, BufReader, Write};
use std::path::Path;
use std::process::{Child, ChildStdin, ChildStdout, Command, Stdio};
use std::thread::sleep;
use std::time::{Duration, Instant};

/// How long a page may take to show what is waited for.
const PATIENCE: Duration = Duration::from_secs(60);
/// The names under which the browser may be installed.
const NAMES: [&str; 3] = ["chromium", "chromium-browser", "chromium-headless-shell"];

/// A browser with one page.
#[derive(Debug)]
pub struct Browser {
    child: Child,
    input: ChildStdin,
    output: BufReader<ChildStdout>,
    session: Option<String>,
    last: u64,
    /// What the page did meanwhile: messages of the protocol.
    events: Vec<Value>,
    _profile: tempfile::TempDir,
}

/// The browser that is installed, if one is.
pub fn installed() -> Option<OsString> {
    let path = std::env::var_os("PATH")?;
    let folders: Vec<_> = std::env::split_paths(&path).collect();
    let mut candidates = NAMES.iter().flat_map(|name| folders.iter().map(move |folder| folder.join(name)));
    candidates.find(|candidate| candidate.is_file()).map(Into::into)
}

impl Browser {
    /// Starts it with a window of some size.
    ///
    /// # Panics
    ///
    /// If it does not start.
    pub fn start(program: &OsString, width: u32, height: u32) -> Self {
        let profile = tempfile::tempdir().expect("there is a folder for temporary files");
        let mut child = Command::new("sh")
            .args(["-c", "exec \"$0\" \"$@\" 3<&0 4>&1 </dev/null >/dev/null 2>&1"])
            .arg(program)
            .args(["--headless", "--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage"])
            .args(["--remote-debugging-pipe", "--no-first-run"])
            .arg(format!("--user-data-dir={}", profile.path().display()))
            .arg("about:blank")
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .spawn()
            .expect("the browser starts");
        let input = child.stdin.take().expect("it was asked for");
        let output = BufReader::new(child.stdout.take().expect("it was asked for"));
        let mut browser =
            Self { child, input, output, session: None, last: 0, events: Vec::new(), _profile: profile };
        let page = browser.call("Target.createTarget", &json!({ "url": "about:blank" }));
        let target = &page["targetId"];
        let attached = browser.call("Target.attachToTarget", &json!({ "targetId": target, "flatten": true }));
        browser.session = attached["sessionId"].as_str().map(str::to_owned);
        for domain in ["Page", "Runtime", "Log", "Network"] {
            browser.call(&format!("{domain}.enable"), &json!({}));
        }
        browser.resize(width, height);
        browser
    }

    /// Gives the window a size.
    pub fn resize(&mut self, width: u32, height: u32) {
        let size = json!({ "width": width, "height": height, "deviceScaleFactor": 1, "mobile": false });
        self.call("Emulation.setDeviceMetricsOverride", &size);
    }

    /// Calls a method of the protocol and gives its result.
    ///
    /// # Panics
    ///
    /// If the browser refuses it or ends.
    pub fn call(&mut self, method: &str, parameters: &Value) -> Value {
        self.last += 1;
        let mut message = json!({ "id": self.last, "method": method, "params": parameters });
        if let Some(session) = &self.session {
            message["sessionId"] = json!(session);
        }
        write!(self.input, "{message}\0").expect("the browser listens");
        self.input.flush().expect("the browser listens");
        loop {
            let mut answer = Vec::new();
            self.output.read_until(0, &mut answer).expect("the browser answers");
            assert!(answer.pop().is_some(), "the browser has ended");
            let answer: Value = serde_json::from_slice(&answer).expect("the protocol is JSON");
            if answer["id"] == json!(self.last) {
                assert!(answer["error"].is_null(), "{method}: {}", answer["error"]);
                return answer["result"].clone();
            }
            self.events.push(answer);
        }
    }

    /// Opens a page, and waits until it says that it is ready.
    pub fn open(&mut self, page: &Path, address: &str) {
        let url = format!("file://{}{address}", page.display());
        self.call("Page.navigate", &json!({ "url": "about:blank" }));
        self.call("Page.navigate", &json!({ "url": url }));
        self.wait("document.body && document.body.dataset.ready === 'yes'");
    }

    /// Goes to another address of the page that is open.
    pub fn go(&mut self, address: &str) {
        self.value(&format!("location.hash = {}", json!(address)));
        self.settle();
    }

    /// Waits until what was asked for is drawn.
    pub fn settle(&mut self) {
        self.value(
            "new Promise(done => setTimeout(() => requestAnimationFrame(() => requestAnimationFrame(done)), 0))",
        );
    }

    /// The value of an expression in the page.
    ///
    /// # Panics
    ///
    /// If it throws.
    pub fn value(&mut self, expression: &str) -> Value {
        let parameters = json!({ "expression": expression, "returnByValue": true, "awaitPromise": true });
        let result = self.call("Runtime.evaluate", &parameters);
        assert!(result["exceptionDetails"].is_null(), "{expression}: {}", result["exceptionDetails"]);
        result["result"]["value"].clone()
    }

    /// The value of an expression as text.
    pub fn text(&mut self, expression: &str) -> String {
        let value = self.value(expression);
        value.as_str().map_or_else(|| value.to_string(), str::to_owned)
    }

    /// Waits until an expression holds.
    ///
    /// # Panics
    ///
    /// If it never does.
    pub fn wait(&mut self, condition: &str) {
        let start = Instant::now();
        while self.value(condition) != json!(true) {
            assert!(start.elapsed() < PATIENCE, "{condition} never holds");
            sleep(Duration::from_millis(20));
        }
    }

    /// Presses a key, by the name that pages know it by.
    pub fn press(&mut self, key: &str) {
        let code = match key {
            "Enter" => 13,
            "Tab" => 9,
            "Escape" => 27,
            "ArrowLeft" => 37,
            "ArrowUp" => 38,
            "ArrowRight" => 39,
            "ArrowDown" => 40,
            _ => 0,
        };
        let text = if key == "Enter" { "\r" } else { key };
        let is_text = key.chars().count() == 1 || key == "Enter";
        let mut down = json!({ "type": "keyDown", "key": key, "code": key, "windowsVirtualKeyCode": code });
        if is_text {
            down["text"] = json!(text);
        }
        self.call("Input.dispatchKeyEvent", &down);
        let up = json!({ "type": "keyUp", "key": key, "code": key, "windowsVirtualKeyCode": code });
        self.call("Input.dispatchKeyEvent", &up);
        self.settle();
    }

    /// Types a text.
    pub fn type_text(&mut self, text: &str) {
        self.call("Input.insertText", &json!({ "text": text }));
        self.settle();
    }

    /// Clicks at a point of the window.
    pub fn click(&mut self, x: f64, y: f64) {
        for kind in ["mousePressed", "mouseReleased"] {
            let event = json!({ "type": kind, "x": x, "y": y, "button": "left", "clickCount": 1 });
            self.call("Input.dispatchMouseEvent", &event);
        }
        self.settle();
    }

    /// What the window shows, as PNG.
    ///
    /// # Panics
    ///
    /// If the browser draws nothing.
    pub fn picture(&mut self) -> Vec<u8> {
        let picture = self.call("Page.captureScreenshot", &json!({ "format": "png" }));
        let text = picture["data"].as_str().expect("a picture has data");
        STANDARD.decode(text).expect("the picture is base64")
    }

    /// What the page complained of, and what it tried to fetch besides itself.
    pub fn complaints(&mut self) -> Vec<String> {
        self.settle();
        let mut complaints = Vec::new();
        for event in &self.events {
            let method = event["method"].as_str().unwrap_or_default();
            let parameters = &event["params"];
            let is_own = |url: &Value| {
                let url = url.as_str().unwrap_or_default();
                url.starts_with("file://") && url.contains(".html") || url.starts_with("about:")
            };
            match method {
                "Runtime.exceptionThrown" => complaints.push(parameters["exceptionDetails"].to_string()),
                "Runtime.consoleAPICalled" => complaints.push(parameters["args"].to_string()),
                "Log.entryAdded" => complaints.push(parameters["entry"].to_string()),
                "Network.requestWillBeSent" if !is_own(&parameters["request"]["url"]) => {
                    complaints.push(format!("fetched {}", parameters["request"]["url"]));
                }
                _ => {}
            }
        }
        complaints
    }
}

impl Drop for Browser {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}
