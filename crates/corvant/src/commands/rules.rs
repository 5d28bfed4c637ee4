//! `corvant rules`

use crate::cli::{Format, Writing};
use crate::exit::{self, CommandError};
use crate::output;
use corvant_core::near::nearest;
use corvant_core::rules::{RULES, Rule};
use corvant_render::rules;

pub(crate) fn run(name: Option<&str>, writing: &Writing) -> Result<u8, CommandError> {
    let chosen = name.map(find).transpose()?;
    output::write(writing, |layout, mut out| match (writing.format, chosen) {
        (Format::Text, None) => rules::list(layout, &mut out),
        (Format::Text, Some(rule)) => rules::one(rule, layout, &mut out),
        (Format::Json, None) => rules::json(RULES, &mut out),
        (Format::Json, Some(rule)) => rules::json(&[rule], &mut out),
    })?;
    Ok(exit::CLEAN)
}

fn find(name: &str) -> Result<&'static Rule, CommandError> {
    let names: Vec<&str> = RULES.iter().map(|rule| rule.name).collect();
    RULES.iter().copied().find(|rule| rule.name == name).ok_or_else(|| {
        let meant = nearest(&[name], &names)[0].map(|at| format!("; did you mean {}?", names[at]));
        CommandError::Usage(format!("there is no rule {name}{}", meant.unwrap_or_default()))
    })
}
