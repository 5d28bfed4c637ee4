//! `corvant order`

use super::asked::{Asked, ask, subject};
use crate::cli::Asking;
use crate::exit::{self, CommandError};
use corvant_core::answers::{Kind, order::order};
use corvant_render::answers::order::text;
use corvant_render::documents::order;

pub(crate) fn run(entry: Option<&str>, asking: &Asking) -> Result<u8, CommandError> {
    let answer = |asked: &Asked| {
        let view = asked.view();
        let entry = entry.map(|entry| subject(&view, entry, Some(Kind::Entry))).transpose()?;
        let number = entry
            .and_then(|entry| asked.wiring.facts.entries.iter().position(|one| one.id.name == entry.name));
        Ok(order(&view, number))
    };
    ask(asking, answer, text, order::write)?;
    Ok(exit::CLEAN)
}
