//! Strokes and letters: the elements of the picture and how they look.

use crate::drawn::layout::{Point, Rectangle};
use crate::drawn::{LETTERS, name, shortened};
use crate::out::{Out, is_unsafe};
use corvant_core::answers::picture::{Drawn, Sort};
use corvant_core::finding::Severity;
use std::io::{self, Write};

/// Signs have a shape of their own beside their colour, so that they can be told apart without it.
const STYLE: &str = "
text { font-family: 'DejaVu Sans', 'Segoe UI', system-ui, sans-serif; font-size: 12px; fill: #1d2733; }
.module { font-size: 9.5px; fill: #5b6673; }
.legend, .ring-label { font-size: 11px; fill: #3b4653; }
.ring-label, .column, .count { text-anchor: middle; }
.row { text-anchor: end; }
.note { font-size: 11px; fill: #3b4653; font-style: italic; }
.box { fill: #f6f8fa; stroke: #5b6673; stroke-width: 1.2; }
.box.entry { fill: #e6f0ea; } .box.provider { fill: #efeaf6; } .box.group { fill: #eef3f9; }
.box.question { fill: #fdf3dc; } .box.module-sort { fill: #f1efe8; }
.box.missing { fill: #ffffff; stroke: #a3271f; stroke-dasharray: 5 3; }
.box.center { stroke: #0b4f8a; stroke-width: 3; }
.box.error { stroke: #a3271f; stroke-width: 2.4; } .box.warning { stroke: #93600a; stroke-width: 2; }
.badge.error { fill: #a3271f; } .badge.warning { fill: #e0a526; } .badge.note { fill: #2f6db3; }
.badge-sign { font-size: 9px; font-weight: bold; fill: #ffffff; text-anchor: middle; }
.ring { fill: #fbeceb; stroke: #a3271f; stroke-width: 1.4; stroke-dasharray: 2 4; }
.edge { fill: none; stroke: #6b7683; stroke-width: 1.3; marker-end: url(#full); }
.edge.later { stroke-dasharray: 8 4; } .edge.lazy { stroke-dasharray: 1.5 4; stroke-linecap: round; stroke-width: 1.8; }
.edge.optional { marker-end: url(#open); stroke-width: 1; }
.edge.member { stroke-dasharray: 9 3 2 3; marker-end: url(#dot); }
.edge.unmet { stroke: #a3271f; stroke-width: 1.8; marker-end: url(#cross); }
.edge.in-ring { stroke: #a3271f; stroke-width: 2; marker-end: url(#ringed); }
.cell { stroke: none; } .grid { stroke: #e3e7eb; stroke-width: 1; } .cell.in-cycle { stroke: #a3271f; stroke-width: 2; }
.count { font-size: 9px; } .axis { font-size: 11px; font-weight: bold; fill: #3b4653; } .sum { font-size: 9px; fill: #5b6673; text-anchor: middle; }
.frame { fill: none; stroke: #a3271f; stroke-width: 1.6; } .diagonal { fill: #d9dee3; stroke: none; } .number { font-size: 9px; fill: #5b6673; }
.breaks { fill: #a3271f; stroke: none; } .matrix-row { font-size: 11px; } .cell.need-cell { fill: #7d9ab8; }
";

const MARKERS: &str = r##"<defs>
<marker id="full" viewBox="0 0 10 10" refX="9" refY="5" markerUnits="userSpaceOnUse" markerWidth="9" markerHeight="9" orient="auto"><path d="M0 1 L10 5 L0 9 Z" fill="#6b7683"/></marker>
<marker id="ringed" viewBox="0 0 10 10" refX="9" refY="5" markerUnits="userSpaceOnUse" markerWidth="11" markerHeight="11" orient="auto"><path d="M0 1 L10 5 L0 9 Z" fill="#a3271f"/></marker>
<marker id="open" viewBox="0 0 10 10" refX="9" refY="5" markerUnits="userSpaceOnUse" markerWidth="10" markerHeight="10" orient="auto"><path d="M1 1 L9 5 L1 9 Z" fill="#ffffff" stroke="#6b7683" stroke-width="1.2"/></marker>
<marker id="dot" viewBox="0 0 10 10" refX="8" refY="5" markerUnits="userSpaceOnUse" markerWidth="8" markerHeight="8"><circle cx="5" cy="5" r="3.6" fill="#6b7683"/></marker>
<marker id="cross" viewBox="0 0 10 10" refX="8" refY="5" markerUnits="userSpaceOnUse" markerWidth="11" markerHeight="11"><path d="M1 1 L9 9 M1 9 L9 1" stroke="#a3271f" stroke-width="2"/></marker>
</defs>
"##;

/// Writes elements.
pub(super) struct Pen<'a, 'w> {
    out: &'a mut Out<'w>,
}

impl<'a, 'w> Pen<'a, 'w> {
    pub(super) fn new(out: &'a mut Out<'w>) -> Self {
        Self { out }
    }

    pub(super) fn begin(&mut self, width: f64, height: f64) -> io::Result<()> {
        writeln!(
            self.out,
            "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{width:.0}\" height=\"{height:.0}\" viewBox=\"0 0 {width:.0} {height:.0}\">"
        )?;
        writeln!(
            self.out,
            "<style>{STYLE}</style>\n{MARKERS}<rect width=\"100%\" height=\"100%\" fill=\"#ffffff\"/>"
        )
    }

    pub(super) fn end(&mut self) -> io::Result<()> {
        writeln!(self.out, "</svg>")
    }

    pub(super) fn group(&mut self, x: f64, y: f64) -> io::Result<()> {
        writeln!(self.out, "<g transform=\"translate({x:.1} {y:.1})\">")
    }

    pub(super) fn end_group(&mut self) -> io::Result<()> {
        writeln!(self.out, "</g>")
    }

    pub(super) fn text(&mut self, at: Point, class: &str, text: &str) -> io::Result<()> {
        self.label(at, class, text, usize::MAX)
    }

    /// A text of so many letters at most; a longer one is its title.
    pub(super) fn label(&mut self, at: Point, class: &str, text: &str, most: usize) -> io::Result<()> {
        write!(self.out, "<text x=\"{:.1}\" y=\"{:.1}\" class=\"{class}\">", at.x, at.y)?;
        self.letters(text, most)
    }

    /// The same, reading from below upwards.
    pub(super) fn steep_label(&mut self, at: Point, class: &str, text: &str, most: usize) -> io::Result<()> {
        let Point { x, y } = at;
        write!(self.out, "<text transform=\"translate({x:.1} {y:.1}) rotate(-60)\" class=\"{class}\">")?;
        self.letters(text, most)
    }

    fn letters(&mut self, text: &str, most: usize) -> io::Result<()> {
        let short = shortened(text, most);
        write!(self.out, "{}", escaped(&short))?;
        if short != text {
            write!(self.out, "<title>{}</title>", escaped(text))?;
        }
        writeln!(self.out, "</text>")
    }

    /// An ellipse, or a box with round ends where it is higher than wide.
    pub(super) fn ring(&mut self, center: Point, radii: Point, class: &str) -> io::Result<()> {
        writeln!(
            self.out,
            "<rect x=\"{:.1}\" y=\"{:.1}\" width=\"{:.1}\" height=\"{:.1}\" rx=\"{:.1}\" ry=\"{:.1}\" class=\"{class}\"/>",
            center.x - radii.x,
            center.y - radii.y,
            2.0 * radii.x,
            2.0 * radii.y,
            radii.x,
            radii.y.min(radii.x)
        )
    }

    pub(super) fn path(&mut self, drawn: &str, class: &str, title: &str) -> io::Result<()> {
        writeln!(self.out, "<path d=\"{drawn}\" class=\"{class}\"><title>{}</title></path>", escaped(title))
    }

    pub(super) fn rectangle(&mut self, at: Point, size: Point, class: &str, fill: &str) -> io::Result<()> {
        writeln!(
            self.out,
            "<rect x=\"{:.1}\" y=\"{:.1}\" width=\"{:.1}\" height=\"{:.1}\" class=\"{class}\" fill=\"{fill}\"/>",
            at.x, at.y, size.x, size.y
        )
    }

    /// A node: its outline, its name, its module, and a sign if something is wrong with it.
    pub(super) fn node(&mut self, node: &Drawn, place: Rectangle) -> io::Result<()> {
        let Rectangle { at, size } = place;
        let module = node.module.as_deref().unwrap_or_default();
        let place = if module.is_empty() { String::new() } else { format!(" in module {module}") };
        let fault = node.fault.map_or_else(String::new, |fault| format!(", {}", fault.word()));
        writeln!(
            self.out,
            "<g><title>{}</title>",
            escaped(&format!("{} {}{place}{fault}", node.sort.word(), name(node)))
        )?;
        let class = match (node.is_center, node.fault, node.sort) {
            (_, _, Sort::Missing) => "",
            (true, ..) => " center",
            (_, Some(Severity::Error), _) => " error",
            (_, Some(Severity::Warning), _) => " warning",
            _ => "",
        };
        self.outline_of(node.sort, at, size, class)?;
        let inset = if matches!(node.sort, Sort::Entry | Sort::Group | Sort::Provider) { 16.0 } else { 10.0 };
        let middle = if module.is_empty() { at.y + size.y / 2.0 + 4.0 } else { at.y + 15.0 };
        let sign = if node.sort == Sort::Missing { "✕ " } else { "" };
        self.text(
            Point { x: at.x + inset, y: middle },
            "name",
            &format!("{sign}{}", shortened(&name(node), LETTERS)),
        )?;
        if !module.is_empty() {
            self.text(
                Point { x: at.x + inset, y: at.y + size.y - 6.0 },
                "module",
                &shortened(module, LETTERS),
            )?;
        }
        if let Some(fault) = node.fault.filter(|_| node.sort != Sort::Missing) {
            self.badge(fault, Point { x: at.x + size.x - 16.0, y: at.y + size.y / 2.0 })?;
        }
        writeln!(self.out, "</g>")
    }

    pub(super) fn outline(&mut self, sort: Sort, at: Point, size: Point) -> io::Result<()> {
        self.outline_of(sort, at, size, "")
    }

    /// Every sort has an outline of its own.
    fn outline_of(&mut self, sort: Sort, at: Point, size: Point, class: &str) -> io::Result<()> {
        let Point { x, y } = at;
        let Point { x: w, y: h } = size;
        let (half, edge) = (h / 2.0, 10.0_f64.min(w / 4.0));
        let word = if sort == Sort::Module { "module-sort" } else { sort.word() };
        let class = format!("box {word}{class}");
        let corner = match sort {
            Sort::Service => 6.0,
            Sort::Entry => half,
            Sort::Module | Sort::Missing => 0.0,
            Sort::Provider | Sort::Group | Sort::Question => {
                let right = x + w;
                let drawn = match sort {
                    Sort::Provider => format!(
                        "M{:.1} {y:.1} L{right:.1} {y:.1} L{:.1} {:.1} L{x:.1} {:.1} Z",
                        x + edge,
                        right - edge,
                        y + h,
                        y + h
                    ),
                    Sort::Group => format!(
                        "M{x:.1} {:.1} L{:.1} {y:.1} L{right:.1} {y:.1} L{right:.1} {:.1} L{:.1} {:.1} Z",
                        y + half,
                        x + edge,
                        y + h,
                        x + edge,
                        y + h
                    ),
                    _ => format!(
                        "M{x:.1} {:.1} L{:.1} {y:.1} L{:.1} {y:.1} L{right:.1} {:.1} L{:.1} {:.1} L{:.1} {:.1} Z",
                        y + half,
                        x + edge,
                        right - edge,
                        y + half,
                        right - edge,
                        y + h,
                        x + edge,
                        y + h
                    ),
                };
                return writeln!(self.out, "<path d=\"{drawn}\" class=\"{class}\"/>");
            }
        };
        writeln!(
            self.out,
            "<rect x=\"{x:.1}\" y=\"{y:.1}\" width=\"{w:.1}\" height=\"{h:.1}\" rx=\"{corner:.1}\" class=\"{class}\"/>"
        )?;
        if sort == Sort::Module {
            writeln!(self.out, "<path d=\"M{x:.1} {y:.1} h{w:.1} v4 h-{w:.1} Z\" fill=\"#5b6673\"/>")?;
        }
        Ok(())
    }

    /// The sign of a severity: an octagon, a triangle, a disc.
    pub(super) fn badge(&mut self, fault: Severity, at: Point) -> io::Result<()> {
        let Point { x, y } = at;
        let (corners, sign): (&[(f64, f64)], &str) = match fault {
            Severity::Error => (
                &[
                    (-3.3, -8.0),
                    (3.3, -8.0),
                    (8.0, -3.3),
                    (8.0, 3.3),
                    (3.3, 8.0),
                    (-3.3, 8.0),
                    (-8.0, 3.3),
                    (-8.0, -3.3),
                ],
                "✕",
            ),
            Severity::Warning => (&[(0.0, -9.0), (9.0, 7.0), (-9.0, 7.0)], "!"),
            Severity::Note => (&[], "i"),
        };
        let word = fault.word();
        if corners.is_empty() {
            writeln!(self.out, "<circle cx=\"{x:.1}\" cy=\"{y:.1}\" r=\"7\" class=\"badge {word}\"/>")?;
        } else {
            let points: Vec<String> =
                corners.iter().map(|(dx, dy)| format!("{:.1},{:.1}", x + dx, y + dy)).collect();
            writeln!(self.out, "<polygon points=\"{}\" class=\"badge {word}\"/>", points.join(" "))?;
        }
        let down = if fault == Severity::Warning { 5.0 } else { 3.4 };
        self.text(Point { x, y: y + down }, "badge-sign", sign)
    }
}

/// Text as XML's character data, without what XML cannot hold.
pub(crate) fn escaped(text: &str) -> String {
    let mut escaped = String::with_capacity(text.len());
    for character in text.chars() {
        match character {
            '&' => escaped.push_str("&amp;"),
            '<' => escaped.push_str("&lt;"),
            '>' => escaped.push_str("&gt;"),
            '"' => escaped.push_str("&quot;"),
            '\t' | '\n' => escaped.push(' '),
            character if is_unsafe(character) => escaped.push('␦'),
            character => escaped.push(character),
        }
    }
    escaped
}
