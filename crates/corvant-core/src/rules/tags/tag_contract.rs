//! `tag-contract`: a service that carries a tag and does not offer what the tag asks for.

use crate::finding::{Certainty, Change, Family, Finding, Fix, Origin, RuleText, Scope, Severity};
use crate::name::Name;
use crate::rules::Rule;
use crate::views::{Check, Sink, StageView};
use crate::wording::EditSort;
use foldhash::HashMap;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "tag-contract",
        family: Family::Tags,
        severity: Severity::Error,
        summary: "a service that carries a tag and does not offer what the tag asks for",
        why: "What collects the tag takes every carrier for something that it is not.",
        limits: "A narrower contract answers for a wider one.",
        fixes: Certainty::Likely,
        faulty: r#"
//- depot.wiring.yaml
corvant: 1
module: depot
tags: { depot-task: { contract: DepotTask } }
services:
  depot.washing: { type: velmora.depot.Washing, tags: [depot-task] }
entries:
  plan-night: { needs: { tasks: { tag: depot-task } } }
"#,
        corrected: r#"
//- depot.wiring.yaml
corvant: 1
module: depot
tags: { depot-task: { contract: DepotTask } }
services:
  depot.washing: { type: velmora.depot.Washing, tags: [depot-task], offers: [DepotTask] }
entries:
  plan-night: { needs: { tasks: { tag: depot-task } } }
"#,
        scope: Scope::Stage,
    },
    check: Check::Stage(check),
};

fn check(view: &StageView<'_>, sink: &mut Sink) {
    let asked: HashMap<Name, Name> =
        view.declared_tags().iter().filter_map(|tag| Some((tag.tag.name, tag.contract?.name))).collect();
    let mut offering_each = HashMap::default();
    for (index, service) in view.services() {
        if asked.is_empty() || !view.resolution().ids.is_built(index) {
            continue;
        }
        let mut finding: Option<Finding> = None;
        for tagging in service.taggings.of(view.parts()) {
            let Some(&contract) = asked.get(&tagging.tag.name) else { continue };
            let offering = offering_each.entry(contract).or_insert_with(|| view.offering(contract));
            // Offers in text that could not be read may be the missing ones.
            if offering.contains(&view.resolution().ids.stand_in(index))
                || view.doubts().mentions(contract).is_some()
            {
                continue;
            }
            let (id, tag, contract) = (view.id(index), view.text(tagging.tag.name), view.text(contract));
            let message =
                format!("{id} carries {tag}, whose carriers must offer {contract}, and does not offer it");
            let own = || format!("add {contract} to its `offers`");
            let offer = view.say(service.source, EditSort::Offer, contract, own);
            let known = finding.take().unwrap_or_else(|| Finding::new(&RULE.text, id, message));
            let collectors = view.graph().tag(tagging.tag.name);
            finding = Some(
                known
                    .at(tagging.source, tagging.tag.span, format!("carries {tag}"))
                    .fix(Fix::likely(
                        format!("{offer}, or take the tag away"),
                        [Change::append(service.source, service.id.span, "offers", contract)],
                    ))
                    .failing(collectors.map(|node| Origin { node, while_building: true })),
            );
        }
        if let Some(finding) = finding {
            sink.report(finding);
        }
    }
}
