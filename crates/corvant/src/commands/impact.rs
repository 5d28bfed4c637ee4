//! `corvant impact`

use super::asked::{Asked, subject};
use crate::cli::{Asking, Format};
use crate::exit::{self, CommandError};
use crate::output;
use corvant_core::answers::{Kind, Subject, impact::impact};
use corvant_render::answers::impact;

pub(crate) fn run(names: &[String], kind: Option<Kind>, asking: &Asking) -> Result<u8, CommandError> {
    let asked = Asked::read(&asking.place, &asking.writing.to)?;
    let view = asked.view();
    let subjects = names.iter().map(|name| subject(&view, name, kind));
    let subjects: Vec<Subject> = subjects.collect::<Result<_, _>>()?;
    let answer = impact(&view, &subjects);
    output::write(&asking.writing.to, |layout, mut out| match asking.writing.format {
        Format::Text => impact::text(&answer, &asked.wiring, layout, &mut out),
        Format::Json => impact::json(&answer, &asked.wiring, &mut out),
    })?;
    std::mem::forget(view);
    asked.done();
    Ok(exit::CLEAN)
}
