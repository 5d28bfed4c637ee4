//! `untagged-service`: a service that offers a contract whose every provider must carry a tag, and lacks the tag.

use crate::finding::{Certainty, Change, Family, Finding, Fix, RuleText, Scope, Severity};
use crate::rules::Rule;
use crate::views::{Check, Sink, WholeStageView};
use crate::wiring::ServiceIndex;
use crate::wording::EditSort;
use foldhash::HashSet;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "untagged-service",
        family: Family::Tags,
        severity: Severity::Error,
        summary: "a service that offers a contract whose every provider must carry a tag, and lacks the tag",
        why: "Nothing picks it up: it will silently never be called.",
        limits: "Aliases and templates are not services that are built. Of a wrapper and what it wraps one \
             has to carry the tag; where neither does, the innermost that offers the contract is blamed.",
        fixes: Certainty::Likely,
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
tags: { departure-rule: { contract: DepartureRule, carried-by-all: true } }
services:
  timetable.night: { type: velmora.NightRule, offers: [DepartureRule] }
  timetable.day: { type: velmora.DayRule, offers: [DepartureRule], tags: [departure-rule] }
entries:
  stop-display: { needs: { rules: { tag: departure-rule } } }
"#,
        corrected: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
tags: { departure-rule: { contract: DepartureRule, carried-by-all: true } }
services:
  timetable.night: { type: velmora.NightRule, offers: [DepartureRule], tags: [departure-rule] }
  timetable.day: { type: velmora.DayRule, offers: [DepartureRule], tags: [departure-rule] }
entries:
  stop-display: { needs: { rules: { tag: departure-rule } } }
"#,
        scope: Scope::WholeStage,
    },
    check: Check::WholeStage(check),
};

fn check(view: &WholeStageView<'_>, sink: &mut Sink) {
    let facts = &view.wiring().facts;
    let mut untagged: Vec<(ServiceIndex, Finding)> = Vec::new();
    for tag in view.wiring().declared.tags.iter().filter(|tag| tag.carried_by_all) {
        let Some(contract) = tag.contract else { continue };
        let carriers = view.resolution().carriers(tag.tag.name);
        // What is collected is what is handed out, no matter which inside it carries the tag.
        let collected: HashSet<ServiceIndex> =
            carriers.map(|carrier| view.resolution().ids.stand_in(carrier)).collect();
        let offers = view.innermost_offers(contract.name);
        let lacking = offers.into_iter().filter(|offer| !collected.contains(&offer.service));
        let mut lacking: Vec<ServiceIndex> = lacking.map(|offer| offer.by).collect();
        lacking.sort_unstable();
        for service in lacking {
            let (id, tag_text, contract) =
                (view.id(service), view.text(tag.tag.name), view.text(contract.name));
            // A misspelt tag on the service is a finding of its own.
            let definition = view.service(service);
            let unknown = |tagging: &crate::facts::Tagging| view.graph().tag(tagging.tag.name).is_none();
            if definition.taggings.of(&facts.parts).iter().any(unknown) {
                continue;
            }
            let message = format!(
                "{id} offers {contract} and does not carry {tag_text}, as all that offer it must: it is silently never called"
            );
            let finding = Finding::new(&RULE.text, id, message)
                .at(definition.source, definition.id.span, "defined here")
                .at(tag.source, tag.tag.span, format!("{tag_text} is declared here"))
                .fix(Fix::likely(
                    view.say(definition.source, EditSort::Tag, tag_text, || {
                        format!("add {tag_text} to its `tags`")
                    }),
                    [Change::append(definition.source, definition.id.span, "tags", tag_text)],
                ));
            untagged.push((service, finding));
        }
    }
    // One finding a service, whatever it lacks.
    untagged.sort_by_key(|(service, _)| *service);
    untagged.dedup_by_key(|(service, _)| *service);
    for (_, finding) in untagged {
        sink.report(finding);
    }
}
