//! `duplicate-service`: one id, two definitions.

use crate::facts::Service;
use crate::finding::{Family, Finding, Origin, RuleText, Scope, Severity};
use crate::graph::Graph;
use crate::name::Name;
use crate::rules::Rule;
use crate::views::{Check, Sink, WholeStageView};
use crate::wiring::{SameId, ServiceIndex};
use crate::wording::EditSort;
use foldhash::{HashMap, HashMapExt};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "duplicate-service",
        family: Family::Ambiguity,
        severity: Severity::Error,
        summary: "one id that is defined more than once, without `replaces`",
        why: "One of the definitions is silently lost, and which one depends on the order in which modules are \
          loaded.",
        limits: "Definitions that never meet in one stage are no duplicates. Two services that replace one id are \
             two definitions of it. The audit goes on with the first, in the order of file names, and audits what \
             either needs.",
        faulty: r#"
//- clock.wiring.yaml
corvant: 1
module: clock
services:
  clock.system: { type: velmora.clock.SystemClock, offers: [Clock] }
entries:
  station-clock: { needs: { clock: { contract: Clock } } }
//- drill.wiring.yaml
corvant: 1
module: drill
services:
  clock.system: { type: velmora.drill.FrozenClock, offers: [Clock] }
"#,
        corrected: r#"
//- clock.wiring.yaml
corvant: 1
module: clock
services:
  clock.system: { type: velmora.clock.SystemClock, offers: [Clock] }
entries:
  station-clock: { needs: { clock: { contract: Clock } } }
//- drill.wiring.yaml
corvant: 1
module: drill
services:
  drill.clock: { type: velmora.drill.FrozenClock, offers: [Clock], replaces: clock.system }
"#,
        scope: Scope::WholeStage,
    },
    check: Check::WholeStage(check),
};

fn check(view: &WholeStageView<'_>, sink: &mut Sink) {
    let mut by_id: HashMap<Name, usize> = HashMap::new();
    let mut groups: Vec<(Name, Vec<ServiceIndex>)> = Vec::new();
    for pair in view.resolution().ids.duplicates() {
        let number = *by_id.entry(pair.id).or_insert_with(|| {
            groups.push((pair.id, Vec::new()));
            groups.len() - 1
        });
        groups[number].1.extend([pair.counting, pair.other]);
    }
    for (id, mut group) in groups {
        group.sort_unstable();
        group.dedup();
        sink.report(finding(view, id, &group));
    }
}

fn finding(view: &WholeStageView<'_>, id: Name, definitions: &[ServiceIndex]) -> Finding {
    let wiring = view.wiring();
    let (id_text, first) = (view.text(id), wiring.service(definitions[0]));
    let replaces = |service: &Service| service.replaces.filter(|replaced| replaced.name == id);
    let all_replace = definitions.iter().all(|&index| replaces(wiring.service(index)).is_some());
    let times = match definitions.len() {
        2 => "twice".to_owned(),
        times => format!("{times} times"),
    };
    let (what, severity) = match wiring.policy.same_id {
        SameId::Forbid => ("only one of the definitions can count", Severity::Error),
        SameId::First => ("the first counts, as the workspace decides", Severity::Note),
        SameId::Last => ("the last counts, as the workspace decides", Severity::Note),
    };
    let done = if all_replace { "replaced" } else { "defined" };
    let mut finding = Finding::new(&RULE.text, id_text, format!("{id_text} is {done} {times}; {what}"));
    finding.severity = severity;
    let span = |service: &Service| replaces(service).unwrap_or(service.id).span;
    for &again in &definitions[1..] {
        let service = wiring.service(again);
        let module = wiring.module_name(service.source).filter(|_| service.source != first.source);
        let module = module.map_or_else(String::new, |module| format!(", by module {module}"));
        finding = finding.at(service.source, span(service), format!("{done} again here{module}"));
    }
    let first_role = if all_replace { "first replacement" } else { "first definition" };
    finding = finding.at(first.source, span(first), first_role).advice(if all_replace {
        format!("keep one of those that replace {id_text}, or let one of them replace the other")
    } else {
        let replace =
            view.say(first.source, EditSort::Replace, id_text, || format!("say `replaces: {id_text}`"));
        format!("give one of them an id of its own, or {replace} if it is meant to override")
    });
    if severity == Severity::Note {
        return finding;
    }
    let node = view.resolution().ids.stand_in(definitions[0]);
    finding.failing([Origin { node: Graph::service(node), while_building: true }])
}

#[cfg(test)]
mod tests {
    use corvant_testing::{expect, messages};
    use rstest::rstest;

    #[test]
    fn one_id_is_one_finding_unless_stages_or_an_override_part_them() {
        expect(
            r#"
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.thrice: {}
  a.staged: { stages: [drill] }
  a.overridden: {}
//- b.wiring.yaml
corvant: 1
module: b
services:
  a.thrice: {}
  ^^^^^^^^ duplicate-service a.thrice
  a.staged: { stages: [production] }
  a.overridden: { replaces: a.overridden }
//- c.wiring.yaml
corvant: 1
module: c
services:
  a.thrice: { needs: { x: { service: c.only } } }
  c.only: {}
entries:
  e:
    needs: { a: { service: a.thrice }, b: { service: a.staged, optional: true }, c: { service: a.overridden } }
"#,
        );
    }

    #[test]
    fn two_replacements_of_one_id_are_two_definitions_of_it() {
        expect(
            r#"
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.x: {}
  a.one: { replaces: a.x }
  a.two: { replaces: a.x, needs: { n: { service: a.only } } }
                     ^^^ duplicate-service a.x
  a.only: {}
  b.x: {}
  b.one: { replaces: b.x }
  b.two: { replaces: b.one }
entries:
  e: { needs: { x: { service: a.x }, b: { service: b.x } } }
"#,
        );
    }

    #[test]
    fn what_either_definition_needs_is_audited() {
        expect(
            r#"
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.x: { needs: { n: { service: a.gone } } }
                                ^^^^^^ missing-service a.gone
//- b.wiring.yaml
corvant: 1
module: b
services:
  a.x: { needs: { n: { service: b.gone }, c: { contract: Gone }, s: { setting: s.gone } } }
  ^^^ duplicate-service a.x
                                ^^^^^^ missing-service b.gone
                                                         ^^^^ missing-implementation Gone
                                                                               ^^^^^^ missing-setting s.gone
entries:
  e: { needs: { x: { service: a.x } } }
"#,
        );
    }

    #[rstest]
    #[case::first("first", "")]
    #[case::last("last", "b.gone")]
    fn what_does_not_count_by_decision_is_not_judged(#[case] policy: &str, #[case] missing: &str) {
        let text = format!(
            "//- corvant.toml\npolicy.same-id = '{policy}'\n//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  a.x: {{}}\n//- b.wiring.yaml\ncorvant: 1\nmodule: b\nuses: []\nservices:\n  a.x: {{ needs: {{ n: {{ service: b.gone }}, o: {{ service: a.y, via: look-up, optional: true }} }}, tags: [t] }}\ntags: {{ t: {{}} }}\nentries: {{ e: {{ needs: {{ x: {{ service: a.x }} }} }} }}\n"
        );
        let found = messages(&text);
        let found: Vec<&str> = found
            .iter()
            .filter(|found| found.rule == "missing-service")
            .map(|found| found.subject.as_str())
            .collect();
        assert_eq!(found, missing.split_terminator(' ').collect::<Vec<_>>());
    }
}
