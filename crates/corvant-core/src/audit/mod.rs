//! The audit: all rules over all stages, to one report.

mod blind_spots;
mod merge;
mod report;

pub use crate::graph::Resolved;
pub use report::{Accepted, Coverage, Report, Since, Summary};

use crate::finding::Finding;
use crate::finding::Reach;
use crate::graph::reach::{NEAR, ReachSearch, most_work};
use crate::name::Name;
use crate::resolve::StageIndex;
use crate::rules::reading;
use crate::rules::{RULES, Rule};
use crate::source::Place;
use crate::source::{SourceIndex, Span};
use crate::views::{
    Aids, AllowancesView, Allowed, Check, Context, FilesView, Focus, Sink, StageView, Usage, Used,
    WholeStageView, WorkspaceView,
};
use crate::wiring::Wiring;
use foldhash::{HashMap, HashSet};
use merge::Merged;
use rayon::prelude::*;
use std::sync::Arc;

/// What an audit is to look at.
#[derive(Clone, Debug, Default)]
pub struct Options {
    /// One stage; `None`: every stage, and none.
    pub stage: Option<Name>,
    /// The day allowances are held against, as `YYYY-MM-DD`; `None`: none has passed.
    pub today: Option<String>,
    /// Whether every stage is worked out afresh, not from what it changes. The report is the same; tests hold
    /// the one against the other.
    pub afresh: bool,
}

/// Audits a wiring.
///
/// The same wiring always gives the same report, whatever the order of its files and the number of threads.
pub fn audit(wiring: &Wiring, options: &Options) -> Report {
    audit_resolved(wiring, options).0
}

/// The same with what was worked out on the way: the one stage, or what holds with none chosen.
pub fn audit_resolved(wiring: &Wiring, options: &Options) -> (Report, Resolved) {
    let aids = Aids::new(wiring);
    let base = Context::new(wiring, &aids, options.stage);
    // Some stage is always chosen, if there is one: what holds with none chosen is then but where to start from.
    let always_staged = wiring.policy.stage_required && options.stage.is_none() && !wiring.stages.is_empty();
    let rules = || [stage_findings(&base), whole_stage_findings(&base), file_findings(&base)];
    let stages: &[Name] = if options.stage.is_some() { &[] } else { &wiring.stages };
    let by_change = !stages.is_empty() && !options.afresh;
    let (index, (mut usage, found)) = rayon::join(
        || by_change.then(|| StageIndex::new(wiring)),
        || rayon::join(|| Usage::new(&base, always_staged), rules),
    );
    let mut found = found.into_iter().flatten().collect();
    measure(&base, &mut found);
    let mut merged = Merged::new(found, options.stage);
    if options.afresh {
        for &stage in stages {
            let context = Context::new(wiring, &aids, Some(stage));
            usage.add(&usage.of_whole_stage(&context));
            let mut found = stage_findings(&context);
            found.extend(whole_stage_findings(&context));
            measure(&context, &mut found);
            merged.add(stage, found);
        }
    } else if let Some(index) = index {
        // As many at a time as there are threads: what was found in a stage is large until it is merged.
        for some in stages.chunks(rayon::current_num_threads()) {
            let look = |&stage: &Name| look_at_stage(&base, &merged, &index, stage, &usage);
            let seen: Vec<_> = some.par_iter().map(look).collect();
            for (&stage, seen) in some.iter().zip(seen) {
                let Some(seen) = seen else {
                    merged.add_unchanged(stage);
                    usage.add_unchanged();
                    continue;
                };
                usage.add(&seen.used);
                merged.add_changes(stage, &seen.before, seen.after);
            }
        }
    }
    let mut found = workspace_findings(&base, &usage);
    measure(&base, &mut found);
    let views = stages.len() + usize::from(!always_staged);
    let mut findings = merged.into_findings(views, always_staged);
    findings.extend(found);
    findings.retain(|finding| !is_of_host(wiring, finding));
    let mut allowed = Allowed::apply(wiring, &mut findings, options.today.as_deref());
    findings.extend(allowance_findings(&base, &allowed));
    let mut accepted = std::mem::take(&mut allowed.accepted);
    name_derived(wiring, findings.iter_mut().chain(accepted.iter_mut().map(|one| &mut one.finding)));
    merge::sort(&mut findings, |finding| finding);
    merge::sort(&mut accepted, |accepted| &accepted.finding);
    let report = Report::new(wiring, findings, blind_spots::blind_spots(wiring), accepted);
    (report, Resolved { resolution: base.resolution, graph: base.graph })
}

/// Whether a finding is about nothing but files of the host, which are not judged; one that could not be read is told.
fn is_of_host(wiring: &Wiring, finding: &Finding) -> bool {
    let is_trusted = |place: &Place| wiring.headers[place.source.index()].trusted;
    !finding.places.is_empty()
        && finding.places.iter().all(is_trusted)
        && finding.rule.name != reading::unreadable_file::RULE.text.name
}

/// What a stage changes of what holds with none chosen: what a part of the wiring showed before, and shows now.
struct InStage {
    used: Used,
    before: Vec<Finding>,
    after: Vec<Finding>,
}

/// Works out what a stage changes, if it changes anything.
fn look_at_stage(
    base: &Context<'_>,
    merged: &Merged,
    index: &StageIndex,
    stage: Name,
    usage: &Usage,
) -> Option<InStage> {
    let wiring = base.wiring;
    let (resolution, change) = base.resolution.restaged(wiring, index, stage);
    if change.is_nothing() {
        return None;
    }
    let graph = base.graph.restaged(wiring, &resolution, &change);
    let focus =
        Focus::new(wiring, index, &change, &base.resolution, base.all_cycle_groups(), &resolution, &graph);
    let here = base.focused(Arc::new(resolution), Arc::new(graph), &focus);
    let there = base.focused(base.resolution.clone(), base.graph.clone(), &focus);
    let used = usage.of_stage(base, &there, &here);
    let before = stage_findings(&there);
    let mut after = stage_findings(&here);
    after.extend(whole_stage_findings(&here));
    // What a part of the wiring shows in both is no news, and may not be the whole of it.
    let known: HashSet<(&str, &str)> = before.iter().map(Finding::key).collect();
    let is_new = |finding: &&mut Finding| {
        !merged.holds_always(finding) && (!known.contains(&finding.key()) || merged.is_worse(finding))
    };
    let new: Vec<&mut Finding> = after.iter_mut().filter(is_new).collect();
    measure(&here, new);
    Some(InStage { used, before, after })
}

/// Says of each place what name was made from the text that stands there.
fn name_derived<'f>(wiring: &Wiring, findings: impl Iterator<Item = &'f mut Finding>) {
    if wiring.facts.derived.is_empty() {
        return;
    }
    let derived = wiring.facts.derived.iter().map(|made| ((made.source, made.span), made.name));
    let derived: HashMap<(SourceIndex, Span), Name> = derived.collect();
    for place in findings.flat_map(|finding| &mut finding.places) {
        if let Some(&name) = derived.get(&(place.source, place.span)) {
            place.role = format!("{} (this text makes {})", place.role, wiring.text(name));
        }
    }
}

fn file_findings(context: &Context<'_>) -> Vec<Finding> {
    let view = FilesView::new(context);
    found(context.wiring, |rule, sink| {
        if let Check::Files(check) = rule.check {
            check(&view, sink);
        }
    })
}

fn stage_findings(context: &Context<'_>) -> Vec<Finding> {
    let view = StageView::new(context);
    found(context.wiring, |rule, sink| {
        if let Check::Stage(check) = rule.check {
            check(&view, sink);
        }
    })
}

fn whole_stage_findings(context: &Context<'_>) -> Vec<Finding> {
    let view = WholeStageView::new(context);
    found(context.wiring, |rule, sink| {
        if let Check::WholeStage(check) = rule.check {
            check(&view, sink);
        }
    })
}

fn workspace_findings(context: &Context<'_>, usage: &Usage) -> Vec<Finding> {
    let view = WorkspaceView::new(context, usage);
    found(context.wiring, |rule, sink| {
        if let Check::Workspace(check) = rule.check {
            check(&view, sink);
        }
    })
}

fn allowance_findings(context: &Context<'_>, allowed: &Allowed) -> Vec<Finding> {
    let view = AllowancesView::new(context, allowed);
    found(context.wiring, |rule, sink| {
        if let Check::Allowances(check) = rule.check {
            check(&view, sink);
        }
    })
}

/// Runs the rules that are for a view, several at a time. What they find stands in the order of the rules.
fn found(wiring: &Wiring, check: impl Fn(&Rule, &mut Sink) + Sync) -> Vec<Finding> {
    let severities = &wiring.policy.severities;
    let found = RULES.par_iter().map(|rule| {
        let mut sink = Sink::default();
        match severities.get(rule.text.name) {
            Some(None) => {}
            Some(&Some(severity)) => {
                check(rule, &mut sink);
                sink.grade(rule.text.severity, severity);
            }
            None => check(rule, &mut sink),
        }
        sink.findings
    });
    found.collect::<Vec<_>>().into_iter().flatten().collect()
}

/// Works out what each finding affects: exact for any number of faults that reach little and for some dozens
/// that reach far, a lower bound (and so marked) past that.
fn measure<'f>(context: &Context<'_>, findings: impl IntoIterator<Item = &'f mut Finding>) {
    let measured = |finding: &&mut Finding| !finding.origins.is_empty();
    let findings: Vec<&mut Finding> = findings.into_iter().filter(measured).collect();
    if findings.is_empty() {
        return;
    }
    let search = || ReachSearch::new(context.wiring, &context.graph);
    // Faults that reach little are measured on all threads. What is left of the work goes to the others, one
    // after another: the numbers are the same however many threads there are.
    let near: Vec<(Reach, usize)> = findings
        .par_iter()
        .with_min_len(NEAR)
        .map_init(search, |search, finding| search.reach(&finding.origins, NEAR))
        .collect();
    let mut work = most_work(&context.graph).saturating_sub(near.iter().map(|(_, steps)| steps).sum());
    let mut far = Vec::new();
    for (finding, (reach, _)) in findings.into_iter().zip(near) {
        finding.reach = reach;
        // They are not needed again.
        let origins = std::mem::take(&mut finding.origins);
        if finding.reach.at_least {
            far.push((finding, origins));
        }
    }
    if far.is_empty() {
        return;
    }
    let mut search = search();
    let mut remaining = far.len();
    for (finding, origins) in far {
        let (reach, steps) = search.reach(&origins, (work / remaining).max(NEAR));
        finding.reach = reach;
        work = work.saturating_sub(steps);
        remaining -= 1;
    }
}
