//! `corvant graph`

use super::asked::{Asked, subject};
use crate::cli::{Drawing, DrawnAs, NodeOf};
use crate::exit::{self, CommandError};
use crate::output;
use corvant_core::answers::picture::{Frame, Picture, Selection};
use corvant_render::documents;
use corvant_render::drawn::{dot, graphml, mermaid, svg, text};

/// More nodes than this are no picture that anybody reads.
const READABLE: usize = 200;
/// Fewer nodes than this are drawn as a graph, however many edges there are; more only with few edges each.
const SPARSE: usize = 40;
const DENSE: usize = 3;

pub(crate) fn run(name: Option<&str>, drawing: &Drawing) -> Result<u8, CommandError> {
    let of_file = drawing.to.output.as_deref().and_then(DrawnAs::of_file);
    let format = drawing.format.or(of_file).unwrap_or(DrawnAs::Text);
    let asked = Asked::read(&drawing.place, &drawing.to)?;
    let (picture, note) = readable(&asked, name, drawing, format)?;
    let note = note.as_deref();
    let (nodes, lines) = (picture.nodes.len(), picture.edges.len());
    let is_matrix = nodes > READABLE || (nodes > SPARSE && lines > DENSE * nodes);
    drop(asked.shown);
    output::keep_inputs(drawing.to.output.as_deref(), &drawing.place.root, asked.wiring.paths())?;
    output::write(&drawing.to, |layout, out| match format {
        DrawnAs::Text => text::write(&picture, note, layout, out),
        DrawnAs::Json => documents::graph::write(&picture, &asked.wiring, out),
        DrawnAs::Svg if is_matrix => svg::write_matrix(&picture, note, out),
        DrawnAs::Svg => svg::write(&picture, note, out),
        DrawnAs::Dot => dot::write(&picture, note, out),
        DrawnAs::Mermaid => mermaid::write(&picture, note, out),
        DrawnAs::Graphml => graphml::write(&picture, out),
    })?;
    if let Some(note) = note.filter(|_| !drawing.to.screen.quiet) {
        output::say(&format!("corvant: {note}"));
    }
    std::mem::forget(asked.wiring);
    Ok(exit::CLEAN)
}

/// The picture; of modules where so many services would be none, with a note that says so. What programs read is
/// never cut down.
fn readable(
    asked: &Asked,
    name: Option<&str>,
    drawing: &Drawing,
    format: DrawnAs,
) -> Result<(Picture, Option<String>), CommandError> {
    let view = asked.view();
    let around = name.map(|name| subject(&view, name, drawing.kind)).transpose()?;
    let frame = Frame {
        around: around.into_iter().collect(),
        depth: drawing.depth,
        direction: drawing.direction.direction(),
        only_cycle_groups: drawing.only_cycles,
        only_faults: drawing.only_faults,
        by_module: drawing.by == Some(NodeOf::Module),
    };
    let selection = Selection::new(&view, &frame, &asked.report());
    let is_for_eyes = matches!(format, DrawnAs::Svg | DrawnAs::Dot | DrawnAs::Mermaid);
    let count = if is_for_eyes && drawing.by.is_none() { selection.len() } else { 0 };
    if count <= READABLE {
        return Ok((selection.picture(frame.by_module), None));
    }
    let modules = selection.picture(true);
    let of = modules.nodes.len();
    let note = format!(
        "{count} services, entries and tags are too many for a picture: these are their {of} modules; \
         a name with --depth draws what is around it, and --format graphml or json writes all"
    );
    Ok((modules, Some(note)))
}
