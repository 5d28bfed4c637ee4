//! `uncollected-tag`: a tag that services carry and that nothing collects.

use crate::facts::{SuppliedKind, Target};
use crate::finding::{Certainty, Family, Finding, RuleText, Scope, Severity};
use crate::name::Name;
use crate::rules::Rule;
use crate::views::{Check, Sink, WorkspaceView};
use crate::wiring::ServiceIndex;
use crate::wording::EditSort;
use foldhash::HashSet;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "uncollected-tag",
        family: Family::Tags,
        severity: Severity::Warning,
        summary: "a tag that services carry and that nothing collects",
        why: "What carries it is silently never called by it.",
        limits: "Tags that are not declared are reported as unknown. A tag that the host platform supplies is \
             collected by it.",
        fixes: Certainty::Advice,
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
tags: { departure-rule: {} }
services:
  timetable.night: { type: velmora.NightRule, tags: [departure-rule] }
entries:
  stop-display: { needs: { night: { service: timetable.night } } }
"#,
        corrected: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
tags: { departure-rule: {} }
services:
  timetable.night: { type: velmora.NightRule, tags: [departure-rule] }
entries:
  stop-display: { needs: { rules: { tag: departure-rule } } }
"#,
        scope: Scope::Workspace,
    },
    check: Check::Workspace(check),
};

/// How many carriers are placed.
const PLACED: usize = 20;

fn check(view: &WorkspaceView<'_>, sink: &mut Sink) {
    let facts = &view.wiring().facts;
    let mut collected: HashSet<Name> = HashSet::default();
    let usage = view.usage();
    collected.extend(usage.needs(view.wiring()).filter_map(|need| match need.target {
        Target::Tag(tag) => Some(tag),
        _ => None,
    }));
    collected.extend(facts.tags.iter().filter(|tag| tag.collected_by.is_some()).map(|tag| tag.tag.name));
    for tag in &facts.tags {
        let name = tag.tag.name;
        let carriers = view.resolution().carriers_anywhere(name).iter().copied();
        let carriers: Vec<ServiceIndex> = carriers.filter(|&carrier| usage.is_built(carrier)).collect();
        let supplied = view.resolution().is_supplied(SuppliedKind::Tag, name);
        let hidden = view.doubts().is_opaque()
            || view.doubts().mentions(name).is_some()
            || view.may_be_needed(tag.source);
        if carriers.is_empty() || supplied || hidden || !collected.insert(name) {
            continue;
        }
        let text = view.text(name);
        let count = carriers.len();
        let who = if count == 1 { "1 service carries".to_owned() } else { format!("{count} services carry") };
        let message = format!("{who} the tag {text}, and nothing collects it");
        let mut finding =
            Finding::new(&RULE.text, text, message).at(tag.source, tag.tag.span, "declared here");
        for &carrier in carriers.iter().take(PLACED) {
            let service = view.service(carrier);
            let tagging = service.taggings.of(&facts.parts).iter().find(|tagging| tagging.tag.name == name);
            if let Some(tagging) = tagging {
                let role = format!("carried here by {}", view.id(carrier));
                finding = finding.at(tagging.source, tagging.tag.span, role);
            }
        }
        let help = view.say(tag.source, EditSort::Collect, text, || {
            format!("let the one that collects it need {{ tag: {text} }}, or say `collected-by`")
        });
        sink.report(finding.advice(help));
    }
}
