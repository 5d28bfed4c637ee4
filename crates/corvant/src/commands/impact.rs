//! `corvant impact`

use super::asked::{Asked, subject};
use crate::cli::{Asking, Format, KindOf};
use crate::exit::{self, CommandError};
use crate::output;
use corvant_core::answers::{Subject, impact::impact};
use corvant_render::answers::impact;

pub(crate) fn run(names: &[String], kind: Option<KindOf>, asking: &Asking) -> Result<u8, CommandError> {
    let asked = Asked::read(&asking.root, asking.stage.as_deref(), asking.writing.quiet)?;
    let view = asked.view();
    let subjects = names.iter().map(|name| subject(&view, name, kind.map(KindOf::kind)));
    let subjects: Vec<Subject> = subjects.collect::<Result<_, _>>()?;
    let answer = impact(&view, &subjects);
    output::write(&asking.writing, |layout, mut out| match asking.writing.format {
        Format::Text => impact::text(&answer, &asked.wiring, layout, &mut out),
        Format::Json => impact::json(&answer, &asked.wiring, &mut out),
    })?;
    std::mem::forget(view);
    asked.done();
    Ok(exit::CLEAN)
}
