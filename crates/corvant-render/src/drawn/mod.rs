//! Pictures of the graph: open formats for other tools, and one that is drawn here.

pub mod dot;
pub mod graphml;
pub mod mermaid;
pub mod svg;
pub mod text;

use corvant_core::answers::picture::PictureEdge;

/// What stands beside an edge: its slots, or how many needs it stands for.
fn label(line: &PictureEdge) -> String {
    const LISTED: usize = 3;
    match (line.slots.as_slice(), line.count) {
        ([], 1) => String::new(),
        ([], count) => format!("×{count}"),
        (slots, _) if slots.len() <= LISTED => slots.join(", "),
        (slots, _) => format!("{}, … {} more", slots[..LISTED].join(", "), slots.len() - LISTED),
    }
}
