//! Large cycle groups as matrices: a row for each that needs, a column for each that is needed.

use super::{Point, Rectangle};
use crate::drawn::{name, order};
use corvant_core::answers::picture::Picture;

/// The side of a cell.
pub(crate) const CELL: f64 = 15.0;
/// Letters of a row's name.
pub(crate) const LETTERS: usize = 30;
const LETTER: f64 = 6.6;
/// Space above the rows for the numbers of the columns.
const HEAD: f64 = 16.0;

/// A group of which every member needs every other, over others.
#[derive(Clone, Debug)]
pub(crate) struct Matrix {
    /// Where all of it stands.
    pub(crate) space: Rectangle,
    /// Its members in the order of rows and columns.
    pub(crate) members: Vec<usize>,
    /// Where the first cell begins.
    pub(crate) cells: Point,
}

/// The members of a group in the order in which they would be built if the fewest of their needs had to wait.
pub(super) fn ordered(picture: &Picture, members: &[usize]) -> Vec<usize> {
    order::within(picture, members)
}

fn labels(picture: &Picture, members: &[usize]) -> f64 {
    let letters =
        members.iter().map(|&member| name(&picture.nodes[member]).chars().count().min(LETTERS)).max();
    // A number stands before the name.
    letters.unwrap_or(0) as f64 * LETTER + 34.0
}

/// The space of a matrix of so many members.
pub(super) fn space(picture: &Picture, members: &[usize]) -> Point {
    let side = members.len() as f64 * CELL;
    Point { x: labels(picture, members) + side + 10.0, y: HEAD + side + 8.0 }
}

impl Matrix {
    /// A matrix around a point; the box of each member is its row.
    pub(super) fn new(picture: &Picture, members: &[usize], center: Point, boxes: &mut [Rectangle]) -> Self {
        let space = Rectangle::around(center, space(picture, members));
        let cells = Point { x: space.at.x + labels(picture, members), y: space.at.y + HEAD };
        for (row, &member) in members.iter().enumerate() {
            let at = Point { x: space.at.x, y: cells.y + row as f64 * CELL };
            boxes[member] = Rectangle { at, size: Point { x: space.size.x, y: CELL } };
        }
        Self { space, members: members.to_vec(), cells }
    }
}
