//! A picture as JSON: nodes and edges by number, and knots.

use crate::out::Out;
use corvant_core::answers::picture::{Drawn, Line, Picture};
use corvant_core::finding::Severity;
use corvant_core::wiring::Wiring;
use serde_json::{Value, json};
use std::io::{self, Write};

/// Writes nodes, edges and knots; edges and knots speak of nodes by their place in the list.
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
    let edge = |line: &Line| {
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
        "knots": picture.knots,
    });
    serde_json::to_writer_pretty(out.json(), &value)?;
    out.write_all(b"\n")
}
