//! Lines of a picture, and the space they take.

use super::{Point, Rectangle};
use std::fmt::Write;

/// A line: where it begins, and its pieces.
#[derive(Clone, Debug)]
pub(crate) struct Line {
    start: Point,
    pieces: Vec<Piece>,
}

/// The next piece of a line.
#[derive(Clone, Copy, Debug)]
enum Piece {
    /// Straight on to a point.
    Straight(Point),
    /// On to the last of the points over one that draws it to it.
    Arc([Point; 2]),
    /// On to the last of the points over two others that draw it to them.
    Bend([Point; 3]),
}

impl Piece {
    fn points(&self) -> &[Point] {
        match self {
            Self::Straight(point) => std::slice::from_ref(point),
            Self::Arc(points) => points,
            Self::Bend(points) => points,
        }
    }
}

impl Line {
    /// A line that begins at a point.
    pub(super) fn from(start: Point) -> Self {
        Self { start, pieces: Vec::new() }
    }

    /// Whether there is nothing to draw.
    pub(crate) fn is_empty(&self) -> bool {
        self.pieces.is_empty()
    }

    fn end(&self) -> Point {
        self.pieces.last().and_then(|piece| piece.points().last()).copied().unwrap_or(self.start)
    }

    /// On to a point over two others that draw it to them.
    pub(super) fn bend(mut self, one: Point, other: Point, to: Point) -> Self {
        self.pieces.push(Piece::Bend([one, other, to]));
        self
    }

    /// On to a point over one that draws it to it.
    pub(super) fn arc(mut self, over: Point, to: Point) -> Self {
        self.pieces.push(Piece::Arc([over, to]));
        self
    }

    /// Straight on to the right, as far as `x`.
    pub(super) fn along(mut self, x: f64) -> Self {
        let end = self.end();
        if x > end.x {
            self.pieces.push(Piece::Straight(Point { x, y: end.y }));
        }
        self
    }

    /// On to a point, leaving to the right and coming from the left.
    pub(super) fn sweep(self, to: Point) -> Self {
        let from = self.end();
        let bend = ((to.x - from.x) / 2.0).max(12.0);
        self.bend(Point { x: from.x + bend, y: from.y }, Point { x: to.x - bend, y: to.y }, to)
    }

    /// The space that it takes.
    pub(super) fn bounds(&self) -> Rectangle {
        let (mut least, mut most) = (self.start, self.start);
        for point in self.pieces.iter().flat_map(Piece::points) {
            least = Point { x: least.x.min(point.x), y: least.y.min(point.y) };
            most = Point { x: most.x.max(point.x), y: most.y.max(point.y) };
        }
        Rectangle { at: least, size: Point { x: most.x - least.x, y: most.y - least.y } }
    }

    /// The line as SVG writes it.
    pub(crate) fn drawn(&self) -> String {
        self.moved(Point::default())
    }

    /// The same, moved.
    pub(crate) fn moved(&self, by: Point) -> String {
        let mut drawn = format!("M{:.1} {:.1}", self.start.x + by.x, self.start.y + by.y);
        for piece in &self.pieces {
            let letter = match piece {
                Piece::Straight(_) => 'L',
                Piece::Arc(_) => 'Q',
                Piece::Bend(_) => 'C',
            };
            for (number, point) in piece.points().iter().enumerate() {
                let before = if number == 0 { format!(" {letter}") } else { " ".to_owned() };
                write!(drawn, "{before}{:.1} {:.1}", point.x + by.x, point.y + by.y)
                    .expect("writing to a String");
            }
        }
        drawn
    }
}
