//! Edits of files as a patch that other tools take.

use crate::cli::{Color, Screen};
use crate::exit::CommandError;
use crate::output;
use corvant_read::edit::EditedFile;
use corvant_render::out::safe;
use similar::TextDiff;
use std::collections::BTreeMap;
use std::fmt::Write as _;
use std::io::{IsTerminal, stdout};

/// Files and what becomes of them as a unified diff, with paths from the root.
pub(crate) fn text(files: &BTreeMap<String, EditedFile>) -> String {
    let mut text = String::new();
    for (path, EditedFile { before, after }) in files {
        let diff = TextDiff::from_lines(before.as_str(), after.as_str());
        let (old, new) = (named("a/", path), named("b/", path));
        text.push_str(&diff.unified_diff().header(&old, &new).to_string());
    }
    text
}

/// Writes a patch to standard output. A terminal gets nothing that it would act on; what others take in has to be the
/// files' own text, byte by byte, and so it is, unless it holds what somebody may be deceived with.
pub(crate) fn write(text: &str, screen: &Screen) -> Result<(), CommandError> {
    if stdout().is_terminal() || screen.color == Color::Always {
        return output::write_screen(screen, |layout, out| corvant_render::patch::write(text, layout, out));
    }
    if screen.quiet {
        return Ok(());
    }
    let letters: String = text.chars().filter(|letter| !matches!(letter, '\r' | '\n' | '\t')).collect();
    if safe(&letters) != letters {
        output::say(
            "files hold signs that are not shown as they are: this patch cannot be applied, --write can",
        );
        return output::write_screen_text(text);
    }
    output::write_own(None, |out| out.write_all(text.as_bytes()))
}

/// A path as patches have it: in quotes, with escapes, where it could be mistaken for something else.
fn named(side: &str, path: &str) -> String {
    if !path.contains(|letter: char| letter.is_control() || matches!(letter, '"' | '\\')) {
        return format!("{side}{path}");
    }
    let mut quoted = format!("\"{side}");
    for byte in path.bytes() {
        match byte {
            b'"' | b'\\' => quoted.extend(['\\', byte.into()]),
            b' '..=b'~' => quoted.push(byte.into()),
            _ => write!(quoted, "\\{byte:03o}").expect("writing to a String"),
        }
    }
    quoted.push('"');
    quoted
}
