//! The audit: all rules over all stages, to one report.

mod allow;
mod blind_spots;
mod context;
mod dormant;
mod doubts;
mod lacks;
mod mentions;
mod merge;
mod modules;
mod offering;
mod report;
mod troubles;
mod usage;

pub(crate) use allow::Allowed;
pub use context::{Context, Sink, join_words};
pub use dormant::DormantKind;
pub(crate) use lacks::keys_of;
pub use lacks::{Lack, Lacks, Sought, Use};
pub(crate) use mentions::{called_services, mentioned_modules};
pub(crate) use modules::{Crossing, crossings};
pub(crate) use offering::offering;
pub use report::{Report, Summary};

use crate::finding::Finding;
use crate::graph::reach::Search;
use crate::name::Name;
use crate::rules::{RULES, Scope};
use crate::wiring::Wiring;
use doubts::Doubts;
pub(crate) use troubles::report_troubles;
use usage::Usage;

/// What an audit is to look at.
#[derive(Clone, Debug, Default)]
pub struct Options {
    /// One stage; `None`: every stage, and none.
    pub stage: Option<Name>,
    /// The day allowances are held against, as `YYYY-MM-DD`; `None`: none has passed.
    pub today: Option<String>,
}

/// Audits a wiring.
///
/// The same wiring always gives the same report, whatever the order of its files and the number of threads.
pub fn audit(wiring: &Wiring, options: &Options) -> Report {
    let views: Vec<Option<Name>> = match options.stage {
        Some(stage) => vec![Some(stage)],
        None => std::iter::once(None).chain(wiring.stages.iter().copied().map(Some)).collect(),
    };
    let doubts = Doubts::new(wiring);
    let dormant = dormant::Dormant::new(wiring);
    let mut usage = Usage::default();
    let mut merged = merge::Merged::default();
    let mut last = None;
    for (number, &view) in views.iter().enumerate() {
        let context = Context::new(wiring, &doubts, &dormant, view);
        usage.add(&context);
        let mut findings = run(&context, Scope::Stage);
        if number == 0 {
            findings.extend(run(&context, Scope::Files));
        }
        merged.add(findings, view);
        last = Some(context);
    }
    let Some(context) = last else { return Report::new(wiring, Vec::new(), Vec::new(), 0) };
    let context = context.with_usage(&usage);
    merged.add(run(&context, Scope::Workspace), None);
    let mut findings = merged.into_findings(views.len());
    let allowed = Allowed::apply(wiring, &mut findings, options.today.as_deref());
    findings.extend(run(&context.with_allowed(&allowed), Scope::Allowances));
    merge::sort(&mut findings);
    Report::new(wiring, findings, blind_spots::blind_spots(wiring), allowed.accepted)
}

/// Runs the rules of a scope and works out what each finding takes down.
fn run(context: &Context<'_>, scope: Scope) -> Vec<Finding> {
    let mut sink = Sink::default();
    let severities = &context.wiring.policy.severities;
    for rule in RULES.iter().filter(|rule| rule.scope == scope) {
        let before = sink.len();
        match severities.get(rule.name) {
            Some(None) => {}
            Some(&Some(severity)) => {
                (rule.check)(context, &mut sink);
                sink.grade(before, rule.severity, severity);
            }
            None => (rule.check)(context, &mut sink),
        }
    }
    let mut search = Search::new(context.wiring, &context.graph);
    let mut remaining = sink.findings.len();
    for finding in &mut sink.findings {
        if !finding.origins.is_empty() {
            finding.reach = search.reach(&std::mem::take(&mut finding.origins), remaining);
        }
        remaining -= 1;
    }
    sink.findings
}
