//! `corvant find`

use super::asked::{Asked, ask};
use crate::cli::Asking;
use crate::exit::{self, CommandError};
use crate::output;
use corvant_core::answers::find::find;
use corvant_render::answers::find;
use corvant_render::documents;
use regex::Regex;

pub(crate) fn run(text: &str, is_regex: bool, is_whole: bool, asking: &Asking) -> Result<u8, CommandError> {
    let pattern = is_regex.then(|| Regex::new(text)).transpose();
    let pattern = pattern.map_err(|error| CommandError::Usage(error.to_string()))?;
    let is_wanted = |name: &str| match &pattern {
        Some(pattern) => pattern.is_match(name),
        None if is_whole => name == text,
        None => name.contains(text),
    };
    let answer = |asked: &Asked| Ok(find(&asked.wiring, asked.stage, is_wanted));
    let mentions = ask(
        asking,
        answer,
        |mentions, wiring, layout, out| find::text(mentions, wiring, layout, out),
        |mentions, wiring, out| documents::mentions::write(mentions, wiring, out),
    )?;
    if mentions.is_empty() && !asking.writing.to.screen.quiet {
        output::say(&format!(
            "corvant: no name here {}",
            if is_whole { "is that" } else { "has that in it" }
        ));
    }
    Ok(if mentions.is_empty() { exit::FINDINGS } else { exit::CLEAN })
}
