//! Modules and how often they need one another.

use super::strings::Strings;
use crate::drawn::name;
use crate::drawn::order::build_order;
use corvant_core::answers::View;
use corvant_core::answers::picture::{Frame, picture};
use corvant_core::audit::Report;
use serde::Serialize;
use std::collections::BTreeMap;

/// A matrix: rows need columns.
#[derive(Default, Serialize)]
pub(super) struct Modules {
    /// Names in the order in which modules are built.
    name: Vec<u32>,
    /// By module the number of its set of modules that all need one another; 0: it is in none.
    group: Vec<u32>,
    /// The worst finding that blames a module, by number; -1: none.
    fault: Vec<i64>,
    row: Vec<u32>,
    column: Vec<u32>,
    count: Vec<u32>,
}

impl Modules {
    pub(super) fn new(view: &View<'_>, report: &Report, strings: &mut Strings) -> Self {
        let picture = picture(view, &Frame { by_module: true, ..Frame::default() }, report);
        let sets = build_order(&picture);
        let mut modules = Self::default();
        let mut row_of = vec![0_u32; picture.nodes.len()];
        let mut groups = 0;
        for set in &sets {
            let is_group = set.len() > 1;
            groups += u32::from(is_group);
            for &node in set {
                row_of[node] = modules.name.len() as u32;
                modules.name.push(strings.number(&name(&picture.nodes[node])));
                modules.group.push(if is_group { groups } else { 0 });
                modules.fault.push(picture.nodes[node].fault.map_or(-1, |fault| fault as i64));
            }
        }
        let mut cells: BTreeMap<(u32, u32), u32> = BTreeMap::new();
        for edge in &picture.edges {
            *cells.entry((row_of[edge.from], row_of[edge.to])).or_default() += edge.count as u32;
        }
        for ((row, column), count) in cells {
            modules.row.push(row);
            modules.column.push(column);
            modules.count.push(count);
        }
        modules
    }
}
