//! Made workspaces as a house would have them: the same files under another name, and a reader that is custom for
//! them.

use crate::corpus::{File, Made};

/// The workspace file that teaches the reader.
pub const READER: &str = include_str!("house.toml");

/// A made workspace in which a custom reader reads every file; what must be found in it stays the same but for what
/// the reader is not custom.
pub fn house(made: Made) -> impl Iterator<Item = File> {
    let (mut settings, mut files): (Vec<File>, Vec<File>) =
        made.files().partition(|file| file.path == "corvant.toml");
    let mut settings = settings.pop().unwrap_or_else(|| File {
        path: "corvant.toml".to_owned(),
        text: String::new(),
        expected: Vec::new(),
    });
    settings.text = format!("{}\n{READER}", settings.text);
    for file in &mut files {
        file.path = file.path.replace(".wiring.", ".house.");
    }
    std::iter::once(settings).chain(files)
}
