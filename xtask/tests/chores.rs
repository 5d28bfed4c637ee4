//! Chores that are checks, as they are run.

use std::path::Path;
use std::process::Command;

#[test]
fn dependencies_are_what_is_allowed() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).parent().expect("the folder of the workspace");
    let output = Command::new(env!("CARGO_BIN_EXE_xtask")).arg("dependencies").current_dir(root).output();
    let output = output.expect("it runs");
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
}
