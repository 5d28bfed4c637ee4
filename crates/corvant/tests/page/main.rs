//! The page, in a browser: every view, by pointer and by keyboard, with friendly names and with hostile ones.

mod hostile;
#[path = "../support/mod.rs"]
mod support;
mod views;

use corvant_testing::browser::Browser;
use corvant_testing::validators;
use serde_json::Value;
use std::path::Path;
use support::{folder, run};
use tempfile::TempDir;

/// A page that is open, and the report that it shows.
struct Opened {
    browser: Browser,
    report: Value,
    folder: TempDir,
}

impl Opened {
    /// The demo's page; `None`: there is no browser.
    fn demo(address: &str) -> Option<Self> {
        let folder = folder(&[]);
        assert_eq!(run(&["demo", "--write", "velmora"], folder.path()).status, 0);
        Self::of(folder, "velmora", address)
    }

    /// The page of a workspace.
    fn of(folder: TempDir, root: &str, address: &str) -> Option<Self> {
        let program = validators::browser("the page in a browser")?;
        let written = run(&["report", root, "--output", "report.html"], folder.path());
        assert_eq!((written.status, written.stdout.as_str()), (0, ""), "{written:#?}");
        let report = run(&["audit", root, "--format", "json"], folder.path()).json();
        let mut browser = Browser::start(&program, 1280, 800);
        browser.open(&folder.path().join("report.html"), address);
        browser.settle();
        Some(Self { browser, report, folder })
    }

    fn findings(&self) -> &[Value] {
        self.report["findings"].as_array().unwrap()
    }

    /// How many findings of the JSON report are such.
    fn count(&self, is_such: impl Fn(&Value) -> bool) -> usize {
        self.findings().iter().filter(|finding| is_such(finding)).count()
    }

    /// The text of what is shown.
    fn shown(&mut self) -> String {
        self.browser.text("document.getElementById('view').innerText")
    }

    /// How many findings the page says that a filter leaves.
    fn left(&mut self) -> usize {
        let text = self.browser.text("document.getElementById('shown').textContent");
        text.split(' ').next().unwrap().replace(',', "").parse().unwrap()
    }

    fn heading(&mut self) -> String {
        self.browser.text("document.querySelector('#view h1').textContent")
    }

    /// How many elements there are of a kind.
    fn elements(&mut self, selector: &str) -> usize {
        let found = self.browser.value(&format!("document.querySelectorAll({selector:?}).length"));
        found.as_u64().unwrap() as usize
    }

    /// Nothing went wrong in the page, and nothing was fetched.
    fn assert_quiet(&mut self) {
        assert_eq!(self.browser.complaints(), Vec::<String>::new());
    }
}

/// The path of the page in a folder.
fn page(folder: &Path) -> std::path::PathBuf {
    folder.join("report.html")
}
