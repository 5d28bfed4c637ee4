//! An executable specification: `docs/semantics.md` as code, with sets and loops, slow and plain.
//!
//! It shares nothing with the core but the facts that readers hand over. Properties hold the audit to it,
//! finding by finding, and answers to what it resolves. What a file says that could not be read
//! is such a fact too: its words.

#![allow(missing_docs, reason = "fields are what the format calls them, and explained there")]

mod model;
mod rules;
mod view;

pub(crate) use model::Model;
pub(crate) use rules::{Found, failing, findings};
pub(crate) use view::{Edge, Node, View};
