//! Cycle groups as rings: where members stand, and the arcs between them.

use super::layers::{HEIGHT, size};
use super::line::Line;
use super::{LARGEST_RING, Point, Rectangle, matrix};
use corvant_core::answers::picture::Picture;
use std::collections::BTreeSet;
use std::f64::consts::TAU;

/// Columns that the widest name of some takes.
fn widest(picture: &Picture, members: &[usize]) -> f64 {
    members.iter().map(|&member| size(&picture.nodes[member]).x).fold(0.0, f64::max)
}

/// Rings of more members are two columns with round ends: on an ellipse they would lie over one another.
const ON_ELLIPSE: usize = 4;
/// From one member of such a column to the next.
const RING_STEP: f64 = HEIGHT + 30.0;

/// Wide enough that names beside one another do not touch, high enough that those above one another do not.
pub(super) fn ring_radii(picture: &Picture, members: &[usize]) -> Point {
    let count = members.len();
    let wide = if count > ON_ELLIPSE { 0.85 } else { 0.62 };
    let x = (widest(picture, members) * wide).max(70.0) + 12.0;
    let rows = count.div_ceil(2) as f64;
    let y = if count > ON_ELLIPSE { rows * RING_STEP / 2.0 } else { (count as f64 * 15.0).max(44.0) };
    Point { x, y }
}

/// Where a member stands, from the middle of its ring: clockwise, from the top.
pub(super) fn on_ring(at: usize, count: usize, radii: Point) -> Point {
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

pub(super) fn block_size(picture: &Picture, members: &[usize]) -> Point {
    if let [only] = members {
        return size(&picture.nodes[*only]);
    }
    if members.len() > LARGEST_RING {
        return matrix::space(picture, members);
    }
    let radii = ring_radii(picture, members);
    Point { x: 2.0 * radii.x + widest(picture, members), y: 2.0 * radii.y + HEIGHT + 40.0 }
}

/// The members of a cycle group in an order in which each leads to the next where it can.
pub(super) fn around(picture: &Picture, members: &[usize]) -> Vec<usize> {
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

/// Between two members of a small ring, bent outwards; a node that needs itself has a loop.
pub(super) fn arc(from: Rectangle, to: Rectangle, center: Point) -> Line {
    if from == to {
        let (x, y) = (from.at.x + from.size.x, from.at.y + from.size.y / 2.0);
        let point = |dx: f64, dy: f64| Point { x: x + dx, y: y + dy };
        return Line::from(point(0.0, -7.0)).bend(point(30.0, -22.0), point(30.0, 22.0), point(0.0, 7.0));
    }
    let (one, other) = (from.middle(), to.middle());
    let halfway = Point { x: f64::midpoint(one.x, other.x), y: f64::midpoint(one.y, other.y) };
    let (out_x, out_y) = (halfway.x - center.x, halfway.y - center.y);
    // Two that need one another have one arc on each side.
    let (across_x, across_y) = (other.y - one.y, one.x - other.x);
    let length = across_x.hypot(across_y).max(1.0);
    let bend = Point {
        x: halfway.x + 0.35 * out_x - across_x / length * 26.0,
        y: halfway.y + 0.35 * out_y - across_y / length * 26.0,
    };
    if is_in(from, bend) || is_in(to, bend) {
        // So near that there is no room to bend.
        return Line::from(on_edge(from, other)).arc(halfway, on_edge(to, one));
    }
    Line::from(on_edge(from, bend)).arc(bend, on_edge(to, bend))
}

/// Between two members that stand in columns: beside the column to one of the same, between the columns to one of the
/// other.
pub(super) fn beside(from: Rectangle, to: Rectangle, center: Point, outer: f64) -> Line {
    let (one, other) = (from.middle(), to.middle());
    let is_right = |at: Point| at.x > center.x;
    let inner = |of: Rectangle| {
        let x = if is_right(of.middle()) { of.at.x } else { of.at.x + of.size.x };
        Point { x, y: of.middle().y }
    };
    if is_right(one) != is_right(other) {
        // To and fro on different heights.
        let shift = if is_right(one) { -5.0 } else { 5.0 };
        let lower = |at: Point| Point { x: at.x, y: at.y + shift };
        let (start, end) = (lower(inner(from)), lower(inner(to)));
        let middle = f64::midpoint(start.x, end.x);
        return Line::from(start).bend(Point { x: middle, y: start.y }, Point { x: middle, y: end.y }, end);
    }
    let rows = ((one.y - other.y) / RING_STEP).abs();
    if rows < 1.5 {
        let is_down = other.y > one.y;
        let x = f64::midpoint(one.x, other.x) + if is_down { 9.0 } else { -9.0 };
        let edge =
            |of: Rectangle, is_lower: bool| Point { x, y: of.at.y + if is_lower { of.size.y } else { 0.0 } };
        let (start, end) = (edge(from, is_down), edge(to, !is_down));
        return Line::from(start).arc(Point { x, y: f64::midpoint(start.y, end.y) }, end);
    }
    let side = if is_right(one) { 1.0 } else { -1.0 };
    let edge = |of: Rectangle| {
        let middle = of.middle();
        Point { x: middle.x + side * of.size.x / 2.0, y: middle.y }
    };
    let (start, end) = (edge(from), edge(to));
    // A curve of this kind goes three quarters of the way to what draws it.
    let out = center.x + side * outer;
    let drawn = |at: Point| Point { x: at.x + (out - at.x) * 4.0 / 3.0 + side * (6.0 + 5.0 * rows), y: at.y };
    Line::from(start).bend(drawn(start), drawn(end), end)
}

/// Whether members of a ring of so many stand in columns.
pub(super) fn is_in_columns(members: usize) -> bool {
    members > ON_ELLIPSE
}

/// How far members reach from the middle.
pub(super) fn outer(picture: &Picture, members: &[usize]) -> f64 {
    ring_radii(picture, members).x + widest(picture, members) / 2.0
}

fn is_in(of: Rectangle, point: Point) -> bool {
    const NEAR: f64 = 3.0;
    let beside = (point.x - of.middle().x).abs() < of.size.x / 2.0 + NEAR;
    beside && (point.y - of.middle().y).abs() < of.size.y / 2.0 + NEAR
}

/// Where the way from a box's middle to a point leaves the box.
fn on_edge(of: Rectangle, towards: Point) -> Point {
    let middle = of.middle();
    let (dx, dy) = (towards.x - middle.x, towards.y - middle.y);
    let scale = (of.size.x / 2.0 / dx.abs().max(0.01)).min(of.size.y / 2.0 / dy.abs().max(0.01)).min(1.0);
    Point { x: middle.x + dx * scale, y: middle.y + dy * scale }
}
