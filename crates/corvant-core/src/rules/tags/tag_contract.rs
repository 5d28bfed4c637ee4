//! `tag-contract`: a service that carries a tag and does not offer what the tag asks for.

use crate::audit::{Context, Sink, offering};
use crate::finding::{Change, Finding, Fix, Severity};
use crate::graph::reach::Origin;
use crate::name::Name;
use crate::rules::{Family, Rule, Scope};
use foldhash::HashMap;

/// The rule.
pub static RULE: Rule = Rule {
    name: "tag-contract",
    family: Family::Tags,
    severity: Severity::Error,
    summary: "a service that carries a tag and does not offer what the tag asks for",
    why: "Whoever collects the tag takes every carrier for something that it is not.",
    limits: "A narrower contract answers for a wider one.",
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
    check,
};

fn check(context: &Context<'_>, sink: &mut Sink) {
    let facts = &context.wiring.facts;
    let asked: HashMap<Name, Name> = context
        .wiring
        .declared
        .tags
        .iter()
        .filter_map(|tag| Some((tag.tag.name, tag.contract?.name)))
        .collect();
    let mut offering_each = HashMap::default();
    for (index, service) in context.services() {
        if asked.is_empty() || !context.resolution.ids.is_built(index) {
            continue;
        }
        let mut finding: Option<Finding> = None;
        for tagging in service.taggings.of(&facts.parts) {
            let Some(&contract) = asked.get(&tagging.tag.name) else { continue };
            let offering = offering_each.entry(contract).or_insert_with(|| offering(context, contract));
            // Offers in text that could not be read may be the missing ones.
            if offering.contains(&context.resolution.ids.stand_in(index))
                || context.doubts.mentions(contract).is_some()
            {
                continue;
            }
            let (id, tag, contract) =
                (context.wiring.id(index), context.text(tagging.tag.name), context.text(contract));
            let message =
                format!("{id} carries {tag}, whose carriers must offer {contract}, and does not offer it");
            let known = finding.take().unwrap_or_else(|| Finding::new(&RULE, id, message));
            let collectors = context.graph.tag(tagging.tag.name);
            finding = Some(
                known
                    .at(tagging.source, tagging.tag.span, format!("carries {tag}"))
                    .fix(Fix::likely(
                        format!("add {contract} to its `offers`, or take the tag away"),
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

#[cfg(test)]
mod tests {
    use corvant_testing::expect;

    #[test]
    fn narrower_contracts_and_wrapped_services_answer() {
        expect(
            r#"
//- a.wiring.yaml
corvant: 1
module: a
contracts: { Narrow: { extends: [Task] } }
tags: { task: { contract: Task }, other: { contract: Task }, free: {} }
services:
  a.exact: { offers: [Task], tags: [task] }
  a.narrow: { offers: [Narrow], tags: [task] }
  a.free: { tags: [free] }
  a.none: { tags: [task, free, other] }
                   ^^^^ tag-contract a.none
entries:
  e: { needs: { t: { tag: task }, o: { tag: other }, f: { tag: free } } }
"#,
        );
    }
}
