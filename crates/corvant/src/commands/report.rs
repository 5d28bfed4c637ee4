//! `corvant report`

use super::audit;
use crate::cli::{Color, Looking};
use crate::exit::{self, CommandError};
use crate::output;
use crate::progress::Shown;
use corvant_core::finding::Severity;
use corvant_read::edit;
use std::path::Path;

/// Writes the whole workspace as a page; its findings are for who looks at it, and fail nothing.
pub(crate) fn run(root: &Path, file: &Path, looking: &Looking) -> Result<u8, CommandError> {
    let shown = Shown::begin(false);
    let workspace = audit::read(root, (looking, false), &shown, [file])?;
    let (wiring, mut report) = audit::look(workspace, looking)?;
    edit::spell_out(&mut report.findings, &wiring);
    let is_failing = exit::of_audit(&report, Some(Severity::Error)) != exit::CLEAN;
    let name = root.display().to_string();
    let written = output::write_file(file, Color::Never, |_, out| {
        audit::write_page(&report, &wiring, looking, &name, is_failing, out)
    });
    drop(shown);
    written?;
    output::say(&format!("wrote {}; open it in a browser", file.display()));
    std::mem::forget((wiring, report));
    Ok(exit::CLEAN)
}
