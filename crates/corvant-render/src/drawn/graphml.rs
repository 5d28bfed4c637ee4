//! A picture in the format of `GraphML`.

use super::svg::escaped;
use crate::drawn::name;
use crate::out::Out;
use corvant_core::answers::picture::Picture;
use std::io::{self, Write};

/// What is said of nodes and edges: where it belongs, its name and its type.
const KEYS: [(&str, &str, &str); 8] = [
    ("node", "name", "string"),
    ("node", "sort", "string"),
    ("node", "module", "string"),
    ("node", "fault", "string"),
    ("node", "cycle_group", "int"),
    ("edge", "manner", "string"),
    ("edge", "slots", "string"),
    ("edge", "needs", "int"),
];

/// Writes a directed graph with the names, sorts and modules of its nodes and the manners of its edges.
pub fn write(picture: &Picture, out: &mut Out<'_>) -> io::Result<()> {
    writeln!(out, "<?xml version=\"1.0\" encoding=\"UTF-8\"?>")?;
    writeln!(out, "<graphml xmlns=\"http://graphml.graphdrawing.org/xmlns\">")?;
    for (of, key, kind) in KEYS {
        writeln!(out, "  <key id=\"{key}\" for=\"{of}\" attr.name=\"{key}\" attr.type=\"{kind}\"/>")?;
    }
    writeln!(out, "  <graph id=\"wiring\" edgedefault=\"directed\">")?;
    let cycle_group_of = picture.cycle_group_of();
    for (number, node) in picture.nodes.iter().enumerate() {
        writeln!(out, "    <node id=\"n{number}\">")?;
        let data = [
            ("name", Some(name(node))),
            ("sort", Some(node.sort.word().to_owned())),
            ("module", node.module.clone()),
            ("fault", node.fault.map(|fault| fault.word().to_owned())),
            ("cycle_group", cycle_group_of[number].map(|cycle_group| cycle_group.to_string())),
        ];
        write_data(out, data)?;
        writeln!(out, "    </node>")?;
    }
    for (number, line) in picture.edges.iter().enumerate() {
        writeln!(out, "    <edge id=\"e{number}\" source=\"n{}\" target=\"n{}\">", line.from, line.to)?;
        let slots = (!line.slots.is_empty()).then(|| line.slots.join(", "));
        let data = [
            ("manner", Some(line.manner.word().to_owned())),
            ("slots", slots),
            ("needs", Some(line.count.to_string())),
        ];
        write_data(out, data)?;
        writeln!(out, "    </edge>")?;
    }
    writeln!(out, "  </graph>\n</graphml>")
}

fn write_data(
    out: &mut Out<'_>,
    data: impl IntoIterator<Item = (&'static str, Option<String>)>,
) -> io::Result<()> {
    for (key, value) in data {
        if let Some(value) = value {
            writeln!(out, "      <data key=\"{key}\">{}</data>", escaped(&value))?;
        }
    }
    Ok(())
}
