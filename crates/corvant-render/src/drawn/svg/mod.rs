//! A picture as SVG, drawn by the program itself: a layered graph, or a matrix where a graph would be a tangle.

mod matrix;
mod pen;

pub use matrix::write as write_matrix;
pub(crate) use pen::escaped;

use super::layout::{Layout, Page, Point};
use super::{label, name};
use crate::out::Out;
use corvant_core::answers::picture::{Manner, Picture, PictureEdge, Sort};
use corvant_core::finding::Severity;
use pen::Pen;
use std::collections::HashSet;
use std::io;

/// Space around everything.
const MARGIN: f64 = 24.0;
/// Height of a line of the legend.
const LEGEND: f64 = 26.0;

/// Draws a layered graph, read from left to right: who needs stands left of what it needs; cycle groups are rings, and
/// large ones matrices.
pub fn write(picture: &Picture, note: Option<&str>, out: &mut Out<'_>) -> io::Result<()> {
    let page = Page::new(picture);
    let legend = Legend::of(picture);
    let width = page.size.x.max(legend.width()) + 2.0 * MARGIN;
    let notes = if note.is_some() { LEGEND } else { 0.0 };
    let height = page.size.y + 3.0 * MARGIN + legend.height() + notes;
    let mut pen = Pen::new(out);
    pen.begin(width, height)?;
    for part in &page.parts {
        let shift = part.shift();
        pen.group(MARGIN + shift.x, MARGIN + shift.y)?;
        draw_part(&mut pen, &part.picture, &part.layout)?;
        pen.end_group()?;
    }
    pen.group(MARGIN, page.size.y + 2.0 * MARGIN)?;
    legend.draw(&mut pen)?;
    if let Some(note) = note {
        pen.label(Point { x: 0.0, y: legend.height() + 16.0 }, "note", note, 160)?;
    }
    pen.end_group()?;
    pen.end()
}

/// Rings below boxes, and edges above them: an arrow's head is never hidden.
fn draw_part(pen: &mut Pen<'_, '_>, picture: &Picture, layout: &Layout) -> io::Result<()> {
    for ring in &layout.rings {
        pen.ring(ring.center, ring.radii, "ring")?;
        pen.text(
            Point { x: ring.center.x, y: ring.center.y - ring.top - 6.0 },
            "ring-label",
            &format!("cycle group of {}", ring.members),
        )?;
    }
    for matrix in &layout.matrices {
        matrix::draw_group(pen, picture, matrix)?;
    }
    let in_matrix: HashSet<usize> =
        layout.matrices.iter().flat_map(|matrix| &matrix.members).copied().collect();
    for (number, (node, &place)) in picture.nodes.iter().zip(&layout.boxes).enumerate() {
        if !in_matrix.contains(&number) {
            pen.node(node, place)?;
        }
    }
    for (line, stroke) in picture.edges.iter().zip(&layout.strokes) {
        if !stroke.line.is_empty() {
            let place = if stroke.in_ring { " in-ring" } else { "" };
            let class = format!("edge {}{place}", line.manner.word());
            pen.path(&stroke.line.drawn(), &class, &title(picture, line))?;
        }
    }
    Ok(())
}

/// Who needs whom, and how.
fn title(picture: &Picture, line: &PictureEdge) -> String {
    let (from, to) = (name(&picture.nodes[line.from]), name(&picture.nodes[line.to]));
    format!("{from} → {to}: {} ({})", label(line), line.manner.word())
}

/// What the signs of this picture mean: only those that are in it.
struct Legend {
    sorts: Vec<Sort>,
    manners: Vec<Manner>,
    faults: Vec<Severity>,
}

const STEP: f64 = 172.0;

impl Legend {
    fn of(picture: &Picture) -> Self {
        let has = |sort: &Sort| picture.nodes.iter().any(|node| node.sort == *sort);
        let sorts = Sort::ALL.into_iter().filter(has).collect();
        let has = |manner: &Manner| picture.edges.iter().any(|line| line.manner == *manner);
        let manners = Manner::ALL.into_iter().filter(has).collect();
        let has = |fault: &Severity| picture.nodes.iter().any(|node| node.fault == Some(*fault));
        let faults = Severity::ALL.into_iter().filter(has).collect();
        Self { sorts, manners, faults }
    }

    fn width(&self) -> f64 {
        self.sorts.len().max(self.manners.len()).max(self.faults.len()) as f64 * STEP
    }

    fn height(&self) -> f64 {
        let lines = [self.sorts.len(), self.manners.len(), self.faults.len()];
        lines.iter().filter(|count| **count > 0).count() as f64 * LEGEND
    }

    fn draw(&self, pen: &mut Pen<'_, '_>) -> io::Result<()> {
        let mut y = 0.0;
        for (number, &sort) in self.sorts.iter().enumerate() {
            let x = number as f64 * STEP;
            pen.outline(sort, Point { x, y }, Point { x: 26.0, y: 16.0 })?;
            pen.text(Point { x: x + 34.0, y: y + 12.0 }, "legend", sort_words(sort))?;
        }
        y += if self.sorts.is_empty() { 0.0 } else { LEGEND };
        for (number, &manner) in self.manners.iter().enumerate() {
            let x = number as f64 * STEP;
            let drawn = format!("M{x:.1} {:.1} L{:.1} {:.1}", y + 8.0, x + 24.0, y + 8.0);
            pen.path(&drawn, &format!("edge {}", manner.word()), manner.word())?;
            pen.text(Point { x: x + 34.0, y: y + 12.0 }, "legend", manner_words(manner))?;
        }
        y += if self.manners.is_empty() { 0.0 } else { LEGEND };
        for (number, &fault) in self.faults.iter().enumerate() {
            let x = number as f64 * STEP;
            pen.badge(fault, Point { x: x + 12.0, y: y + 8.0 })?;
            pen.text(Point { x: x + 34.0, y: y + 12.0 }, "legend", fault.word())?;
        }
        Ok(())
    }
}

fn sort_words(sort: Sort) -> &'static str {
    match sort {
        Sort::Group => "tag, or all offering",
        Sort::Question => "unsettled contract",
        Sort::Missing => "missing",
        sort => sort.word(),
    }
}

fn manner_words(manner: Manner) -> &'static str {
    match manner {
        Manner::Building => "while building",
        Manner::Later => "after building",
        Manner::Lazy => "on first use",
        Manner::Optional => "may be absent",
        Manner::Member => "one of several",
        Manner::Unmet => "not met",
    }
}
