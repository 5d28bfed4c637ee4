//! `corvant show`

use super::asked::{Asked, ask, subject};
use crate::cli::Asking;
use crate::exit::{self, CommandError};
use corvant_core::answers::Kind;
use corvant_core::answers::show::show;
use corvant_render::answers::show::text;
use corvant_render::documents::sheet;

pub(crate) fn run(name: &str, kind: Option<Kind>, asking: &Asking) -> Result<u8, CommandError> {
    let answer = |asked: &Asked| {
        let view = asked.view();
        Ok(show(&view, subject(&view, name, kind)?, &asked.report()))
    };
    ask(asking, answer, text, sheet::write)?;
    Ok(exit::CLEAN)
}
