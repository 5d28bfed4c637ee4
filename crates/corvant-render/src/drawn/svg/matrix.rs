//! A matrix: who needs whom, where a graph of all would be a tangle.

use super::MARGIN;
use super::pen::Point;
use super::pen::{Pen, shortened};
use crate::drawn::name;
use crate::out::Out;
use corvant_core::answers::picture::Picture;
use std::collections::BTreeMap;
use std::io;

/// Rows and columns that are drawn; the rest is counted in a line below.
const MOST: usize = 300;
/// Numbers are written into cells up to so many rows.
const WITH_NUMBERS: usize = 60;
const LABELS: f64 = 230.0;
/// Letters of a column's name.
const STEEP: usize = 26;

/// Draws a row for each node that needs and a column for each that is needed, in the order of their names. The
/// darker a cell, the more needs; cells within a cycle group have an outline.
pub fn write(picture: &Picture, note: Option<&str>, out: &mut Out<'_>) -> io::Result<()> {
    let count = picture.nodes.len().min(MOST);
    let cell = if count <= WITH_NUMBERS { 20.0 } else { 11.0 };
    let side = cell * count as f64;
    let letters = picture.nodes.iter().map(|node| name(node).chars().count().min(STEEP)).max().unwrap_or(0);
    let above = letters as f64 * 5.8 + 12.0;
    let (width, height) = (LABELS + side + 2.0 * MARGIN + 60.0, above + side + 3.0 * MARGIN + 40.0);
    let mut needs: BTreeMap<(usize, usize), usize> = BTreeMap::new();
    for line in &picture.edges {
        *needs.entry((line.from, line.to)).or_default() += line.count;
    }
    let most = needs.values().copied().max().unwrap_or(1) as f64;
    let cycle_group_of = picture.cycle_group_of();
    let mut pen = Pen::new(out);
    pen.begin(width, height)?;
    pen.group(MARGIN + LABELS, MARGIN + above)?;
    for (at, node) in picture.nodes.iter().take(count).enumerate() {
        let middle = (at as f64 + 0.5) * cell;
        pen.text(Point { x: -8.0, y: middle + 4.0 }, "legend row", &shortened(&name(node), 32))?;
        pen.steep_text(Point { x: middle + 3.0, y: -6.0 }, "legend", &shortened(&name(node), STEEP))?;
        let line = |from: Point, to: Point| format!("M{:.1} {:.1} L{:.1} {:.1}", from.x, from.y, to.x, to.y);
        let (start, along) = (at as f64 * cell, Point { x: side, y: at as f64 * cell });
        pen.path(&line(Point { x: 0.0, y: start }, along), "grid", "")?;
        pen.path(&line(Point { x: start, y: 0.0 }, Point { x: start, y: side }), "grid", "")?;
    }
    for (&(from, to), &count_here) in needs.iter().filter(|((from, to), _)| *from < count && *to < count) {
        let share = (count_here as f64).ln_1p() / most.ln_1p();
        let is_in_cycle =
            from != to && cycle_group_of[from].is_some() && cycle_group_of[from] == cycle_group_of[to];
        let class = if is_in_cycle { "cell in-cycle" } else { "cell" };
        let light = 92.0 - 50.0 * share;
        let at = Point { x: to as f64 * cell + 1.0, y: from as f64 * cell + 1.0 };
        let size = Point { x: cell - 2.0, y: cell - 2.0 };
        pen.rectangle(at, size, class, &format!("hsl(210 45% {light:.0}%)"))?;
        if count <= WITH_NUMBERS {
            let text = Point { x: at.x + size.x / 2.0, y: at.y + size.y / 2.0 + 3.2 };
            pen.text(text, "count", &count_here.to_string())?;
        }
    }
    let left_out = picture.nodes.len() - count;
    let more = if left_out > 0 { format!("; {left_out} more are not drawn") } else { String::new() };
    let caption = format!("a row needs a column, so many times; a red outline: within a cycle group{more}");
    pen.text(Point { x: -LABELS, y: side + 24.0 }, "legend", &caption)?;
    if let Some(note) = note {
        pen.text(Point { x: -LABELS, y: side + 42.0 }, "note", &shortened(note, 160))?;
    }
    pen.end_group()?;
    pen.end()
}
