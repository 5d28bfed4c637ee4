//! A picture as JSON: nodes and edges by number, and cycle groups.

use crate::out::Out;
use corvant_core::answers::picture::{Drawn, Picture, PictureEdge};
use corvant_core::finding::Severity;
use corvant_core::wiring::Wiring;
use serde_json::{Value, json};
use std::io::{self, Write};

/// Writes nodes, edges and cycle groups; edges and cycle groups speak of nodes by their place in the list.
pub fn write(picture: &Picture, wiring: &Wiring, out: &mut Out<'_>) -> io::Result<()> {
    let node = |node: &Drawn| {
        let place = node.place.as_ref().map(|place| {
            let source = &wiring.sources[place.source.index()];
            let position = source.position(place.span.start);
            json!({ "file": source.path, "line": position.line, "column": position.column })
        });
        json!({
            "name": node.name,
            "sort": node.sort.word(),
            "module": node.module,
            "fault": node.fault.map(Severity::word),
            "place": place,
        })
    };
    let edge = |line: &PictureEdge| {
        json!({
            "from": line.from,
            "to": line.to,
            "manner": line.manner.word(),
            "slots": line.slots,
            "needs": line.count,
        })
    };
    let value = json!({
        "nodes": picture.nodes.iter().map(node).collect::<Value>(),
        "edges": picture.edges.iter().map(edge).collect::<Value>(),
        "cycle_groups": picture.cycle_groups,
    });
    serde_json::to_writer_pretty(out.json(), &value)?;
    out.write_all(b"\n")
}
