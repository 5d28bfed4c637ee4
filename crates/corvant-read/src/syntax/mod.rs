//! Syntaxes: each turns text into one kind of tree, in which everything has its place.

pub mod ini;
pub mod json;
pub mod lines;
mod plain;
pub mod properties;
pub(crate) mod scalar;
pub mod toml;
mod tree;
pub mod xml;
pub mod yaml;

pub use tree::{NodeId, NodeKind, Tree};

use corvant_core::source::Span;

/// How deep lists and maps may stand in one another, in every syntax.
pub const DEPTH_LIMIT: usize = 250;

/// A syntax that manifests can be written in.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum ManifestSyntax {
    /// YAML 1.2.
    Yaml,
    /// JSON, RFC 8259.
    Json,
    /// TOML 1.1.
    Toml,
}

impl ManifestSyntax {
    /// The endings of manifests in Corvant's own format, with the syntax each is written in.
    pub const ENDINGS: [(&'static str, Self); 4] = [
        (".wiring.yaml", Self::Yaml),
        (".wiring.yml", Self::Yaml),
        (".wiring.json", Self::Json),
        (".wiring.toml", Self::Toml),
    ];

    /// The syntax of a manifest, by the ending of its name; `None`: it is no manifest.
    pub fn of_manifest(name: &str) -> Option<Self> {
        Self::ENDINGS.iter().find(|(ending, _)| name.ends_with(ending)).map(|(_, syntax)| *syntax)
    }

    /// The tree of a text without byte-order mark.
    pub fn parse(self, text: &str) -> Result<Tree<'_>, SyntaxError> {
        match self {
            Self::Yaml => yaml::parse(text),
            Self::Json => json::parse(text),
            Self::Toml => toml::parse(text),
        }
    }
}

/// Why a text could not be turned into a tree.
#[derive(Debug, thiserror::Error, PartialEq, Eq)]
#[error("{message}")]
pub struct SyntaxError {
    /// What is wrong, as a clause that a sentence can end with.
    pub message: String,
    /// Where.
    pub span: Span,
}

impl SyntaxError {
    fn new(message: impl Into<String>, span: Span) -> Self {
        Self { message: message.into(), span }
    }

    fn malformed(syntax: &str, message: &str, span: Span) -> Self {
        Self::new(format!("not well-formed {syntax}: {message}"), span)
    }

    fn too_deep(span: Span) -> Self {
        Self::new(format!("lists and maps are nested more than {DEPTH_LIMIT} deep"), span)
    }
}

#[cfg(test)]
mod tests;
