//! A picture in the DOT language.

use super::label;
use crate::drawn::name;
use crate::out::{Out, is_unsafe};
use corvant_core::answers::picture::{Drawn, Manner, Picture, Sort};
use corvant_core::finding::Severity;
use std::io::{self, Write};

/// Writes a digraph that reads from left to right; cycle groups are clusters.
pub fn write(picture: &Picture, note: Option<&str>, out: &mut Out<'_>) -> io::Result<()> {
    writeln!(out, "digraph wiring {{")?;
    writeln!(out, "  rankdir=LR;")?;
    if let Some(note) = note {
        writeln!(out, "  label={};", quoted(note))?;
    }
    writeln!(out, "  node [shape=box, style=rounded, fontname=\"sans-serif\"];")?;
    for (number, node) in picture.nodes.iter().enumerate() {
        writeln!(out, "  n{number} [{}];", attributes(node))?;
    }
    for (number, cycle_group) in picture.cycle_groups.iter().enumerate() {
        let members: Vec<String> = cycle_group.iter().map(|node| format!("n{node}")).collect();
        writeln!(
            out,
            "  subgraph cluster_{number} {{ label=\"cycle group of {}\"; style=dashed; color=firebrick; {}; }}",
            cycle_group.len(),
            members.join("; ")
        )?;
    }
    for line in &picture.edges {
        let style = match line.manner {
            Manner::Building => "style=solid",
            Manner::Later => "style=dashed",
            Manner::Lazy => "style=dotted",
            Manner::Optional => "style=solid, arrowhead=empty",
            Manner::Member => "style=solid, arrowhead=odot",
            Manner::Unmet => "style=bold, color=firebrick, arrowhead=tee",
        };
        writeln!(out, "  n{} -> n{} [{style}, label={}];", line.from, line.to, quoted(&label(line)))?;
    }
    writeln!(out, "}}")
}

fn attributes(node: &Drawn) -> String {
    let shape = match node.sort {
        Sort::Entry => "shape=oval",
        Sort::Provider => "shape=parallelogram",
        Sort::Service => "shape=box",
        Sort::Group => "shape=cds",
        Sort::Question => "shape=diamond",
        Sort::Module => "shape=tab",
        Sort::Missing => "shape=box, style=dashed",
    };
    let fault = match node.fault {
        Some(Severity::Error) => ", color=firebrick, penwidth=3, peripheries=2",
        Some(Severity::Warning) => ", color=darkorange, penwidth=2",
        Some(Severity::Note) => ", color=steelblue, penwidth=2",
        None => "",
    };
    let text = match (&node.module, node.sort) {
        (_, Sort::Missing) => format!("missing: {}", name(node)),
        (Some(module), _) => format!("{}\n{module}", name(node)),
        (None, _) => name(node),
    };
    format!("label={}, {shape}{fault}", quoted(&text))
}

/// A text as a string of the language.
fn quoted(text: &str) -> String {
    let mut quoted = String::from("\"");
    for character in text.chars() {
        match character {
            '"' => quoted.push_str("\\\""),
            '\\' => quoted.push_str("\\\\"),
            '\n' => quoted.push_str("\\n"),
            character if is_unsafe(character) => quoted.push('␦'),
            character => quoted.push(character),
        }
    }
    quoted.push('"');
    quoted
}
