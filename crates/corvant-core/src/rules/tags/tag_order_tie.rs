//! `tag-order-tie`: two carriers of a tag that share the same place in its order.

use crate::facts::{Tag, Tagging};
use crate::finding::{Certainty, Family, Finding, RuleText, Scope, Severity};
use crate::name::Name;
use crate::resolve::{order_attributes, place};
use crate::rules::Rule;
use crate::views::{Check, Sink, WholeStageView};
use crate::wiring::ServiceIndex;
use foldhash::HashMap;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "tag-order-tie",
        family: Family::Tags,
        severity: Severity::Note,
        summary: "two carriers of a tag that share the same place in its order",
        why: "Which of them comes first is a matter of luck, and may change with the next build.",
        limits: "Only tags that are collected, and whose declaration lists required attributes that are numbers, \
             have an order that can be seen. Where one of those must be unique, a shared value is a fault of \
             the attribute.",
        fixes: Certainty::Advice,
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
tags: { departure-rule: { attributes: { priority: { kind: integer, required: true } } } }
services:
  timetable.night: { type: velmora.NightRule, tags: [{ departure-rule: { priority: 10 } }] }
  timetable.day: { type: velmora.DayRule, tags: [{ departure-rule: { priority: 10 } }] }
entries:
  stop-display: { needs: { rules: { tag: departure-rule } } }
"#,
        corrected: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
tags: { departure-rule: { attributes: { priority: { kind: integer, required: true } } } }
services:
  timetable.night: { type: velmora.NightRule, tags: [{ departure-rule: { priority: 10 } }] }
  timetable.day: { type: velmora.DayRule, tags: [{ departure-rule: { priority: 20 } }] }
entries:
  stop-display: { needs: { rules: { tag: departure-rule } } }
"#,
        scope: Scope::WholeStage,
    },
    check: Check::WholeStage(check),
};

fn check(view: &WholeStageView<'_>, sink: &mut Sink) {
    let facts = &view.wiring().facts;
    let mut findings: HashMap<ServiceIndex, Finding> = HashMap::default();
    for tag in &view.wiring().declared.tags {
        let order = order_without_unique(view, tag);
        if order.is_empty() {
            continue;
        }
        let mut first: HashMap<Vec<Name>, (ServiceIndex, Tagging)> = HashMap::default();
        for carrier in view.resolution().carriers(tag.tag.name) {
            let taggings = view.service(carrier).taggings.of(&facts.parts);
            let Some(tagging) = taggings.iter().find(|tagging| tagging.tag.name == tag.tag.name) else {
                continue;
            };
            let Some(at) = place(view.wiring(), tagging, &order) else { continue };
            let (other, earlier) = *first.entry(at).or_insert((carrier, *tagging));
            let ids = &view.resolution().ids;
            // A wrapper and what it wraps are collected as one.
            if ids.stand_in(other) == ids.stand_in(carrier) {
                continue;
            }
            let (id, other, tag) = (view.id(carrier), view.id(other), view.text(tag.tag.name));
            let message = format!("{id} and {other} share one place in the order of {tag}");
            let finding = findings.entry(carrier).or_insert_with(|| Finding::new(&RULE.text, id, message));
            *finding = finding
                .clone()
                .at(tagging.source, tagging.tag.span, "this place")
                .at(earlier.source, earlier.tag.span, format!("taken here by {other}"))
                .advice("give one of the two another value, if their order matters");
        }
    }
    let mut findings: Vec<_> = findings.into_iter().collect();
    findings.sort_unstable_by_key(|(carrier, _)| *carrier);
    for (_, finding) in findings {
        sink.report(finding);
    }
}

/// The attributes by which carriers are put in order. None where one of them is unique: then no two tie.
fn order_without_unique(view: &WholeStageView<'_>, tag: &Tag) -> Vec<Name> {
    let order = order_attributes(view.wiring(), tag);
    let mut rules = tag.attributes.iter().flat_map(|rules| rules.of(view.parts()));
    if rules.any(|rule| rule.unique && order.contains(&rule.attribute.name)) { Vec::new() } else { order }
}
