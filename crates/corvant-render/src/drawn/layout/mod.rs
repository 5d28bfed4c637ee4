//! Where everything of a picture stands: what is connected is laid out by itself, and the parts fill the page.

mod layers;
mod line;
pub(crate) mod matrix;
mod ring;

use corvant_core::answers::picture::{Picture, PictureEdge};
use line::Line;
use matrix::Matrix;

/// Cycle groups of more members are drawn as matrices: a ring of them is a tangle.
pub(crate) const LARGEST_RING: usize = 12;
/// Space between parts that have nothing to do with one another.
const APART: f64 = 34.0;
/// How much wider than high a page is.
const SHAPE: f64 = 1.7;

/// A point, or a size.
#[derive(Clone, Copy, PartialEq, Debug, Default)]
pub(crate) struct Point {
    pub(crate) x: f64,
    pub(crate) y: f64,
}

/// A box: its upper left corner, and its size.
#[derive(Clone, Copy, PartialEq, Debug, Default)]
pub(crate) struct Rectangle {
    pub(crate) at: Point,
    pub(crate) size: Point,
}

impl Rectangle {
    /// A box around a point.
    fn around(center: Point, size: Point) -> Self {
        Self { at: Point { x: center.x - size.x / 2.0, y: center.y - size.y / 2.0 }, size }
    }

    fn middle(self) -> Point {
        Point { x: self.at.x + self.size.x / 2.0, y: self.at.y + self.size.y / 2.0 }
    }
}

/// A cycle group's ring.
#[derive(Clone, Debug)]
pub(crate) struct Ring {
    pub(crate) center: Point,
    pub(crate) radii: Point,
    pub(crate) members: usize,
    /// How far its members reach above the middle.
    pub(crate) top: f64,
}

/// An edge as it is drawn.
#[derive(Clone, Debug)]
pub(crate) struct Stroke {
    pub(crate) line: Line,
    pub(crate) in_ring: bool,
}

/// Where nodes, rings and edges of a connected part stand.
#[derive(Clone, Debug)]
pub(crate) struct Layout {
    /// By node.
    pub(crate) boxes: Vec<Rectangle>,
    pub(crate) rings: Vec<Ring>,
    pub(crate) matrices: Vec<Matrix>,
    /// By edge.
    pub(crate) strokes: Vec<Stroke>,
    /// All that it takes.
    pub(crate) space: Rectangle,
}

/// A connected part of a picture, and where on the page it stands.
#[derive(Clone, Debug)]
pub(crate) struct Part {
    pub(crate) picture: Picture,
    pub(crate) layout: Layout,
    /// Its nodes, by number in the whole picture.
    #[cfg(test)]
    nodes: Vec<usize>,
    at: Point,
}

impl Part {
    /// How far what is laid out has to move to stand on the page.
    pub(crate) fn shift(&self) -> Point {
        Point { x: self.at.x - self.layout.space.at.x, y: self.at.y - self.layout.space.at.y }
    }
}

/// A page with all parts of a picture.
#[derive(Clone, Debug)]
pub(crate) struct Page {
    pub(crate) parts: Vec<Part>,
    pub(crate) size: Point,
}

impl Layout {
    fn empty(nodes: usize) -> Self {
        Self {
            boxes: vec![Rectangle::default(); nodes],
            rings: Vec::new(),
            matrices: Vec::new(),
            strokes: Vec::new(),
            space: Rectangle::default(),
        }
    }

    /// Takes as much space as all that is in it.
    fn fit(&mut self) {
        /// What the label of a ring takes above it.
        const LABEL: f64 = 24.0;
        let rings = self.rings.iter().map(|ring| {
            let top = ring.center.y - ring.top - LABEL;
            let at = Point { x: ring.center.x - ring.radii.x, y: top };
            let height = ring.center.y + ring.radii.y - top;
            Rectangle { at, size: Point { x: 2.0 * ring.radii.x, y: height } }
        });
        let strokes = self.strokes.iter().map(|stroke| stroke.line.bounds());
        let matrices = self.matrices.iter().map(|matrix| matrix.space);
        let all = self.boxes.iter().copied().chain(rings).chain(strokes).chain(matrices);
        let around = all.reduce(|one, other| {
            let at = Point { x: one.at.x.min(other.at.x), y: one.at.y.min(other.at.y) };
            let end = |of: Rectangle| Point { x: of.at.x + of.size.x, y: of.at.y + of.size.y };
            let (end, other) = (end(one), end(other));
            Rectangle { at, size: Point { x: end.x.max(other.x) - at.x, y: end.y.max(other.y) - at.y } }
        });
        self.space = around.unwrap_or_default();
    }
}

impl Page {
    /// Lays out every connected part of a picture, and the parts beside and below one another.
    pub(crate) fn new(picture: &Picture) -> Self {
        let mut parts: Vec<Part> = connected(picture).iter().map(|nodes| part(picture, nodes)).collect();
        // High ones first: on a shelf with low ones they would leave the space below those empty.
        parts.sort_by(|one, other| other.layout.space.size.y.total_cmp(&one.layout.space.size.y));
        let size = on_shelves(&mut parts);
        Self { parts, size }
    }
}

/// The sets of nodes that edges connect, in whatever direction; each in order.
fn connected(picture: &Picture) -> Vec<Vec<usize>> {
    let mut beside: Vec<Vec<usize>> = vec![Vec::new(); picture.nodes.len()];
    for line in &picture.edges {
        beside[line.from].push(line.to);
        beside[line.to].push(line.from);
    }
    for group in &picture.cycle_groups {
        for pair in group.windows(2) {
            beside[pair[0]].push(pair[1]);
            beside[pair[1]].push(pair[0]);
        }
    }
    let mut is_seen = vec![false; beside.len()];
    let mut sets = Vec::new();
    for first in 0..beside.len() {
        if is_seen[first] {
            continue;
        }
        is_seen[first] = true;
        let mut set = vec![first];
        let mut next = 0;
        while next < set.len() {
            for &node in &beside[set[next]] {
                if !is_seen[node] {
                    is_seen[node] = true;
                    set.push(node);
                }
            }
            next += 1;
        }
        set.sort_unstable();
        sets.push(set);
    }
    sets
}

/// The part of a picture that some nodes are, laid out.
fn part(picture: &Picture, nodes: &[usize]) -> Part {
    let picture = cut_out(picture, nodes);
    let layout = layers::lay_out(&picture);
    Part {
        picture,
        layout,
        #[cfg(test)]
        nodes: nodes.to_vec(),
        at: Point::default(),
    }
}

/// The nodes of a picture that are listed, with the edges and groups among them.
pub(crate) fn cut_out(picture: &Picture, nodes: &[usize]) -> Picture {
    let number = |node: usize| nodes.binary_search(&node).ok();
    let edge = |line: &PictureEdge| {
        let (from, to) = (number(line.from)?, number(line.to)?);
        Some(PictureEdge { from, to, ..line.clone() })
    };
    let group = |group: &Vec<usize>| group.iter().map(|&node| number(node)).collect::<Option<Vec<usize>>>();
    Picture {
        nodes: nodes.iter().map(|&node| picture.nodes[node].clone()).collect(),
        edges: picture.edges.iter().filter_map(edge).collect(),
        cycle_groups: picture.cycle_groups.iter().filter_map(group).collect(),
    }
}

/// Puts parts on shelves, each as long as the page is wide; gives the size of the page.
fn on_shelves(parts: &mut [Part]) -> Point {
    let taken = |part: &Part| (part.layout.space.size.x + APART) * (part.layout.space.size.y + APART);
    let widest = parts.iter().map(|part| part.layout.space.size.x).fold(0.0, f64::max);
    let length = (parts.iter().map(taken).sum::<f64>() * SHAPE).sqrt().max(widest);
    let (mut at, mut shelf, mut page) = (Point::default(), 0.0_f64, Point::default());
    for part in parts {
        let size = part.layout.space.size;
        if at.x > 0.0 && at.x + size.x > length {
            at = Point { x: 0.0, y: at.y + shelf + APART };
            shelf = 0.0;
        }
        part.at = at;
        page = Point { x: page.x.max(at.x + size.x), y: page.y.max(at.y + size.y) };
        at.x += size.x + APART;
        shelf = shelf.max(size.y);
    }
    page
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::drawn::made::picture;
    use corvant_testing::corpus::Random;
    use rstest::rstest;

    fn overlap(one: Rectangle, other: Rectangle) -> bool {
        let apart = |start: f64, size: f64, other: f64, other_size: f64| {
            start + size <= other + 0.1 || other + other_size <= start + 0.1
        };
        !apart(one.at.x, one.size.x, other.at.x, other.size.x)
            && !apart(one.at.y, one.size.y, other.at.y, other.size.y)
    }

    fn assert_readable(picture: &Picture) {
        let page = Page::new(picture);
        let mut boxes = vec![Rectangle::default(); picture.nodes.len()];
        let mut edges = 0;
        for part in &page.parts {
            let shift = part.shift();
            let moved = |of: Rectangle| Rectangle {
                at: Point { x: of.at.x + shift.x, y: of.at.y + shift.y },
                size: of.size,
            };
            for (&node, &one) in part.nodes.iter().zip(&part.layout.boxes) {
                boxes[node] = moved(one);
            }
            edges += part.layout.strokes.len();
            for (stroke, line) in part.layout.strokes.iter().zip(&part.picture.edges) {
                assert!(!stroke.line.drawn().contains("NaN"));
                assert!(is_on(&page, moved(stroke.line.bounds())), "{line:?} is cut off");
            }
        }
        assert_eq!(edges, picture.edges.len());
        for (number, &one) in boxes.iter().enumerate() {
            assert!(is_on(&page, one), "{one:?} lies outside");
            assert!(
                !boxes[number + 1..].iter().any(|&other| overlap(one, other)),
                "box {number} lies over another"
            );
        }
    }

    fn is_on(page: &Page, one: Rectangle) -> bool {
        let (x, y) = (one.at.x + one.size.x, one.at.y + one.size.y);
        one.at.x >= -0.1 && one.at.y >= -0.1 && x <= page.size.x + 0.1 && y <= page.size.y + 0.1
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
    fn parts_that_have_nothing_to_do_with_one_another_fill_the_page() {
        let edges: Vec<(usize, usize)> = (0..24).flat_map(|pair| [(2 * pair, 2 * pair + 1)]).collect();
        let page = Page::new(&picture(48, &edges, &[]));
        assert_eq!(page.parts.len(), 24);
        assert!(page.size.x > 1.2 * page.size.y && page.size.x < 3.0 * page.size.y, "{:?}", page.size);
    }

    #[test]
    fn edges_pass_the_boxes_that_are_not_theirs() {
        for seed in 0..30 {
            let mut random = Random::new(seed);
            let nodes = 6 + random.below(30);
            let mut edges: Vec<(usize, usize)> = Vec::new();
            for _ in 0..2 * nodes {
                let from = random.below(nodes - 1);
                edges.push((from, from + 1 + random.below(nodes - from - 1)));
            }
            edges.sort_unstable();
            edges.dedup();
            for part in Page::new(&picture(nodes, &edges, &[])).parts {
                for (stroke, line) in part.layout.strokes.iter().zip(&part.picture.edges) {
                    for (node, one) in part.layout.boxes.iter().enumerate() {
                        let is_met = node != line.from
                            && node != line.to
                            && points(&stroke.line.drawn()).iter().any(|&point| is_in(point, *one));
                        assert!(!is_met, "seed {seed}: {line:?} runs over {node}");
                    }
                }
            }
        }
    }

    /// Points along a line, close together.
    fn points(drawn: &str) -> Vec<Point> {
        let numbers = |text: &str| -> Vec<f64> {
            text.split_whitespace().map(|number| number.parse().unwrap()).collect()
        };
        let mut points: Vec<Point> = Vec::new();
        for piece in pieces(drawn) {
            let (kind, of) = (piece.0, numbers(&piece.1));
            let from = points.last().copied().unwrap_or_default();
            match kind {
                'M' => points.push(Point { x: of[0], y: of[1] }),
                'L' => points.extend((1..=40).map(|step| {
                    let share = f64::from(step) / 40.0;
                    Point { x: from.x + (of[0] - from.x) * share, y: from.y + (of[1] - from.y) * share }
                })),
                'C' => points.extend((1..=40).map(|step| {
                    let t = f64::from(step) / 40.0;
                    let u = 1.0 - t;
                    let mix = |a: f64, b: f64, c: f64, d: f64| {
                        u * u * u * a + 3.0 * u * u * t * b + 3.0 * u * t * t * c + t * t * t * d
                    };
                    Point { x: mix(from.x, of[0], of[2], of[4]), y: mix(from.y, of[1], of[3], of[5]) }
                })),
                other => panic!("no {other} here"),
            }
        }
        points
    }

    fn pieces(drawn: &str) -> Vec<(char, String)> {
        let starts: Vec<usize> = drawn.match_indices(char::is_alphabetic).map(|(at, _)| at).collect();
        let ends = starts.iter().copied().skip(1).chain([drawn.len()]);
        let piece = |(start, end): (&usize, usize)| {
            (drawn[*start..].chars().next().unwrap(), drawn[start + 1..end].to_owned())
        };
        starts.iter().zip(ends).map(piece).collect()
    }

    fn is_in(point: Point, one: Rectangle) -> bool {
        point.x > one.at.x + 0.5
            && point.x < one.at.x + one.size.x - 0.5
            && point.y > one.at.y + 0.5
            && point.y < one.at.y + one.size.y - 0.5
    }

    #[test]
    fn who_needs_stands_left_of_what_it_needs() {
        let page = Page::new(&picture(5, &[(0, 1), (1, 2), (0, 3), (3, 2), (4, 2)], &[]));
        let layout = &page.parts[0].layout;
        let left = |node: usize| layout.boxes[node].at.x;
        for (from, to) in [(0, 1), (1, 2), (0, 3), (3, 2), (4, 2)] {
            assert!(left(from) + layout.boxes[from].size.x < left(to), "{from} and {to}");
        }
    }
}
