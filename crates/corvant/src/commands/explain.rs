//! `corvant audit --explain-readers`: who read which file, what was taken, and what was left over.

use crate::cli::{Format, Writing};
use crate::exit::CommandError;
use crate::output;
use corvant_read::workspace;
use corvant_render::{accounts, documents};
use std::path::Path;

pub(crate) fn run(root: &Path, writing: &Writing) -> Result<u8, CommandError> {
    let (accounts, blind_spots) = workspace::explain(root)?;
    let read = accounts.iter().map(|account| account.path.as_str());
    output::keep_inputs(&writing.to, root, read)?;
    output::write(&writing.to, |layout, out| match writing.format {
        Format::Text => accounts::text(&accounts, &blind_spots, layout, out),
        Format::Json => documents::accounts::write(&accounts, &blind_spots, out),
    })?;
    Ok(0)
}
