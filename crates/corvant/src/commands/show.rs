//! `corvant show`

use super::asked::{Asked, subject};
use crate::cli::{Asking, Format, KindOf};
use crate::exit::{self, CommandError};
use crate::output;
use corvant_core::answers::show::show;
use corvant_render::answers::show;

pub(crate) fn run(name: &str, kind: Option<KindOf>, asking: &Asking) -> Result<u8, CommandError> {
    let asked = Asked::read(&asking.root, asking.stage.as_deref(), asking.writing.quiet)?;
    let view = asked.view();
    let sheet = show(&view, subject(&view, name, kind.map(KindOf::kind))?, &asked.report());
    output::write(&asking.writing, |layout, mut out| match asking.writing.format {
        Format::Text => show::text(&sheet, &asked.wiring, layout, &mut out),
        Format::Json => show::json(&sheet, &asked.wiring, &mut out),
    })?;
    std::mem::forget(view);
    asked.done();
    Ok(exit::CLEAN)
}
