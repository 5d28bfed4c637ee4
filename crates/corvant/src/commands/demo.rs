//! `corvant demo`

use super::audit;
use crate::cli::AuditOptions;
use crate::demo;
use crate::exit::{self, CommandError};
use crate::output;
use corvant_read::workspace;
use std::fs;
use std::path::Path;

pub(crate) fn run(mended: bool, options: &AuditOptions) -> Result<u8, CommandError> {
    let files = demo::files(mended);
    let workspace = workspace::from_texts(files.iter().map(|(path, text)| (*path, text.as_str())))?;
    let status = audit::report(workspace, "velmora", options, None)?;
    if options.fail_on.is_some() {
        return Ok(status);
    }
    if !options.writing.to.quiet {
        output::say(&format!(
            "this is a demonstration: `corvant audit` would exit with status {status} here"
        ));
    }
    Ok(exit::CLEAN)
}

/// Writes the workspace to disk. A folder that holds anything is left alone.
pub(crate) fn write(folder: &Path, mended: bool) -> Result<u8, CommandError> {
    if fs::read_dir(folder).is_ok_and(|mut entries| entries.next().is_some()) {
        return Err(CommandError::Usage(format!("{} is not empty", folder.display())));
    }
    let files = demo::files(mended);
    for (path, text) in &files {
        let path = folder.join(path);
        let written = path.parent().map_or(Ok(()), fs::create_dir_all).and_then(|()| fs::write(&path, text));
        written.map_err(|reason| CommandError::Output { path: path.display().to_string(), reason })?;
    }
    let folder = folder.display();
    output::say(&format!("wrote {} files; now try: corvant audit {folder}", files.len()));
    Ok(exit::CLEAN)
}
