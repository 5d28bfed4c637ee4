//! One connected part of a picture: layers from left to right, cycle groups as blocks.
//!
//! After K. Sugiyama, S. Tagawa and M. Toda, "Methods for visual understanding of hierarchical system structures"
//! (1981): layers by longest ways, points where long edges cross layers, an order within layers by the means of
//! neighbours. A cycle group is one block, its members on an ellipse or in a matrix, so that what is left has no cycles.
//! Edges bend between layers only: within a layer they run straight, past the boxes that are not theirs.

use super::line::Line;
use super::matrix::{self, Matrix};
use super::ring::{self, around, block_size, on_ring, ring_radii};
use super::{LARGEST_RING, Layout, Point, Rectangle, Ring, Stroke};
use crate::drawn::{LETTERS, name};
use corvant_core::answers::picture::{Drawn, Picture};
use std::collections::BTreeSet;

/// Height of a box.
pub(super) const HEIGHT: f64 = 34.0;
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

/// Lays out a picture of which every node is connected with every other.
pub(super) fn lay_out(picture: &Picture) -> Layout {
    let mut plan = Plan::new(picture);
    plan.assign_layers();
    let routes = plan.route();
    plan.order();
    plan.place();
    plan.finish(picture, &routes)
}

struct Plan {
    blocks: Vec<Block>,
    /// By node its block.
    block_of: Vec<usize>,
    /// Blocks of each layer, from top to bottom.
    layers: Vec<Vec<usize>>,
    /// Edges between blocks, each once.
    edges: BTreeSet<(usize, usize)>,
    /// By layer where its column begins and ends.
    columns: Vec<(f64, f64)>,
}

/// The size of a node's box: its name, its module, and room for a sign.
pub(super) fn size(node: &Drawn) -> Point {
    let letters = name(node).chars().count().min(LETTERS);
    let module = node.module.as_deref().map_or(0, |module| module.chars().count().min(LETTERS));
    let sign = if node.fault.is_some() { 20.0 } else { 0.0 };
    Point { x: (letters as f64 * LETTER).max(module as f64 * 5.8) + 34.0 + sign, y: HEIGHT }
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
            let members = match members.len() {
                1 => members,
                2..=LARGEST_RING => around(picture, &members),
                _ => matrix::ordered(picture, &members),
            };
            let size = block_size(picture, &members);
            let center = Point { x: 0.0, y: 0.0 };
            blocks.push(Block { members, layer: 0, size, center, left: Vec::new(), right: Vec::new() });
        }
        let ends = picture.edges.iter().map(|line| (block_of[line.from], block_of[line.to]));
        let edges = ends.filter(|(from, to)| from != to).collect();
        Self { blocks, block_of, layers: Vec::new(), edges, columns: Vec::new() }
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
            self.columns.push((x, x + width));
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
        let mut layout = Layout::empty(picture.nodes.len());
        for block in self.blocks.iter().filter(|block| !block.members.is_empty()) {
            block.stand(picture, &mut layout);
        }
        for line in &picture.edges {
            let (from, to) = (self.block_of[line.from], self.block_of[line.to]);
            let stroke = if from == to {
                let boxes = (layout.boxes[line.from], layout.boxes[line.to]);
                Stroke { line: self.blocks[from].inner_line(picture, boxes), in_ring: line.from != line.to }
            } else {
                let at = routes.binary_search_by_key(&(from, to), |(ends, _)| *ends);
                let route = at.map_or(&[][..], |at| routes[at].1.as_slice());
                let inner = route.get(1..route.len().saturating_sub(1)).unwrap_or_default();
                Stroke { line: self.way(&layout.boxes, line.from, inner, line.to), in_ring: false }
            };
            layout.strokes.push(stroke);
        }
        layout.fit();
        layout
    }

    /// The line from one box to another over points between. In a column it runs straight, at a height where nothing
    /// of its own block is in its way; between columns it bends.
    fn way(&self, boxes: &[Rectangle], from: usize, points: &[usize], to: usize) -> Line {
        let (start, end) = (boxes[from], boxes[to]);
        let (first, last) = (&self.blocks[self.block_of[from]], &self.blocks[self.block_of[to]]);
        let leave = Point { x: start.at.x + start.size.x, y: start.middle().y };
        let arrive = Point { x: end.at.x, y: end.middle().y };
        let right = first.center.x + first.size.x / 2.0;
        let left = last.center.x - last.size.x / 2.0;
        let mut line = Line::from(leave);
        let height = first.clear_height(boxes, from, leave.y, (leave.x, right));
        if (height - leave.y).abs() > 0.1 {
            line = line.sweep(Point { x: leave.x + BEND, y: height });
        }
        line = line.along(self.columns[first.layer].1);
        for &point in points {
            let block = &self.blocks[point];
            let (begin, end) = self.columns[block.layer];
            line = line.sweep(Point { x: begin, y: block.center.y }).along(end);
        }
        let height = last.clear_height(boxes, to, arrive.y, (left, arrive.x));
        line = line.sweep(Point { x: self.columns[last.layer].0, y: height });
        if (height - arrive.y).abs() > 0.1 {
            return line.along(arrive.x - BEND).sweep(arrive);
        }
        line.along(arrive.x)
    }
}

/// How far an edge bends beside a box of a ring.
const BEND: f64 = 26.0;
/// Space that edges leave to boxes that they pass.
const CLEAR: f64 = 7.0;

impl Block {
    /// Puts its members where they stand.
    fn stand(&self, picture: &Picture, layout: &mut Layout) {
        let count = self.members.len();
        if count > LARGEST_RING {
            layout.matrices.push(Matrix::new(picture, &self.members, self.center, &mut layout.boxes));
            return;
        }
        let radii = ring_radii(picture, &self.members);
        for (at, &member) in self.members.iter().enumerate() {
            let size = size(&picture.nodes[member]);
            let out = on_ring(at, count, radii);
            let center = Point { x: self.center.x + out.x, y: self.center.y + out.y };
            layout.boxes[member] = Rectangle::around(center, size);
        }
        if count > 1 {
            let top = radii.y + HEIGHT / 2.0;
            layout.rings.push(Ring { center: self.center, radii, members: count, top });
        }
    }

    /// The line between two of its members; none where they stand in a matrix.
    fn inner_line(&self, picture: &Picture, (from, to): (Rectangle, Rectangle)) -> Line {
        if self.members.len() > LARGEST_RING {
            Line::from(self.center)
        } else if ring::is_in_columns(self.members.len()) && from != to {
            ring::beside(from, to, self.center, ring::outer(picture, &self.members))
        } else {
            ring::arc(from, to, self.center)
        }
    }

    /// The height nearest to `wish` at which a line over a stretch meets no member but one.
    fn clear_height(&self, boxes: &[Rectangle], but: usize, wish: f64, over: (f64, f64)) -> f64 {
        if self.members.len() > LARGEST_RING {
            return wish;
        }
        let others = self.members.iter().filter(|&&member| member != but).map(|&member| boxes[member]);
        let in_way: Vec<(f64, f64)> = others
            .filter(|one| one.at.x < over.1 && one.at.x + one.size.x > over.0)
            .map(|one| (one.at.y - CLEAR, one.at.y + one.size.y + CLEAR))
            .collect();
        let is_clear = |height: &f64| !in_way.iter().any(|(top, bottom)| top < height && height < bottom);
        let heights = in_way.iter().flat_map(|&(top, bottom)| [top, bottom]).chain([wish]).filter(is_clear);
        let nearest = heights.min_by(|one, other| (one - wish).abs().total_cmp(&(other - wish).abs()));
        nearest.unwrap_or(wish)
    }
}
