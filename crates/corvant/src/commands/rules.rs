//! `corvant rules`

use crate::cli::{Format, Writing, find_rule};
use crate::exit::{self, CommandError};
use crate::output;
use corvant_core::rules::TEXTS;
use corvant_render::{documents, rules};

pub(crate) fn run(name: Option<&str>, writing: &Writing) -> Result<u8, CommandError> {
    let chosen = name.map(find_rule).transpose().map_err(CommandError::Usage)?;
    output::write(&writing.to, |layout, out| match (writing.format, chosen) {
        (Format::Text, None) => rules::list(layout, out),
        (Format::Text, Some(rule)) => rules::one(rule, layout, out),
        (Format::Json, None) => documents::rules::write(TEXTS, out),
        (Format::Json, Some(rule)) => documents::rules::write(&[rule], out),
    })?;
    Ok(exit::CLEAN)
}
