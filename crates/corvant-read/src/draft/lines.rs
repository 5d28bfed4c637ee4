//! Lines of a workspace file, each with what speaks for it.

use std::fmt::Write as _;

/// Where what speaks for a line begins.
const COLUMN: usize = 52;

/// Lines of a workspace file.
#[derive(Default)]
pub(super) struct Lines {
    pub(super) text: String,
    pub(super) unsure: Vec<String>,
}

impl Lines {
    pub(super) fn head(&mut self, head: &str) {
        let blank = if self.text.is_empty() { "" } else { "\n" };
        self.plain(&format!("{blank}[[{head}]]"));
    }

    /// A table that belongs to the one above.
    pub(super) fn part(&mut self, head: &str) {
        self.plain(&format!("[[{head}]]"));
    }

    pub(super) fn plain(&mut self, line: &str) {
        self.text.push_str(line);
        self.text.push('\n');
    }

    /// A line with what speaks for it.
    pub(super) fn told(&mut self, line: &str, evidence: &str) {
        let gap = " ".repeat(COLUMN.saturating_sub(line.chars().count()).max(1));
        self.plain(&format!("{line}{gap}# {evidence}"));
    }

    /// A line that somebody has to look at: it is left out.
    pub(super) fn unsure(&mut self, line: &str, why: &str) {
        self.unsure.push(format!("{line}: {why}"));
        self.told(&format!("# unsure: {line}"), why);
    }
}

pub(super) fn counted(count: usize, what: &str) -> String {
    format!("{count} {what}{}", if count == 1 { "" } else { "s" })
}

/// A text of TOML.
pub(super) fn text(text: &str) -> String {
    let is_plain = !text.chars().any(char::is_control);
    if text.contains('\\') && !text.contains('\'') && is_plain {
        return format!("'{text}'");
    }
    let mut quoted = String::from("\"");
    for letter in text.chars() {
        match letter {
            '"' | '\\' => quoted.extend(['\\', letter]),
            '\n' => quoted.push_str("\\n"),
            letter if letter.is_control() => {
                write!(quoted, "\\u{:04x}", letter as u32).expect("writing to a String");
            }
            letter => quoted.push(letter),
        }
    }
    quoted.push('"');
    quoted
}

pub(super) fn key_text(key: &str) -> String {
    if key.chars().all(|letter| letter.is_ascii_alphanumeric() || matches!(letter, '-' | '_')) {
        key.to_owned()
    } else {
        text(key)
    }
}
