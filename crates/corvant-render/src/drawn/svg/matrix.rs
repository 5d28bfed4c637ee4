//! A matrix: who needs whom, where a graph of all would be a tangle.
//!
//! Rows and columns stand in the order in which things are built, what is needed first. So needs lie below the diagonal,
//! and those above it are the ones that break the order: they lie within cycle groups, which are framed.

use super::{MARGIN, Pen, title};
use crate::drawn::layout::Point;
use crate::drawn::layout::matrix::{CELL, LETTERS, Matrix};
use crate::drawn::name;
use crate::drawn::order::build_order;
use crate::out::Out;
use corvant_core::answers::picture::Picture;
use std::collections::{BTreeMap, HashMap};
use std::io;

/// Rows and columns that are drawn; the rest is counted in a line below.
const MOST: usize = 300;
/// Numbers are written into cells up to so many rows.
const WITH_NUMBERS: usize = 60;
const LABELS: f64 = 250.0;
/// Letters of a row's name, and of a column's.
const ROW: usize = 34;
const STEEP: usize = 26;
/// Space for a sum.
const SUM: f64 = 34.0;

/// Draws a row for each node that needs and a column for each that is needed. The darker a cell, the more needs.
pub fn write(picture: &Picture, note: Option<&str>, out: &mut Out<'_>) -> io::Result<()> {
    let sets = build_order(picture);
    let order: Vec<usize> = sets.iter().flatten().copied().take(MOST).collect();
    let count = order.len();
    let cell = if count <= WITH_NUMBERS { 20.0 } else { 13.0 };
    let side = cell * count as f64;
    let letters = picture.nodes.iter().map(|node| name(node).chars().count().min(STEEP)).max().unwrap_or(0);
    let above = letters as f64 * 5.8 + 34.0 + SUM;
    let (width, height) =
        (LABELS + side + 2.0 * MARGIN + 90.0 + SUM, above + side + 3.0 * MARGIN + SUM + 60.0);
    let mut pen = Pen::new(out);
    pen.begin(width, height)?;
    pen.group(MARGIN + LABELS, MARGIN + above)?;
    let row_of: HashMap<usize, usize> = order.iter().enumerate().map(|(row, &node)| (node, row)).collect();
    let needs = needs(picture, &row_of);
    draw_grid(&mut pen, picture, &order, &needs, cell)?;
    draw_cells(&mut pen, &needs, cell, count <= WITH_NUMBERS)?;
    draw_frames(&mut pen, &sets, count, cell)?;
    let left_out = picture.nodes.len() - count;
    let more = if left_out > 0 { format!("; {left_out} more are not drawn") } else { String::new() };
    let caption = format!(
        "rows and columns in the order in which they are built; a frame: all in it need one another; a red corner: \
         a need that breaks the order{more}"
    );
    pen.text(Point { x: -LABELS, y: side + 30.0 + SUM }, "legend", &caption)?;
    if let Some(note) = note {
        pen.label(Point { x: -LABELS, y: side + 50.0 + SUM }, "note", note, 160)?;
    }
    pen.end_group()?;
    pen.end()
}

/// How many needs a cell stands for, by row and column.
type Needs = BTreeMap<(usize, usize), usize>;

fn needs(picture: &Picture, row_of: &HashMap<usize, usize>) -> Needs {
    let mut needs = Needs::new();
    for line in &picture.edges {
        if let (Some(&row), Some(&column)) = (row_of.get(&line.from), row_of.get(&line.to)) {
            *needs.entry((row, column)).or_default() += line.count;
        }
    }
    needs
}

fn draw_grid(
    pen: &mut Pen<'_, '_>,
    picture: &Picture,
    order: &[usize],
    needs: &Needs,
    cell: f64,
) -> io::Result<()> {
    let side = cell * order.len() as f64;
    let (mut of_rows, mut of_columns) = (vec![0; order.len()], vec![0; order.len()]);
    for (&(row, column), &count) in needs.iter().filter(|((row, column), _)| row != column) {
        of_rows[row] += count;
        of_columns[column] += count;
    }
    let line = |from: Point, to: Point| format!("M{:.1} {:.1} L{:.1} {:.1}", from.x, from.y, to.x, to.y);
    pen.text(Point { x: -LABELS, y: -10.0 }, "axis", "who needs ↓, who is needed →")?;
    for (at, &node) in order.iter().enumerate() {
        let (start, middle) = (at as f64 * cell, (at as f64 + 0.5) * cell);
        let name = name(&picture.nodes[node]);
        pen.label(Point { x: -8.0, y: middle + 4.0 }, "legend row", &name, ROW)?;
        pen.steep_label(Point { x: middle + 3.0, y: -6.0 }, "legend", &name, STEEP)?;
        pen.rectangle(Point { x: start, y: start }, Point { x: cell, y: cell }, "diagonal", "none")?;
        pen.path(&line(Point { x: 0.0, y: start }, Point { x: side, y: start }), "grid", "")?;
        pen.path(&line(Point { x: start, y: 0.0 }, Point { x: start, y: side }), "grid", "")?;
        let sum = |count: usize| if count == 0 { "·".to_owned() } else { count.to_string() };
        pen.text(Point { x: side + SUM / 2.0, y: middle + 3.2 }, "sum", &sum(of_rows[at]))?;
        // Sums of neighbours stand on two heights: a number may be wider than its column.
        let below = if at % 2 == 0 { 12.0 } else { 22.0 };
        pen.text(Point { x: middle, y: side + below }, "sum", &sum(of_columns[at]))?;
    }
    pen.path(&line(Point { x: 0.0, y: side }, Point { x: side, y: side }), "grid", "")?;
    pen.path(&line(Point { x: side, y: 0.0 }, Point { x: side, y: side }), "grid", "")?;
    pen.text(Point { x: side + 4.0, y: -8.0 }, "number", "needs")?;
    pen.text(Point { x: -62.0, y: side + SUM / 2.0 }, "number", "is needed")
}

fn draw_cells(pen: &mut Pen<'_, '_>, needs: &Needs, cell: f64, with_numbers: bool) -> io::Result<()> {
    let most = needs.values().copied().max().unwrap_or(1) as f64;
    for (&(row, column), &count) in needs {
        let share = (count as f64).ln_1p() / most.ln_1p();
        let light = 92.0 - 50.0 * share;
        let at = Point { x: column as f64 * cell + 1.0, y: row as f64 * cell + 1.0 };
        let size = Point { x: cell - 2.0, y: cell - 2.0 };
        pen.rectangle(at, size, "cell", &format!("hsl(210 45% {light:.0}%)"))?;
        if column > row {
            let (right, corner) = (at.x + size.x, cell * 0.4);
            let drawn = format!(
                "M{:.1} {:.1} L{right:.1} {:.1} L{right:.1} {:.1} Z",
                right - corner,
                at.y,
                at.y,
                at.y + corner
            );
            pen.path(&drawn, "breaks", "breaks the order")?;
        }
        if with_numbers {
            let text = Point { x: at.x + size.x / 2.0, y: at.y + size.y / 2.0 + 3.2 };
            pen.text(text, "count", &count.to_string())?;
        }
    }
    Ok(())
}

/// A frame around each set of nodes that need one another.
fn draw_frames(pen: &mut Pen<'_, '_>, sets: &[Vec<usize>], count: usize, cell: f64) -> io::Result<()> {
    let mut first = 0;
    for set in sets {
        let shown = set.len().min(count.saturating_sub(first));
        if set.len() > 1 && shown > 0 {
            let (at, side) = (first as f64 * cell, shown as f64 * cell);
            pen.rectangle(Point { x: at, y: at }, Point { x: side, y: side }, "frame", "none")?;
        }
        first += set.len();
    }
    Ok(())
}

/// A large cycle group within a graph: numbered rows, and the numbers again above the columns.
pub(super) fn draw_group(pen: &mut Pen<'_, '_>, picture: &Picture, matrix: &Matrix) -> io::Result<()> {
    let Point { x, y } = matrix.cells;
    let side = matrix.members.len() as f64 * CELL;
    let group = format!("cycle group of {}", matrix.members.len());
    pen.text(Point { x: matrix.space.at.x, y: y - 5.0 }, "axis", &group)?;
    let row_of: HashMap<usize, usize> =
        matrix.members.iter().enumerate().map(|(row, &node)| (node, row)).collect();
    for (row, &node) in matrix.members.iter().enumerate() {
        let middle = (row as f64 + 0.5) * CELL;
        let label = format!("{} {}", row + 1, name(&picture.nodes[node]));
        pen.label(Point { x: matrix.space.at.x, y: y + middle + 4.0 }, "matrix-row", &label, LETTERS + 4)?;
        pen.text(Point { x: x + middle, y: y - 4.0 }, "sum", &(row + 1).to_string())?;
        let at = row as f64 * CELL;
        pen.rectangle(Point { x: x + at, y: y + at }, Point { x: CELL, y: CELL }, "diagonal", "none")?;
    }
    for line in &picture.edges {
        let (Some(&row), Some(&column)) = (row_of.get(&line.from), row_of.get(&line.to)) else { continue };
        if row != column {
            let class = if column > row { "breaks" } else { "cell" };
            let (left, top) = (x + column as f64 * CELL + 1.0, y + row as f64 * CELL + 1.0);
            let drawn =
                format!("M{left:.1} {top:.1} h{:.1} v{:.1} h-{:.1} Z", CELL - 2.0, CELL - 2.0, CELL - 2.0);
            pen.path(&drawn, &format!("{class} need-cell"), &title(picture, line))?;
        }
    }
    pen.rectangle(Point { x, y }, Point { x: side, y: side }, "frame", "none")
}
