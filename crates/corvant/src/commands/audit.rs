//! `corvant audit`

use crate::cache;
use crate::cli::{AuditOptions, FailOn, Format, Looking};
use crate::exit::{self, CommandError};
use crate::output;
use crate::progress::Shown;
use corvant_core::audit::{Options, Report, audit};
use corvant_core::name::Name;
use corvant_core::wiring::Wiring;
use corvant_read::edit;
use corvant_read::workspace::{self, Beside, Workspace};
use corvant_render::documents;
use corvant_render::text;
use std::path::Path;
use time::OffsetDateTime;

pub(crate) fn run(root: &Path, options: &AuditOptions) -> Result<u8, CommandError> {
    let shown = Shown::begin(options.writing.to.quiet);
    let cache = cache::folder(&options.looking.caching)?;
    let beside = Beside { cache: cache.as_deref(), progress: Some(shown.progress()), ..Beside::default() };
    let workspace = workspace::read_beside(root, beside)?;
    let paths = workspace.manifests.iter().map(|manifest| manifest.source.path.as_str());
    output::keep_inputs(&options.writing.to, root, paths)?;
    report(workspace, &root.display().to_string(), options, Some(shown))
}

/// Audits what was read, writes the report, and gives the exit status. What shows the progress goes away before
/// the report is written.
pub(crate) fn report(
    workspace: Workspace,
    root: &str,
    options: &AuditOptions,
    shown: Option<Shown>,
) -> Result<u8, CommandError> {
    let (wiring, mut report) = look(workspace, &options.looking)?;
    edit::spell_out(&mut report.findings, &wiring);
    drop(shown);
    output::write(&options.writing.to, |layout, out| match options.writing.format {
        Format::Text => text::write(&report, &wiring, layout, out),
        Format::Json => documents::report::write(&report, &wiring, root, out),
    })?;
    let status = exit::of_audit(&report, options.fail_on.unwrap_or(FailOn::Error).severity());
    // Taking a million services apart piece by piece takes longer than letting them go with the program.
    std::mem::forget((wiring, report));
    Ok(status)
}

/// Links and audits what was read.
pub(crate) fn look(mut workspace: Workspace, looking: &Looking) -> Result<(Wiring, Report), CommandError> {
    workspace.policy.severities.extend(looking.rules.iter().copied());
    let (wiring, blind_spots) = workspace.link();
    let stage = looking.stage.as_deref().map(|stage| find_stage(&wiring, stage)).transpose()?;
    let today = looking.today.clone().unwrap_or_else(today);
    let mut report = audit(&wiring, &Options { stage, today: Some(today), afresh: false });
    report.blind_spots.extend(blind_spots);
    Ok((wiring, report))
}

/// Today's date in universal time, year first.
pub(crate) fn today() -> String {
    let date = OffsetDateTime::now_utc().date();
    format!("{:04}-{:02}-{:02}", date.year(), u8::from(date.month()), date.day())
}

pub(crate) fn find_stage(wiring: &Wiring, stage: &str) -> Result<Name, CommandError> {
    let known = wiring.stages.iter().copied().find(|&known| wiring.text(known) == stage);
    known.ok_or_else(|| {
        let names: Vec<&str> = wiring.stages.iter().map(|&stage| wiring.text(stage)).collect();
        CommandError::Usage(if names.is_empty() {
            format!("there is no stage {stage}: no definition here is limited to a stage")
        } else {
            format!("there is no stage {stage}; the stages here are {}", names.join(", "))
        })
    })
}
