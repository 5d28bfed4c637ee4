//! `corvant why`

use super::asked::{Asked, ask, subject};
use crate::cli::Asking;
use crate::exit::{self, CommandError};
use corvant_core::answers::{Kind, Subject, Unknown, View, look_up, why::why};
use corvant_render::answers::why::text;
use corvant_render::documents::why;

pub(crate) fn run(from: &str, to: &str, further: usize, asking: &Asking) -> Result<u8, CommandError> {
    let answer = |asked: &Asked| {
        let view = asked.view();
        Ok(why(&view, end(&view, from)?, end(&view, to)?, further))
    };
    let answer = ask(asking, answer, text, why::write)?;
    Ok(if answer.chains.is_empty() { exit::FINDINGS } else { exit::CLEAN })
}

/// One end of the chain. `KIND:NAME` says which is meant where things of several kinds have a name; otherwise what
/// is built or uses something goes before what has no needs of its own.
fn end(view: &View<'_>, name: &str) -> Result<Subject, CommandError> {
    let said = name.split_once(':').and_then(|(word, name)| {
        Kind::ALL.into_iter().find(|kind| kind.word() == word).map(|kind| (kind, name))
    });
    match (look_up(view.wiring, name, None), said) {
        (Err(Unknown::Nothing { .. }), Some((kind, name))) => subject(view, name, Some(kind)),
        (Err(Unknown::Several(kinds)), _) => {
            let order = [Kind::Service, Kind::Entry, Kind::Provider, Kind::Module];
            let first = order.into_iter().find(|kind| kinds.contains(kind));
            subject(view, name, first)
        }
        _ => subject(view, name, None),
    }
}
