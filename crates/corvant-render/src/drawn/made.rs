//! Pictures for tests.

use corvant_core::answers::picture::{Drawn, Manner, Picture, PictureEdge, Sort, StandsFor};

/// So many services of names of many lengths, with edges and groups among them.
pub(crate) fn picture(names: usize, edges: &[(usize, usize)], cycle_groups: &[Vec<usize>]) -> Picture {
    let node = |number: usize| Drawn {
        stands_for: StandsFor::Module(Some(format!("service.{}", "x".repeat(number % 30)))),
        sort: Sort::Service,
        module: None,
        fault: None,
        is_center: false,
        place: None,
    };
    let line = |&(from, to): &(usize, usize)| PictureEdge {
        from,
        to,
        manner: Manner::Building,
        slots: Vec::new(),
        count: 1,
    };
    Picture {
        nodes: (0..names).map(node).collect(),
        edges: edges.iter().map(line).collect(),
        cycle_groups: cycle_groups.to_vec(),
    }
}
