//! Names and values as they are written in a syntax.

use crate::syntax::scalar::kind_of_plain;
use crate::syntax::{ManifestSyntax, NodeKind};
use corvant_core::finding::Value;
use std::ops::Range;

/// A part of the text, in bytes, and what takes its place.
pub(super) type Patch = (Range<usize>, String);

/// How values are written in a file.
#[derive(Clone, Copy)]
pub(super) struct Writing(pub(super) Option<ManifestSyntax>);

impl Writing {
    /// A plain value.
    pub(super) fn value(self, value: &Value) -> Option<String> {
        let text = |text: &String| self.text(text);
        Some(match value {
            Value::Flag(flag) => flag.to_string(),
            Value::Text(text) => quoted(text),
            Value::List(texts) => {
                format!("[{}]", texts.iter().map(text).collect::<Option<Vec<_>>>()?.join(", "))
            }
        })
    }

    /// A text, in quotes only where it needs them.
    pub(super) fn text(self, text: &str) -> Option<String> {
        match self.0? {
            ManifestSyntax::Yaml if is_plain(text) => Some(text.to_owned()),
            _ => Some(quoted(text)),
        }
    }

    /// A field of a map between braces.
    pub(super) fn field(self, name: &str, value: &str) -> Option<String> {
        Some(match self.0? {
            ManifestSyntax::Yaml => format!("{name}: {value}"),
            ManifestSyntax::Json => format!("\"{name}\": {value}"),
            ManifestSyntax::Toml => format!("{name} = {value}"),
        })
    }

    /// One name in place of another, if that is what is written there: with its quotes, if it has any.
    pub(super) fn renamed(self, written: &str, range: Range<usize>, from: &str, to: &str) -> Option<Patch> {
        if written == from {
            let is_safe = match self.0 {
                Some(ManifestSyntax::Yaml) => return Some((range, self.text(to)?)),
                Some(ManifestSyntax::Toml) => is_word(to, "-_"),
                // Of another syntax nothing is known but that names are written in it.
                Some(ManifestSyntax::Json) | None => is_word(to, "-_.\\/:$"),
            };
            return is_safe.then(|| (range, to.to_owned()));
        }
        let quote = written.chars().next().filter(|quote| matches!(quote, '"' | '\''))?;
        let inner = written.strip_prefix(quote)?.strip_suffix(quote)?;
        let is_safe = !to.contains(['"', '\'', '\\']) && !to.contains(char::is_control);
        (inner == from && is_safe).then(|| (range.start + 1..range.end - 1, to.to_owned()))
    }
}

/// Letters, digits and some other characters.
fn is_word(text: &str, others: &str) -> bool {
    text.chars().all(|letter| letter.is_alphanumeric() || others.contains(letter))
}

/// Whether YAML 1.2 reads a text without quotes as the text that it is, also between brackets.
fn is_plain(text: &str) -> bool {
    let begins_well = text.starts_with(|letter: char| letter.is_alphanumeric() || "_/.\\".contains(letter));
    begins_well && is_word(text, "-_./\\<>*$") && kind_of_plain(text) == NodeKind::Text
}

/// A text in double quotes, as JSON writes it (RFC 8259); YAML 1.2 and TOML read the same.
fn quoted(text: &str) -> String {
    serde_json::Value::from(text).to_string()
}
