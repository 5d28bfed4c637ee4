//! What others wrote to check the formats that are written here: `.ci/validators` installs it into a folder, and the
//! variable `CORVANT_VALIDATORS` names that. Without it the tests that need it say that they left something out.

use std::ffi::OsString;
use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::process::Command;

/// Names the folder.
const VARIABLE: &str = "CORVANT_VALIDATORS";

/// The folder with validators; `None`: there is none, and it is said that `what` is left out.
pub fn folder(what: &str) -> Option<PathBuf> {
    let folder = std::env::var_os(VARIABLE);
    if folder.is_none() {
        leave_out(what);
    }
    folder.map(Into::into)
}

/// The browser; `None`: there is none, and it is said that `what` is left out.
///
/// # Panics
///
/// If there is none where everything is to be checked.
pub fn browser(what: &str) -> Option<OsString> {
    let browser = crate::browser::installed();
    if browser.is_none() {
        assert!(std::env::var_os(VARIABLE).is_none(), "no browser is installed, and {what} is to be checked");
        leave_out(what);
    }
    browser
}

/// Says what a test does not check here. What tests print is kept from who runs them unless they fail; this is not.
fn leave_out(what: &str) {
    let _ = writeln!(io::stderr(), "left out: {what} (see CONTRIBUTING.md)");
}

/// Runs a validator on a file, and gives what it says.
///
/// # Panics
///
/// If it refuses the file.
pub fn accepts(validator: &mut Command, file: &Path) -> String {
    let output = validator.arg(file).output().expect("the validator starts");
    let said = [output.stdout.as_slice(), &output.stderr].map(String::from_utf8_lossy).concat();
    assert!(output.status.success(), "{} is refused:\n{said}", file.display());
    said
}
