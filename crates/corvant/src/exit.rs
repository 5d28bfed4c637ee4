//! The exit policy, all of it.
//!
//! | status | meaning |
//! | --- | --- |
//! | 0 | nothing at or above the failing severity |
//! | 1 | findings at or above it |
//! | 2 | called wrongly, or nothing to audit was found |
//! | 3 | the program itself failed |
//! | 130 | it was interrupted, as shells count it |

use crate::output;
use corvant_core::audit::Report;
use corvant_core::finding::Severity;
use corvant_read::revision::RevisionError;
use corvant_read::workspace::WorkspaceError;
use std::process::ExitCode;

/// Nothing at or above the failing severity was found.
pub(crate) const CLEAN: u8 = 0;
/// Something was.
pub(crate) const FINDINGS: u8 = 1;
/// The call was wrong, or there is nothing to audit: a wrong folder must not pass.
pub(crate) const USAGE: u8 = 2;
/// The program failed.
pub(crate) const FAILURE: u8 = 3;

/// It was interrupted from the terminal.
pub(crate) const INTERRUPTED: u8 = 130;

/// What ends a command before its result.
#[derive(Debug, thiserror::Error)]
pub(crate) enum CommandError {
    #[error(transparent)]
    Workspace(#[from] WorkspaceError),
    #[error(transparent)]
    Revision(#[from] RevisionError),
    #[error("{0}")]
    Usage(String),
    #[error("the system does not give as many threads: {0}")]
    Threads(String),
    #[error("{path} cannot be written: {reason}")]
    Output { path: String, reason: std::io::Error },
}

/// Says on standard error what ended the command, and gives the status for it.
pub(crate) fn complain(error: &CommandError) -> ExitCode {
    output::say(&format!("corvant: {error}"));
    ExitCode::from(match error {
        CommandError::Workspace(_) | CommandError::Revision(_) | CommandError::Usage(_) => USAGE,
        CommandError::Output { .. } | CommandError::Threads(_) => FAILURE,
    })
}

/// The status of an audit that fails on findings of `fail_on` and worse; `None`: on none.
pub(crate) fn of_audit(report: &Report, fail_on: Option<Severity>) -> u8 {
    let fails = |fail_on: Severity| report.findings.iter().any(|finding| finding.severity <= fail_on);
    if fail_on.is_some_and(fails) { FINDINGS } else { CLEAN }
}

/// A panic is the program's own fault: it says so, and is not mistaken for findings.
pub(crate) fn fail_with_status_3_on_panic() {
    let report = std::panic::take_hook();
    std::panic::set_hook(Box::new(move |panic| {
        // What fails at one file is told as that file's finding.
        if corvant_read::fence::is_inside() {
            return;
        }
        report(panic);
        output::say("corvant: this is a fault of the program, not of what it audits; please report it");
        std::process::exit(FAILURE.into());
    }));
}
