//! Pictures of the graph: open formats for other tools, and one that is drawn here.

pub mod dot;
pub mod graphml;
pub(crate) mod layout;
#[cfg(test)]
pub(crate) mod made;
pub mod mermaid;
pub(crate) mod order;
pub mod svg;
pub mod text;

use crate::answers::words;
use corvant_core::answers::picture::{Drawn, PictureEdge, StandsFor};
use std::borrow::Cow;

/// Letters of a name that fit into a box.
pub(crate) const LETTERS: usize = 40;

/// What stands on a node.
pub(crate) fn name(node: &Drawn) -> String {
    match &node.stands_for {
        StandsFor::Thing(thing) => words::thing(thing),
        StandsFor::Module(module) => module.clone().unwrap_or_else(|| "no module".to_owned()),
        StandsFor::Missing(aim) => words::aim(aim),
    }
}

/// What stands beside an edge: its slots, or how many needs it stands for.
pub(crate) fn label(line: &PictureEdge) -> String {
    const LISTED: usize = 3;
    match (line.slots.as_slice(), line.count) {
        ([], 1) => String::new(),
        ([], count) => format!("×{count}"),
        (slots, _) if slots.len() <= LISTED => slots.join(", "),
        (slots, _) => format!("{}, … {} more", slots[..LISTED].join(", "), slots.len() - LISTED),
    }
}

/// A text of so many letters at most; a longer one ends in `…`.
pub(crate) fn shortened(text: &str, most: usize) -> Cow<'_, str> {
    match text.char_indices().nth(most) {
        None => Cow::Borrowed(text),
        Some(_) => Cow::Owned(text.chars().take(most - 1).chain(['…']).collect()),
    }
}
