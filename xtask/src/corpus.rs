//! Made workspaces on disk.

use corvant_testing::corpus::File;
use std::path::Path;
use std::{fs, io};

/// Writes a workspace below a folder; the folder is made anew if it was a made one.
pub(crate) fn write(folder: &Path, files: impl Iterator<Item = File>) -> io::Result<()> {
    let mut expected = Vec::new();
    for file in files {
        let path = folder.join(&file.path);
        if let Some(parent) = path.parent() {
            fs::create_dir_all(parent)?;
        }
        fs::write(path, file.text)?;
        expected
            .extend(file.expected.iter().map(|expected| format!("{} {}\n", expected.rule, expected.subject)));
    }
    expected.sort();
    fs::write(folder.join("expected.txt"), expected.concat())
}
