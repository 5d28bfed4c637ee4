//! `corvant audit`

use super::state::{Among, Clearing, Named};
use crate::cache;
use crate::cli::{AuditOptions, CountedBy, FailOn, Looking, ReportFormat, ReportWriting};
use crate::exit::{self, CommandError};
use crate::output;
use crate::progress::Shown;
use corvant_core::answers::View;
use corvant_core::audit::{Options, Report, Resolved, audit_resolved};
use corvant_core::compare::{self, Baseline};
use corvant_core::facts::TroubleKind;
use corvant_core::finding::Severity;
use corvant_core::name::Name;
use corvant_core::wiring::Wiring;
use corvant_read::cache::{Answer, Consulted, MadeFrom, OfRevision, Question};
use corvant_read::edit;
use corvant_read::workspace::{self, Beside, Workspace};
use corvant_render::out::Out;
use corvant_render::page::{self, Circumstances};
use corvant_render::text::{self, Extent, Layout};
use corvant_render::{documents, junit, markdown, sarif};
use std::io;
use std::path::Path;
use time::OffsetDateTime;

pub(crate) fn run(root: &Path, options: &AuditOptions) -> Result<u8, CommandError> {
    let shown = Shown::begin(options.writing.screen.quiet);
    match &options.since {
        None => run_now(root, options, shown),
        Some(since) => run_since(root, since, options, shown),
    }
}

/// Audits what lies there; of what is as it was when the same was asked before, the answer is known.
fn run_now(root: &Path, options: &AuditOptions, shown: Shown) -> Result<u8, CommandError> {
    let cache = cache::folder(&options.looking.caching)?;
    let consulted = Consulted::default();
    let beside = Beside {
        cache: cache.as_deref(),
        progress: Some(shown.progress()),
        consulted: Some(&consulted),
        only_findings: options.writing.has_only_findings(),
        ..Beside::default()
    };
    let found = workspace::find(root, beside)?;
    let asked = cache.as_deref().and_then(|cache| question(cache, root, options));
    let asked = asked.and_then(|question| Some((question, MadeFrom::new(&found)?)));
    if let Some(known) = asked.as_ref().and_then(|(question, made_from)| question.answer(*made_from)) {
        drop(shown);
        output::write_own(None, |out| out.write_all(known.text.as_bytes()))?;
        return Ok(known.status);
    }
    let workspace = found.read()?;
    keep_inputs(options.writing.files(), root, &workspace)?;
    // What could not be read may be by the next time, or by somebody else.
    let asked = asked.filter(|_| is_all_read(&workspace));
    let looked = look(workspace, &options.looking)?;
    let name = root.display().to_string();
    let Some((question, made_from)) = asked else { return report(looked, &name, options, Some(shown)) };
    let told = Told::new(looked, &name, options);
    drop(shown);
    let text = output::write_screen_and_copy(&options.writing.screen, Answer::LONGEST, |layout, out| {
        told.write(options.writing.format, layout, out)
    })?;
    let status = told.status;
    if let Some(text) = text {
        question.keep(made_from, consulted, &Answer { status, text });
    }
    told.let_go();
    Ok(status)
}

/// Whether there is a text of every file, be it broken.
fn is_all_read(workspace: &Workspace) -> bool {
    workspace.manifests.iter().all(|manifest| {
        let mut troubles = manifest.facts.troubles.iter();
        !manifest.source.text.is_empty() || troubles.all(|trouble| trouble.kind != TroubleKind::Unreadable)
    })
}

/// What is asked, with all that says how it is answered; `None`: files are to be written too, which may not be there.
fn question<'a>(cache: &Path, root: &'a Path, options: &AuditOptions) -> Option<Question<'a>> {
    let Looking { today, .. } = &options.looking;
    let today = today.clone().unwrap_or_else(self::today);
    let asked =
        format!("{today} {} {options:?} {:?}", root.display(), output::layout(&options.writing.screen));
    options.writing.output.is_empty().then(|| Question::new(cache, root, &asked)).flatten()
}

/// Keeps what is new since a revision. What was found there when the same was asked before is known.
fn run_since(root: &Path, since: &str, options: &AuditOptions, shown: Shown) -> Result<u8, CommandError> {
    let among = Among::new(root);
    let old = among.one(since)?;
    let cache = cache::folder(&options.looking.caching)?;
    let Looking { stage, rules, today, .. } = &options.looking;
    let asked = format!("{stage:?} {rules:?} {}", today.clone().unwrap_or_else(self::today));
    let remembered = among.remembered(&old, cache.as_deref(), &asked)?;
    let (baseline, (wiring, mut new_report), clearing) =
        match remembered.as_ref().and_then(OfRevision::baseline) {
            Some(baseline) => {
                let beside = Beside {
                    cache: cache.as_deref(),
                    progress: Some(shown.progress()),
                    only_findings: options.writing.has_only_findings(),
                    ..Beside::default()
                };
                let now = workspace::read_beside(root, beside)?;
                keep_inputs(options.writing.files(), root, &now)?;
                (baseline, look(now, &options.looking)?, None)
            }
            None => look_at_both(&among, &old, options, remembered, &shown)?,
        };
    compare::keep_new(&mut new_report, &wiring, old.name(), baseline.into());
    let status = report((wiring, new_report), &root.display().to_string(), options, Some(shown));
    drop(clearing);
    status
}

/// Looks at what lies there and at a state before, of which what was found is kept for the next time.
fn look_at_both(
    among: &Among<'_>,
    old: &Named,
    options: &AuditOptions,
    remembered: Option<OfRevision>,
    shown: &Shown,
) -> Result<(Baseline, Looked, Option<Clearing>), CommandError> {
    let AuditOptions { looking, writing, .. } = options;
    let new = Named::Folder(among.root().to_owned());
    let (before, now, clearing) =
        among.read_both(old, &new, (looking, writing.has_only_findings()), shown)?;
    keep_inputs(writing.files(), among.root(), &now)?;
    // What could not be read may be by the next time.
    let remembered = remembered.filter(|_| is_all_read(&before));
    // Some steps of an audit are for one thread alone.
    let (before, now) = rayon::join(|| look_beside(before, looking), || look(now, looking));
    let (wiring, report, resolved) = before?;
    let baseline = Baseline::new(&report, &wiring);
    std::mem::forget((wiring, report, resolved));
    remembered.inspect(|remembered| remembered.keep(&baseline));
    Ok((baseline, now?, Some(clearing)))
}

/// Reads a workspace, for a report that goes to some files: none of those may be one of its own. Where nothing but findings is
/// asked for, the rest is left out.
pub(crate) fn read<'path>(
    root: &Path,
    (looking, only_findings): (&Looking, bool),
    shown: &Shown,
    outputs: impl IntoIterator<Item = &'path Path>,
) -> Result<Workspace, CommandError> {
    let cache = cache::folder(&looking.caching)?;
    let (cache, progress) = (cache.as_deref(), Some(shown.progress()));
    let beside = Beside { cache, progress, only_findings, ..Beside::default() };
    let workspace = workspace::read_beside(root, beside)?;
    keep_inputs(outputs, root, &workspace)?;
    Ok(workspace)
}

fn keep_inputs<'path>(
    outputs: impl IntoIterator<Item = &'path Path>,
    root: &Path,
    workspace: &Workspace,
) -> Result<(), CommandError> {
    let paths = workspace.manifests.iter().map(|manifest| manifest.source.path.as_str());
    output::keep_inputs(outputs, root, paths)
}

/// Writes the report, and gives the exit status. What shows the progress goes away before the report is written.
pub(crate) fn report(
    looked: Looked,
    root: &str,
    options: &AuditOptions,
    shown: Option<Shown>,
) -> Result<u8, CommandError> {
    let told = Told::new(looked, root, options);
    drop(shown);
    output::write_report(&options.writing, |format, layout, out| told.write(format, layout, out))?;
    let status = told.status;
    told.let_go();
    Ok(status)
}

/// A report that is to be written, fixes spelt out.
struct Told<'a> {
    wiring: Wiring,
    report: Report,
    root: &'a str,
    options: &'a AuditOptions,
    fail_on: Option<Severity>,
    status: u8,
}

impl<'a> Told<'a> {
    fn new((wiring, mut report): Looked, root: &'a str, options: &'a AuditOptions) -> Self {
        edit::spell_out(&mut report.findings, &wiring);
        let fail_on = options.fail_on.unwrap_or(FailOn::Error).severity();
        let status = exit::of_audit(&report, fail_on);
        Self { wiring, report, root, options, fail_on, status }
    }

    fn write(&self, format: ReportFormat, layout: Layout, out: &mut Out<'_>) -> io::Result<()> {
        let Self { wiring, report, root, options, fail_on, status } = self;
        let ReportWriting { by, limit, .. } = options.writing;
        let is_failing = *status != exit::CLEAN;
        match format {
            ReportFormat::Text => {
                text::write(report, wiring, Extent { by: by.map(CountedBy::by), limit }, layout, out)
            }
            ReportFormat::Json => documents::report::write(report, wiring, root, out),
            ReportFormat::Sarif => sarif::write(report, wiring, limit.unwrap_or(sarif::LIMIT), out),
            ReportFormat::Junit => junit::write(report, wiring, *fail_on, out),
            ReportFormat::Markdown => markdown::write(report, wiring, is_failing, out),
            ReportFormat::Html => write_page(report, wiring, &options.looking, root, is_failing, out),
        }
    }

    /// Taking a million services apart piece by piece takes longer than letting them go with the program.
    fn let_go(self) {
        std::mem::forget(self);
    }
}

/// Writes the report as a page, of the stage that was asked for; where some stage is always chosen, else of the first.
pub(crate) fn write_page(
    report: &Report,
    wiring: &Wiring,
    looking: &Looking,
    root: &str,
    is_failing: bool,
    out: &mut Out<'_>,
) -> io::Result<()> {
    let stage = looking.stage.as_deref().and_then(|stage| wiring.names.find(stage));
    let first = || wiring.stages.first().copied().filter(|_| wiring.policy.stage_required);
    let view = View::new(wiring, stage.or_else(first));
    page::write(report, &view, Circumstances { root, is_failing, compared: None }, out)
}

/// What was linked, and what an audit finds in it.
pub(crate) type Looked = (Wiring, Report);

/// Links and audits what was read.
pub(crate) fn look(workspace: Workspace, looking: &Looking) -> Result<Looked, CommandError> {
    let (wiring, report, _) = look_in(workspace, looking, |wiring| {
        looking.stage.as_deref().map(|stage| find_stage(wiring, stage)).transpose()
    })?;
    Ok((wiring, report))
}

/// The same of a state that is held against another: a stage that it does not have is none there.
pub(crate) fn look_beside(
    workspace: Workspace,
    looking: &Looking,
) -> Result<(Wiring, Report, Resolved), CommandError> {
    look_in(workspace, looking, |wiring| {
        Ok(looking.stage.as_deref().and_then(|stage| find_stage(wiring, stage).ok()))
    })
}

fn look_in(
    mut workspace: Workspace,
    looking: &Looking,
    stage: impl FnOnce(&Wiring) -> Result<Option<Name>, CommandError>,
) -> Result<(Wiring, Report, Resolved), CommandError> {
    workspace.policy.severities.extend(looking.rules.iter().copied());
    let (wiring, blind_spots) = workspace.link();
    let today = looking.today.clone().unwrap_or_else(today);
    let options = Options { stage: stage(&wiring)?, today: Some(today), afresh: false };
    let (mut report, resolved) = audit_resolved(&wiring, &options);
    report.blind_spots.extend(blind_spots);
    Ok((wiring, report, resolved))
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
