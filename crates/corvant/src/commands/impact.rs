//! `corvant impact`

use super::asked::{Asked, ask, subject};
use crate::cli::Asking;
use crate::exit::{self, CommandError};
use corvant_core::answers::{Kind, Subject, impact::impact};
use corvant_render::answers::impact::text;
use corvant_render::documents::impact;

pub(crate) fn run(names: &[String], kind: Option<Kind>, asking: &Asking) -> Result<u8, CommandError> {
    let answer = |asked: &Asked| {
        let view = asked.view();
        let subjects = names.iter().map(|name| subject(&view, name, kind));
        let subjects: Vec<Subject> = subjects.collect::<Result<_, _>>()?;
        Ok(impact(&view, &subjects))
    };
    ask(asking, answer, text, impact::write)?;
    Ok(exit::CLEAN)
}
