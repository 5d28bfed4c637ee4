//! A picture as a Mermaid flowchart, for pages that draw it themselves.

use super::label;
use crate::drawn::name;
use crate::out::{Out, is_unsafe};
use corvant_core::answers::picture::{Drawn, Manner, Picture, Sort};
use corvant_core::finding::Severity;
use std::io::{self, Write};

/// Writes a flowchart that reads from left to right; cycle groups are subgraphs.
pub fn write(picture: &Picture, note: Option<&str>, out: &mut Out<'_>) -> io::Result<()> {
    writeln!(out, "flowchart LR")?;
    if let Some(note) = note {
        writeln!(out, "  %% {}", note.replace('\n', " "))?;
    }
    let cycle_group_of = picture.cycle_group_of();
    for (number, node) in
        picture.nodes.iter().enumerate().filter(|(number, _)| cycle_group_of[*number].is_none())
    {
        writeln!(out, "  n{number}{}", shape(node))?;
    }
    for (number, cycle_group) in picture.cycle_groups.iter().enumerate() {
        writeln!(out, "  subgraph cycle_group{number} [\"cycle group of {}\"]", cycle_group.len())?;
        for &node in cycle_group {
            writeln!(out, "    n{node}{}", shape(&picture.nodes[node]))?;
        }
        writeln!(out, "  end")?;
    }
    for line in &picture.edges {
        let arrow = match line.manner {
            Manner::Building => "-->",
            Manner::Later | Manner::Lazy => "-.->",
            Manner::Optional => "--o",
            Manner::Member => "==>",
            Manner::Unmet => "--x",
        };
        let word = if line.manner == Manner::Lazy { "lazy " } else { "" };
        let text = format!("{word}{}", label(line));
        let text = if text.trim().is_empty() { String::new() } else { format!("|\"{}\"|", escaped(&text)) };
        writeln!(out, "  n{} {arrow}{text} n{}", line.from, line.to)?;
    }
    writeln!(out, "  classDef error stroke:#b3261e,stroke-width:3px")?;
    writeln!(out, "  classDef warning stroke:#a15c00,stroke-width:2px")?;
    writeln!(out, "  classDef missing stroke:#b3261e,stroke-dasharray:5 3")?;
    for (number, node) in picture.nodes.iter().enumerate() {
        let class = match (node.sort, node.fault) {
            (Sort::Missing, _) => "missing",
            (_, Some(Severity::Error)) => "error",
            (_, Some(Severity::Warning)) => "warning",
            _ => continue,
        };
        writeln!(out, "  class n{number} {class}")?;
    }
    Ok(())
}

fn shape(node: &Drawn) -> String {
    let fault = match node.fault {
        Some(Severity::Error) if node.sort != Sort::Missing => "⚠ ",
        _ => "",
    };
    let name = format!("{fault}{}", escaped(&name(node)));
    match node.sort {
        Sort::Entry => format!("([\"{name}\"])"),
        Sort::Provider => format!("[/\"{name}\"/]"),
        Sort::Service => format!("(\"{name}\")"),
        Sort::Group => format!(">\"{name}\"]"),
        Sort::Question => format!("{{\"{name}?\"}}"),
        Sort::Module => format!("[[\"{name}\"]]"),
        Sort::Missing => format!("[\"missing: {name}\"]"),
    }
}

/// Text within quotes: the language writes quotes as entities.
fn escaped(text: &str) -> String {
    let mut escaped = String::with_capacity(text.len());
    for character in text.chars() {
        match character {
            '"' => escaped.push_str("#quot;"),
            '#' => escaped.push_str("#35;"),
            '<' => escaped.push_str("#lt;"),
            '>' => escaped.push_str("#gt;"),
            character if is_unsafe(character) => escaped.push(' '),
            character => escaped.push(character),
        }
    }
    escaped
}
