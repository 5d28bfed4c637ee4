//! `corvant accept`

use super::audit;
use crate::allowances::{self, Allowance};
use crate::cache;
use crate::cli::AcceptOptions;
use crate::exit::{self, CommandError};
use crate::files::{self, UpdateError};
use crate::output;
use corvant_core::finding::Finding;
use corvant_read::native::workspace_file;
use corvant_read::workspace::{self, Beside};
use corvant_render::out::Out;
use std::collections::BTreeSet;
use std::io::Write;
use std::path::Path;

pub(crate) fn run(root: &Path, options: &AcceptOptions) -> Result<u8, CommandError> {
    let cache = cache::folder(&options.looking.caching)?;
    let beside = Beside { cache: cache.as_deref(), ..Beside::default() };
    let (wiring, report) = audit::look(workspace::read_beside(root, beside)?, &options.looking)?;
    let day = options.looking.today.clone().unwrap_or_else(audit::today);
    let reason = options.reason.clone().unwrap_or_else(|| format!("recorded by corvant accept on {day}"));
    let until = options.until.as_deref();
    // An allowance that accepts nothing is corrected by taking it out, not by another.
    let is_recorded = |finding: &&Finding| {
        finding.severity <= options.min_severity.severity() && finding.rule.name != "stale-allowance"
    };
    let found = report.findings.iter().filter(is_recorded);
    let found: BTreeSet<_> = found.map(|finding| (finding.rule.name, finding.subject.as_str())).collect();
    let allowances: Vec<Allowance<'_>> =
        found.iter().map(|&(rule, subject)| Allowance { rule, subject, reason: &reason, until }).collect();
    if allowances.is_empty() {
        output::say("nothing to accept");
    } else if options.dry_run {
        let text = allowances::add("", &allowances, &day).map_err(CommandError::Usage)?.unwrap_or_default();
        output::write_own(None, |out| Out::new(out).write_all(text.as_bytes()))?;
    } else {
        record(root, &allowances, &day)?;
    }
    std::mem::forget(wiring);
    Ok(exit::CLEAN)
}

/// Writes allowances into the workspace file, whose other text stays as it is, byte by byte.
fn record(root: &Path, allowances: &[Allowance<'_>], today: &str) -> Result<(), CommandError> {
    let path = root.join(workspace_file::NAME);
    let failed = |error| match error {
        UpdateError::Refused(why) => CommandError::Usage(why),
        UpdateError::Io(reason) => CommandError::Output { path: path.display().to_string(), reason },
    };
    files::update(&path, |text| allowances::add(text, allowances, today)).map_err(failed)?;
    let (count, path) = (allowances.len(), path.display());
    let findings = if count == 1 { "finding" } else { "findings" };
    output::say(&format!("recorded {count} {findings} in {path}: an audit now fails on new ones only"));
    Ok(())
}
