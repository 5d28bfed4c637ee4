//! `corvant audit --explain-readers`: who read which file, what was taken, and what was left over.

use crate::cache;
use crate::cli::{AuditOptions, Format};
use crate::exit::CommandError;
use crate::output;
use corvant_core::account::Account;
use corvant_read::workspace::{self, Beside};
use corvant_render::{accounts, documents};
use std::path::Path;

pub(crate) fn run(root: &Path, reader: Option<&str>, options: &AuditOptions) -> Result<u8, CommandError> {
    let AuditOptions { writing, looking, .. } = options;
    let cache = cache::folder(&looking.caching)?;
    let beside = Beside { cache: cache.as_deref(), progress: None };
    let (mut accounts, blind_spots) = workspace::explain(root, beside)?;
    if let Some(reader) = reader {
        let of = |account: &Account| account.reader.as_deref().unwrap_or_default() == reader;
        if !accounts.iter().any(of) {
            let mut names: Vec<&str> =
                accounts.iter().filter_map(|account| account.reader.as_deref()).collect();
            names.sort_unstable();
            names.dedup();
            let known =
                if names.is_empty() { "none but Corvant's own format".to_owned() } else { names.join(", ") };
            return Err(CommandError::Usage(format!(
                "no file is read by {reader}; files are read by {known}"
            )));
        }
        accounts.retain(of);
    }
    let read = accounts.iter().map(|account| account.path.as_str());
    output::keep_inputs(&writing.to, root, read)?;
    output::write(&writing.to, |layout, out| match writing.format {
        Format::Text => accounts::text(&accounts, &blind_spots, layout, out),
        Format::Json => documents::accounts::write(&accounts, &blind_spots, out),
    })?;
    Ok(0)
}
