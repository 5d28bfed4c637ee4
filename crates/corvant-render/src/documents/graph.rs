//! A picture of the graph, version 1: nodes and edges by number, and cycle groups.

use super::terms::{Aim, Thing};
use super::{Each, PROGRAM, Place, Version, Worded};
use crate::drawn;
use crate::out::Out;
use corvant_core::answers::picture::{Drawn, Manner, Picture, PictureEdge, Sort, StandsFor};
use corvant_core::finding::Severity;
use corvant_core::wiring::Wiring;
use schemars::JsonSchema;
use serde::Serialize;
use std::io;

/// Writes nodes, edges and cycle groups; edges and cycle groups speak of nodes by their place in the list.
pub fn write(picture: &Picture, wiring: &Wiring, out: &mut Out<'_>) -> io::Result<()> {
    let document = GraphDocument {
        corvant: PROGRAM,
        graph: Version,
        nodes: Each::new(&picture.nodes, |node| Node {
            name: drawn::name(node),
            thing: match &node.stands_for {
                StandsFor::Thing(thing) => Some(thing.into()),
                _ => None,
            },
            missing: match &node.stands_for {
                StandsFor::Missing(aim) => Some(aim.into()),
                _ => None,
            },
            sort: Worded(node.sort),
            module: node.module.as_deref(),
            fault: node.fault.map(Worded),
            place: node.place.as_ref().map(|place| Place::new(wiring, place)),
        }),
        edges: Each::new(&picture.edges, |edge| Edge {
            from: edge.from,
            to: edge.to,
            manner: Worded(edge.manner),
            slots: &edge.slots,
            needs: edge.count,
        }),
        cycle_groups: &picture.cycle_groups,
    };
    super::write(&document, out)
}

/// The graph, or a part of it. Edges and cycle groups speak of nodes by their place in the list, from 0.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "graph", deny_unknown_fields)]
pub struct GraphDocument<'a> {
    /// The version of the program.
    corvant: &'static str,
    /// The version of this format.
    graph: Version<1>,
    nodes: Each<'a, Drawn, Node<'a>>,
    edges: Each<'a, PictureEdge, Edge<'a>>,
    /// Sets of nodes that all need one another.
    cycle_groups: &'a [Vec<usize>],
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "node", deny_unknown_fields)]
struct Node<'a> {
    /// What stands on it.
    name: String,
    /// What it is, if it is a node of the whole graph.
    #[serde(skip_serializing_if = "Option::is_none")]
    thing: Option<Thing<'a>>,
    /// What is needed there and not found.
    #[serde(skip_serializing_if = "Option::is_none")]
    missing: Option<Aim<'a>>,
    sort: Worded<Sort>,
    /// The module that defines it.
    module: Option<&'a str>,
    /// The worst finding that blames it.
    fault: Option<Worded<Severity>>,
    /// Where it is defined.
    place: Option<Place<'a>>,
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "edge", deny_unknown_fields)]
struct Edge<'a> {
    from: usize,
    to: usize,
    /// How it is met.
    manner: Worded<Manner>,
    /// The slots that it fills.
    slots: &'a [String],
    /// How many needs it stands for.
    needs: usize,
}
