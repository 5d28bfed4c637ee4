//! Carriers: syntaxes that turn text into one kind of tree, in which everything has its place.

mod tree;
pub mod yaml;

pub use tree::{Kind, NodeId, Tree};

use corvant_core::source::Span;

/// Why a text could not be turned into a tree.
#[derive(Debug, thiserror::Error, PartialEq, Eq)]
#[error("{message}")]
pub struct CarrierError {
    /// What is wrong, as a clause that a sentence can end with.
    pub message: String,
    /// Where.
    pub span: Span,
}

impl CarrierError {
    fn new(message: impl Into<String>, span: Span) -> Self {
        Self { message: message.into(), span }
    }
}
