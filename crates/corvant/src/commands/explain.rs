//! `corvant audit --explain-readers`: who read which file, what was taken, and what was left over.

use crate::cache;
use crate::cli::{AuditOptions, ReportFormat};
use crate::exit::CommandError;
use crate::output;
use corvant_core::account::Account;
use corvant_core::finding::BlindSpot;
use corvant_read::workspace::{self, Beside};
use corvant_render::{accounts, documents};
use std::path::Path;

pub(crate) fn run(root: &Path, reader: Option<&str>, options: &AuditOptions) -> Result<u8, CommandError> {
    let cache = cache::folder(&options.looking.caching)?;
    let beside = Beside { cache: cache.as_deref(), ..Beside::default() };
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
    write(root, &accounts, &blind_spots, options)
}

/// One file as its reader sees it.
pub(crate) fn tree(file: &Path, options: &AuditOptions) -> Result<u8, CommandError> {
    if !file.is_file() {
        let message =
            format!("{} is not a file: --tree shows what a reader sees of one file", file.display());
        return Err(CommandError::Usage(message));
    }
    let whole = std::path::absolute(file).map_err(|error| CommandError::Usage(error.to_string()))?;
    // The workspace is the nearest folder above that says it is one.
    let mut above = whole.ancestors().skip(1);
    let folder = above.clone().next().unwrap_or(&whole);
    let root = above.find(|folder| folder.join("corvant.toml").is_file()).unwrap_or(folder);
    let inner = whole.strip_prefix(root).unwrap_or(&whole);
    let inner: Vec<_> = inner.iter().map(|part| part.to_string_lossy()).collect();
    let inner = inner.join("/");
    let cache = cache::folder(&options.looking.caching)?;
    let beside = Beside { cache: cache.as_deref(), tree_of: Some(&inner), ..Beside::default() };
    let (mut accounts, _) = workspace::explain(root, beside)?;
    accounts.retain(|account| account.path == inner && account.tree.is_some());
    if accounts.is_empty() {
        let message = format!("no custom reader of {} reads {inner}", root.display());
        return Err(CommandError::Usage(message));
    }
    write(root, &accounts, &[], options)
}

fn write(
    root: &Path,
    accounts: &[Account],
    blind_spots: &[BlindSpot],
    options: &AuditOptions,
) -> Result<u8, CommandError> {
    let writing = &options.writing;
    let formats = writing.output.iter().filter_map(|output| output.format).chain([writing.format]);
    if formats.into_iter().any(|format| !matches!(format, ReportFormat::Text | ReportFormat::Json)) {
        let message = "what readers take is written as text and as JSON only".to_owned();
        return Err(CommandError::Usage(message));
    }
    let read = accounts.iter().map(|account| account.path.as_str());
    output::keep_inputs(writing.files(), root, read)?;
    output::write_report(writing, |format, layout, out| match format {
        ReportFormat::Json => documents::accounts::write(accounts, blind_spots, out),
        _ => accounts::text(accounts, blind_spots, layout, out),
    })?;
    Ok(0)
}
