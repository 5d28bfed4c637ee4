//! Where everything stands: layers from left to right, cycle groups as rings.
//!
//! After K. Sugiyama, S. Tagawa and M. Toda, "Methods for visual understanding of hierarchical system structures"
//! (1981): layers by longest ways, points where long edges cross layers, an order within layers by the means of
//! neighbours. A cycle group is one block, its members on an ellipse, so that what is left has no cycles.

use super::pen::{LETTERS, Point};
use crate::drawn::name;
use corvant_core::answers::picture::{Drawn, Picture};
use std::collections::BTreeSet;
use std::f64::consts::TAU;
use std::fmt::Write;

/// A cycle group's ring.
pub(super) struct Ring {
    pub(super) center: Point,
    pub(super) radii: Point,
    pub(super) members: usize,
    /// How far its members reach above the middle.
    pub(super) top: f64,
}

/// An edge as it is drawn.
pub(super) struct Path {
    pub(super) drawn: String,
    pub(super) in_ring: bool,
}

/// Where nodes, rings and edges stand.
pub(super) struct Layout {
    /// By node its upper left corner and its size.
    pub(super) boxes: Vec<(Point, Point)>,
    pub(super) rings: Vec<Ring>,
    /// By edge.
    pub(super) paths: Vec<Path>,
    pub(super) width: f64,
    pub(super) height: f64,
}

const HEIGHT: f64 = 34.0;
const LETTER: f64 = 7.3;
const GAP: f64 = 14.0;
const BETWEEN_LAYERS: f64 = 70.0;
/// Sweeps that order layers, and that move blocks towards their neighbours.
const SWEEPS: usize = 12;

/// A node, a cycle group, or a point where an edge crosses a layer.
struct Block {
    members: Vec<usize>,
    layer: usize,
    size: Point,
    center: Point,
    /// Blocks of the layers before and after that it has edges with.
    left: Vec<usize>,
    right: Vec<usize>,
}

impl Layout {
    pub(super) fn new(picture: &Picture) -> Self {
        let mut plan = Plan::new(picture);
        plan.assign_layers();
        let routes = plan.route();
        plan.order();
        plan.place();
        plan.finish(picture, &routes)
    }
}

struct Plan {
    blocks: Vec<Block>,
    /// By node its block.
    block_of: Vec<usize>,
    /// Blocks of each layer, from top to bottom.
    layers: Vec<Vec<usize>>,
    /// Edges between blocks, each once.
    edges: BTreeSet<(usize, usize)>,
}

fn size(node: &Drawn) -> Point {
    let letters = name(node).chars().count().min(LETTERS);
    let module = node.module.as_deref().map_or(0, |module| module.chars().count().min(LETTERS));
    Point { x: (letters as f64 * LETTER).max(module as f64 * 5.8) + 34.0, y: HEIGHT }
}

impl Plan {
    fn new(picture: &Picture) -> Self {
        let mut block_of = vec![usize::MAX; picture.nodes.len()];
        let mut blocks = Vec::new();
        let alone = (0..picture.nodes.len()).map(|node| vec![node]);
        for members in picture.cycle_groups.iter().cloned().chain(alone) {
            if block_of[members[0]] != usize::MAX {
                continue;
            }
            for &member in &members {
                block_of[member] = blocks.len();
            }
            let size = block_size(picture, &members);
            let members = if members.len() > 1 { around(picture, &members) } else { members };
            let center = Point { x: 0.0, y: 0.0 };
            blocks.push(Block { members, layer: 0, size, center, left: Vec::new(), right: Vec::new() });
        }
        let ends = picture.edges.iter().map(|line| (block_of[line.from], block_of[line.to]));
        let edges = ends.filter(|(from, to)| from != to).collect();
        Self { blocks, block_of, layers: Vec::new(), edges }
    }

    /// Every block stands as far left as what needs it allows; then what needs others moves next to them.
    fn assign_layers(&mut self) {
        let count = self.blocks.len();
        let (mut right, mut missing) = (vec![Vec::new(); count], vec![0_usize; count]);
        for &(from, to) in &self.edges {
            right[from].push(to);
            missing[to] += 1;
        }
        let mut ready: Vec<usize> = (0..count).filter(|&block| missing[block] == 0).collect();
        let mut order = Vec::with_capacity(count);
        while let Some(block) = ready.pop() {
            order.push(block);
            for &to in &right[block] {
                self.blocks[to].layer = self.blocks[to].layer.max(self.blocks[block].layer + 1);
                missing[to] -= 1;
                if missing[to] == 0 {
                    ready.push(to);
                }
            }
        }
        for &block in order.iter().rev() {
            let nearest = right[block].iter().map(|&to| self.blocks[to].layer).min();
            if let Some(nearest) = nearest {
                self.blocks[block].layer = self.blocks[block].layer.max(nearest - 1);
            }
        }
    }

    /// Gives every edge a point in each layer that it crosses, and says over which blocks each edge runs.
    fn route(&mut self) -> Vec<((usize, usize), Vec<usize>)> {
        let mut routes = Vec::new();
        for (from, to) in std::mem::take(&mut self.edges) {
            let mut route = vec![from];
            for layer in self.blocks[from].layer + 1..self.blocks[to].layer {
                let size = Point { x: 0.0, y: 4.0 };
                let center = Point { x: 0.0, y: 0.0 };
                self.blocks.push(Block {
                    members: Vec::new(),
                    layer,
                    size,
                    center,
                    left: Vec::new(),
                    right: Vec::new(),
                });
                route.push(self.blocks.len() - 1);
            }
            route.push(to);
            for pair in route.windows(2) {
                self.blocks[pair[0]].right.push(pair[1]);
                self.blocks[pair[1]].left.push(pair[0]);
            }
            routes.push(((from, to), route));
        }
        routes
    }

    /// Orders each layer by the means of neighbours, in sweeps to and fro; the best of all sweeps stays.
    fn order(&mut self) {
        let layers = self.blocks.iter().map(|block| block.layer + 1).max().unwrap_or(0);
        self.layers = vec![Vec::new(); layers];
        for (number, block) in self.blocks.iter().enumerate() {
            self.layers[block.layer].push(number);
        }
        let (mut best, mut fewest) = (self.layers.clone(), self.crossings());
        for sweep in 0..SWEEPS {
            let is_forward = sweep % 2 == 0;
            let numbers: Vec<usize> = if is_forward {
                (1..layers).collect()
            } else {
                (0..layers.saturating_sub(1)).rev().collect()
            };
            for layer in numbers {
                let beside = if is_forward { layer - 1 } else { layer + 1 };
                let mut place = vec![0_usize; self.blocks.len()];
                for (at, &block) in self.layers[beside].iter().enumerate() {
                    place[block] = at;
                }
                let mut keyed: Vec<(f64, usize, usize)> = self.layers[layer]
                    .iter()
                    .enumerate()
                    .map(|(at, &block)| {
                        let neighbours =
                            if is_forward { &self.blocks[block].left } else { &self.blocks[block].right };
                        let sum: usize = neighbours.iter().map(|&other| place[other]).sum();
                        let mean = sum as f64 / neighbours.len() as f64;
                        (if neighbours.is_empty() { at as f64 } else { mean }, at, block)
                    })
                    .collect();
                keyed.sort_by(|one, other| one.0.total_cmp(&other.0).then(one.1.cmp(&other.1)));
                self.layers[layer] = keyed.into_iter().map(|(_, _, block)| block).collect();
            }
            let crossings = self.crossings();
            if crossings < fewest {
                (best, fewest) = (self.layers.clone(), crossings);
            }
        }
        self.layers = best;
    }

    /// How many pairs of edges cross, counted from layer to layer over the edges in their order.
    fn crossings(&self) -> usize {
        let mut place = vec![0_usize; self.blocks.len()];
        for layer in &self.layers {
            for (at, &block) in layer.iter().enumerate() {
                place[block] = at;
            }
        }
        let mut sum = 0;
        for layer in &self.layers {
            let mut ends: Vec<usize> = Vec::new();
            for &block in layer {
                let mut here: Vec<usize> = self.blocks[block].right.iter().map(|&to| place[to]).collect();
                here.sort_unstable();
                sum += here
                    .iter()
                    .map(|end| ends.len() - ends.partition_point(|other| other <= end))
                    .sum::<usize>();
                ends.extend(here);
                ends.sort_unstable();
            }
        }
        sum
    }

    /// Columns next to one another; within a column every block as near to its neighbours as the others let it.
    fn place(&mut self) {
        let mut x = 0.0;
        for layer in &self.layers {
            let width = layer.iter().map(|&block| self.blocks[block].size.x).fold(0.0, f64::max);
            let mut y = 0.0;
            for &block in layer {
                let block = &mut self.blocks[block];
                block.center = Point { x: x + width / 2.0, y: y + block.size.y / 2.0 };
                y += block.size.y + GAP;
            }
            x += width + BETWEEN_LAYERS;
        }
        for sweep in 0..2 * SWEEPS {
            let count = self.layers.len();
            for step in 0..count {
                let layer = if sweep % 2 == 0 { step } else { count - 1 - step };
                self.settle(layer, sweep % 2 == 0);
            }
        }
        let top =
            self.blocks.iter().map(|block| block.center.y - block.size.y / 2.0).fold(f64::MAX, f64::min);
        for block in &mut self.blocks {
            block.center.y -= top;
        }
    }

    /// Moves the blocks of a layer towards the means of their neighbours and apart again: neighbours of a run that
    /// would overlap share the mean of their wishes.
    fn settle(&mut self, layer: usize, is_forward: bool) {
        let mut runs: Vec<(f64, f64, Vec<usize>)> = Vec::new();
        for &number in &self.layers[layer] {
            let block = &self.blocks[number];
            let beside = match (is_forward, block.left.is_empty(), block.right.is_empty()) {
                (_, true, true) => None,
                (true, false, _) | (false, false, true) => Some(&block.left),
                _ => Some(&block.right),
            };
            let wish = beside.map_or(block.center.y, |beside| {
                beside.iter().map(|&other| self.blocks[other].center.y).sum::<f64>() / beside.len() as f64
            });
            // A run: the wish for its top, how many wish it, and who is in it.
            let mut run = (wish - block.size.y / 2.0, 1.0, vec![number]);
            while let Some(above) = runs.last() {
                let height: f64 = above.2.iter().map(|&other| self.blocks[other].size.y + GAP).sum();
                if above.0 + height <= run.0 {
                    break;
                }
                let weight = above.1 + run.1;
                let top = (above.0 * above.1 + (run.0 - height) * run.1) / weight;
                let mut members = above.2.clone();
                members.extend(&run.2);
                run = (top, weight, members);
                runs.pop();
            }
            runs.push(run);
        }
        for (top, _, members) in runs {
            let mut y = top;
            for number in members {
                let block = &mut self.blocks[number];
                block.center.y = y + block.size.y / 2.0;
                y += block.size.y + GAP;
            }
        }
    }

    fn finish(self, picture: &Picture, routes: &[((usize, usize), Vec<usize>)]) -> Layout {
        let mut boxes = vec![(Point { x: 0.0, y: 0.0 }, Point { x: 0.0, y: 0.0 }); picture.nodes.len()];
        let mut rings = Vec::new();
        for block in self.blocks.iter().filter(|block| !block.members.is_empty()) {
            let count = block.members.len();
            let radii = ring_radii(picture, &block.members);
            for (at, &member) in block.members.iter().enumerate() {
                let size = size(&picture.nodes[member]);
                let out = on_ring(at, count, radii);
                let center = Point { x: block.center.x + out.x, y: block.center.y + out.y };
                boxes[member] = (Point { x: center.x - size.x / 2.0, y: center.y - size.y / 2.0 }, size);
            }
            if count > 1 {
                let top = radii.y + HEIGHT / 2.0;
                rings.push(Ring { center: block.center, radii, members: count, top });
            }
        }
        let paths = picture.edges.iter().map(|line| {
            let (from, to) = (self.block_of[line.from], self.block_of[line.to]);
            if from == to {
                let center = self.blocks[from].center;
                return Path {
                    drawn: arc(boxes[line.from], boxes[line.to], center),
                    in_ring: line.from != line.to,
                };
            }
            let at = routes.binary_search_by_key(&(from, to), |(ends, _)| *ends);
            let route = at.map_or(&[][..], |at| routes[at].1.as_slice());
            let inner = route.get(1..route.len().saturating_sub(1)).unwrap_or_default();
            let points: Vec<Point> = inner.iter().map(|&block| self.blocks[block].center).collect();
            Path { drawn: curve(boxes[line.from], &points, boxes[line.to]), in_ring: false }
        });
        let paths = paths.collect();
        let extent = |of: fn(&Block) -> f64| self.blocks.iter().map(of).fold(0.0, f64::max);
        let width = extent(|block| block.center.x + block.size.x / 2.0);
        let height = extent(|block| block.center.y + block.size.y / 2.0);
        Layout { boxes, rings, paths, width, height }
    }
}

fn widest(picture: &Picture, members: &[usize]) -> f64 {
    members.iter().map(|&member| size(&picture.nodes[member]).x).fold(0.0, f64::max)
}

/// Rings of more members are two columns with round ends: on an ellipse they would lie over one another.
const ON_ELLIPSE: usize = 4;
/// From one member of such a column to the next.
const RING_STEP: f64 = HEIGHT + 30.0;

/// Wide enough that names beside one another do not touch, high enough that those above one another do not.
fn ring_radii(picture: &Picture, members: &[usize]) -> Point {
    let count = members.len();
    let wide = if count > ON_ELLIPSE { 0.85 } else { 0.62 };
    let x = (widest(picture, members) * wide).max(70.0) + 12.0;
    let rows = count.div_ceil(2) as f64;
    let y = if count > ON_ELLIPSE { rows * RING_STEP / 2.0 } else { (count as f64 * 15.0).max(44.0) };
    Point { x, y }
}

/// Where a member stands, from the middle of its ring: clockwise, from the top.
fn on_ring(at: usize, count: usize, radii: Point) -> Point {
    match count {
        1 => Point { x: 0.0, y: 0.0 },
        2..=ON_ELLIPSE => {
            let turn = at as f64 / count as f64 * TAU - TAU / 4.0;
            Point { x: radii.x * turn.cos(), y: radii.y * turn.sin() }
        }
        _ => {
            let rows = count.div_ceil(2);
            let (row, side) = if at < rows { (at, 1.0) } else { (2 * rows - 1 - at, -1.0) };
            Point { x: side * radii.x, y: (row as f64 - (rows - 1) as f64 / 2.0) * RING_STEP }
        }
    }
}

fn block_size(picture: &Picture, members: &[usize]) -> Point {
    if let [only] = members {
        return size(&picture.nodes[*only]);
    }
    let radii = ring_radii(picture, members);
    Point { x: 2.0 * radii.x + widest(picture, members), y: 2.0 * radii.y + HEIGHT + 40.0 }
}

/// The members of a cycle group in an order in which each leads to the next where it can.
fn around(picture: &Picture, members: &[usize]) -> Vec<usize> {
    let mut left: BTreeSet<usize> = members.iter().copied().collect();
    let mut order = Vec::with_capacity(members.len());
    let mut at = left.pop_first();
    while let Some(node) = at {
        order.push(node);
        let next = picture.edges.iter().find(|line| line.from == node && left.contains(&line.to));
        at = match next {
            Some(line) => left.take(&line.to),
            None => left.pop_first(),
        };
    }
    order
}

/// From the right side of one box to the left side of another, smoothly over points between.
fn curve(from: (Point, Point), points: &[Point], to: (Point, Point)) -> String {
    let start = Point { x: from.0.x + from.1.x, y: from.0.y + from.1.y / 2.0 };
    let end = Point { x: to.0.x, y: to.0.y + to.1.y / 2.0 };
    let mut drawn = format!("M{:.1} {:.1}", start.x, start.y);
    let mut before = start;
    for &point in points.iter().chain([&end]) {
        let bend = ((point.x - before.x) / 2.0).max(24.0);
        let (one, other) = (before.x + bend, point.x - bend);
        write!(drawn, " C{one:.1} {:.1} {other:.1} {:.1} {:.1} {:.1}", before.y, point.y, point.x, point.y)
            .expect("writing to a String");
        before = point;
    }
    drawn
}

/// Between two members of a ring, bent outwards; a node that needs itself has a loop.
fn arc(from: (Point, Point), to: (Point, Point), center: Point) -> String {
    let middle = |(at, size): (Point, Point)| Point { x: at.x + size.x / 2.0, y: at.y + size.y / 2.0 };
    if from == to {
        let (x, y) = (from.0.x + from.1.x, from.0.y + from.1.y / 2.0);
        return format!(
            "M{x:.1} {:.1} C{:.1} {:.1} {:.1} {:.1} {x:.1} {:.1}",
            y - 7.0,
            x + 30.0,
            y - 22.0,
            x + 30.0,
            y + 22.0,
            y + 7.0
        );
    }
    let (one, other) = (middle(from), middle(to));
    let halfway = Point { x: f64::midpoint(one.x, other.x), y: f64::midpoint(one.y, other.y) };
    let (out_x, out_y) = (halfway.x - center.x, halfway.y - center.y);
    // Two that need one another have one arc on each side.
    let (across_x, across_y) = (other.y - one.y, one.x - other.x);
    let length = across_x.hypot(across_y).max(1.0);
    let bend = Point {
        x: halfway.x + 0.35 * out_x - across_x / length * 26.0,
        y: halfway.y + 0.35 * out_y - across_y / length * 26.0,
    };
    let (start, end) = (on_edge(from.0, from.1, bend), on_edge(to.0, to.1, bend));
    format!("M{:.1} {:.1} Q{:.1} {:.1} {:.1} {:.1}", start.x, start.y, bend.x, bend.y, end.x, end.y)
}

/// Where the way from a box's middle to a point leaves the box.
fn on_edge(at: Point, size: Point, towards: Point) -> Point {
    let middle = Point { x: at.x + size.x / 2.0, y: at.y + size.y / 2.0 };
    let (dx, dy) = (towards.x - middle.x, towards.y - middle.y);
    let scale = (size.x / 2.0 / dx.abs().max(0.01)).min(size.y / 2.0 / dy.abs().max(0.01)).min(1.0);
    Point { x: middle.x + dx * scale, y: middle.y + dy * scale }
}

#[cfg(test)]
mod tests {
    use super::*;
    use corvant_core::answers::picture::{Manner, PictureEdge, Sort, StandsFor};
    use corvant_testing::corpus::Random;
    use rstest::rstest;

    fn picture(names: usize, edges: &[(usize, usize)], cycle_groups: &[Vec<usize>]) -> Picture {
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

    fn overlap(one: (Point, Point), other: (Point, Point)) -> bool {
        let apart = |start: f64, size: f64, other: f64, other_size: f64| {
            start + size <= other || other + other_size <= start
        };
        let ((at, size), (to, to_size)) = (one, other);
        !apart(at.x, size.x, to.x, to_size.x) && !apart(at.y, size.y, to.y, to_size.y)
    }

    fn assert_readable(picture: &Picture) {
        let layout = Layout::new(picture);
        for (number, &one) in layout.boxes.iter().enumerate() {
            let ((at, size), other) = (one, &layout.boxes[number + 1..]);
            assert!(at.x >= -0.1 && at.y >= -0.1, "{at:?} lies outside");
            assert!(at.x + size.x <= layout.width + 0.1 && at.y + size.y <= layout.height + 0.1);
            assert!(!other.iter().any(|&other| overlap(one, other)), "box {number} lies over another");
        }
        assert_eq!(layout.paths.len(), picture.edges.len());
        assert!(layout.paths.iter().all(|path| !path.drawn.contains("NaN")));
    }

    #[rstest]
    #[case::nothing(0, &[], &[])]
    #[case::one_that_needs_itself(1, &[(0, 0)], &[])]
    #[case::a_line(4, &[(0, 1), (1, 2), (2, 3)], &[])]
    #[case::two_lines_apart(4, &[(0, 1), (2, 3)], &[])]
    #[case::over_a_layer(3, &[(0, 1), (1, 2), (0, 2)], &[])]
    #[case::a_pair(3, &[(0, 1), (1, 0), (1, 2)], &[vec![0, 1]])]
    #[case::a_ring_of_three(4, &[(3, 0), (0, 1), (1, 2), (2, 0)], &[vec![0, 1, 2]])]
    #[case::a_ring_of_five(5, &[(0, 1), (1, 2), (2, 3), (3, 4), (4, 0)], &[vec![0, 1, 2, 3, 4]])]
    fn boxes_never_lie_over_one_another(
        #[case] nodes: usize,
        #[case] edges: &[(usize, usize)],
        #[case] cycle_groups: &[Vec<usize>],
    ) {
        assert_readable(&picture(nodes, edges, cycle_groups));
    }

    #[test]
    fn nor_do_those_of_large_pictures() {
        for seed in 0..40 {
            let mut random = Random::new(seed);
            let nodes = 2 + random.below(60);
            // Edges lead to later nodes, so that there are no cycle groups but the one that is made.
            let mut edges: Vec<(usize, usize)> = Vec::new();
            for _ in 0..random.below(2 * nodes) {
                let from = random.below(nodes - 1);
                edges.push((from, from + 1 + random.below(nodes - from - 1)));
            }
            let ring: Vec<usize> = (nodes..nodes + 2 + random.below(20)).collect();
            edges.extend(ring.iter().zip(ring.iter().cycle().skip(1)).map(|(&from, &to)| (from, to)));
            edges.push((0, ring[0]));
            assert_readable(&picture(nodes + ring.len(), &edges, &[ring]));
        }
    }

    #[test]
    fn who_needs_stands_left_of_what_it_needs() {
        let layout = Layout::new(&picture(5, &[(0, 1), (1, 2), (0, 3), (3, 2), (4, 2)], &[]));
        let left = |node: usize| layout.boxes[node].0.x;
        for (from, to) in [(0, 1), (1, 2), (0, 3), (3, 2), (4, 2)] {
            assert!(left(from) + layout.boxes[from].1.x < left(to), "{from} and {to}");
        }
    }
}
