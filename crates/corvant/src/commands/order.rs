//! `corvant order`

use super::asked::{Asked, subject};
use crate::cli::{Asking, Format};
use crate::exit::{self, CommandError};
use crate::output;
use corvant_core::answers::{Kind, order::order};
use corvant_render::answers::order;

pub(crate) fn run(entry: Option<&str>, asking: &Asking) -> Result<u8, CommandError> {
    let asked = Asked::read(&asking.place, &asking.writing.to)?;
    let view = asked.view();
    let entry = entry.map(|entry| subject(&view, entry, Some(Kind::Entry))).transpose()?;
    let number =
        entry.and_then(|entry| asked.wiring.facts.entries.iter().position(|one| one.id.name == entry.name));
    let answer = order(&view, number);
    output::write(&asking.writing.to, |layout, mut out| match asking.writing.format {
        Format::Text => order::text(&answer, &asked.wiring, layout, &mut out),
        Format::Json => order::json(&answer, &asked.wiring, &mut out),
    })?;
    std::mem::forget(view);
    asked.done();
    Ok(exit::CLEAN)
}
