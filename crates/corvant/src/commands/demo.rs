//! `corvant demo`

use super::audit;
use crate::cli::AuditOptions;
use crate::demo;
use crate::exit::{self, CommandError};
use crate::files;
use crate::output;
use corvant_read::workspace;
use std::fs;
use std::io::ErrorKind;
use std::path::Path;

pub(crate) fn run(corrected: bool, options: &AuditOptions) -> Result<u8, CommandError> {
    let files = demo::files(corrected);
    let workspace = workspace::from_texts(files.iter().map(|(path, text)| (*path, text.as_str())))?;
    let looked = audit::look(workspace, &options.looking)?;
    let status = audit::report(looked, "velmora", options, None)?;
    if options.fail_on.is_some() {
        return Ok(status);
    }
    if !options.writing.screen.quiet {
        output::say(&format!(
            "this is a demonstration: `corvant audit` would exit with status {status} here"
        ));
    }
    Ok(exit::CLEAN)
}

/// Writes the workspace to disk. A folder that holds anything, or does not say what it holds, is left alone, and so
/// is every file that is there already.
pub(crate) fn write(folder: &Path, corrected: bool) -> Result<u8, CommandError> {
    keep_full(folder)?;
    let files = demo::files(corrected);
    for (path, text) in &files {
        let path = folder.join(path);
        files::create(&path, text)
            .map_err(|reason| CommandError::Output { path: path.display().to_string(), reason })?;
    }
    let folder = folder.display();
    output::say(&format!("wrote {} files; now try: corvant audit {folder}", files.len()));
    Ok(exit::CLEAN)
}

/// The same with a year of changes.
pub(crate) fn write_history(folder: &Path) -> Result<u8, CommandError> {
    keep_full(folder)?;
    fs::create_dir_all(folder)
        .map_err(|reason| CommandError::Output { path: folder.display().to_string(), reason })?;
    demo::history::write(folder)?;
    let folder = folder.display();
    output::say(&format!("wrote a year of changes; now try, in {folder}: corvant compare HEAD~1"));
    Ok(exit::CLEAN)
}

/// Refuses a folder that holds anything, or does not say what it holds.
fn keep_full(folder: &Path) -> Result<(), CommandError> {
    let failed = |path: &Path, reason| CommandError::Output { path: path.display().to_string(), reason };
    match fs::read_dir(folder) {
        Ok(mut entries) => {
            if entries.next().is_some() {
                return Err(CommandError::Usage(format!("{} is not empty", folder.display())));
            }
        }
        Err(error) if error.kind() == ErrorKind::NotFound => {}
        Err(error) => return Err(failed(folder, error)),
    }
    Ok(())
}
