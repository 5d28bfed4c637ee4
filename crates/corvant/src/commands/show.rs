//! `corvant show`

use super::asked::{Asked, subject};
use crate::cli::{Asking, Format};
use crate::exit::{self, CommandError};
use crate::output;
use corvant_core::answers::Kind;
use corvant_core::answers::show::show;
use corvant_render::answers::show;

pub(crate) fn run(name: &str, kind: Option<Kind>, asking: &Asking) -> Result<u8, CommandError> {
    let asked = Asked::read(&asking.place, &asking.writing.to)?;
    let view = asked.view();
    let sheet = show(&view, subject(&view, name, kind)?, &asked.report());
    output::write(&asking.writing.to, |layout, mut out| match asking.writing.format {
        Format::Text => show::text(&sheet, &asked.wiring, layout, &mut out),
        Format::Json => show::json(&sheet, &asked.wiring, &mut out),
    })?;
    std::mem::forget(view);
    asked.done();
    Ok(exit::CLEAN)
}
