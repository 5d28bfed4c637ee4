//! A picture as lines of text: each node with what it needs.

use crate::drawn::name;
use crate::out::{Out, safe};
use crate::text::words::counted;
use crate::text::{BOLD, DIM, Layout};
use corvant_core::answers::picture::{Manner, Picture};
use std::io::{self, Write};

/// Writes a line for each node and, below it, one for each that it needs; then cycle groups and a count.
pub fn write(picture: &Picture, note: Option<&str>, layout: Layout, out: &mut Out<'_>) -> io::Result<()> {
    let mut edges = picture.edges.iter().peekable();
    for (number, node) in picture.nodes.iter().enumerate() {
        let module = node.module.as_ref().map_or_else(String::new, |module| format!(", {}", safe(module)));
        let fault = node.fault.map_or_else(String::new, |fault| format!("  ({})", fault.word()));
        layout.paint(out, BOLD, &safe(&name(node)))?;
        write!(out, "  ")?;
        layout.paint(out, DIM, &format!("{}{module}", node.sort.word()))?;
        writeln!(out, "{fault}")?;
        while let Some(line) = edges.next_if(|line| line.from == number) {
            let label = super::label(line);
            let label = if label.is_empty() { label } else { format!("  {}", safe(&label)) };
            let manner = if line.manner == Manner::Building {
                String::new()
            } else {
                format!("  ({})", line.manner.word())
            };
            write!(out, "  → {}", safe(&name(&picture.nodes[line.to])))?;
            layout.paint(out, DIM, &format!("{label}{manner}"))?;
            writeln!(out)?;
        }
    }
    for cycle_group in &picture.cycle_groups {
        let names: Vec<String> = cycle_group.iter().map(|&node| name(&picture.nodes[node])).collect();
        writeln!(out, "cycle group of {}: {}", cycle_group.len(), safe(&names.join(" ⇄ ")))?;
    }
    let (nodes, lines) = (picture.nodes.len(), picture.edges.len());
    writeln!(out, "{}, {}", counted(nodes, "node", "nodes"), counted(lines, "edge", "edges"))?;
    note.map_or(Ok(()), |note| writeln!(out, "{note}"))
}
