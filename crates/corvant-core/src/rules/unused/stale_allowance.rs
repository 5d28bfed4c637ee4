//! `stale-allowance`: an allowance that accepts nothing any more, or whose day has passed.

use crate::finding::{Action, Certainty, Change, Family, Finding, Fix, RuleText, Scope, Severity};
use crate::near::meanings;
use crate::rules::{Rule, TEXTS};
use crate::views::{AllowancesView, Check, Sink};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "stale-allowance",
        family: Family::Unused,
        severity: Severity::Warning,
        summary: "an allowance that accepts nothing any more, or whose day has passed",
        why: "An allowance that outlives its finding hides the next one of the same name.",
        limits: "Days are compared only where the audit is told what day it is. An allowance whose day has passed \
             accepts nothing: the finding is there again beside this one.",
        fixes: Certainty::Certain,
        faulty: r#"
//- depot.wiring.yaml
corvant: 1
module: depot
services:
  depot.gate: { type: velmora.depot.Gate }
allow:
  - { rule: unused-service, subject: depot.gate, reason: rebuilt in spring }
entries:
  open-gate: { needs: { gate: { service: depot.gate } } }
"#,
        corrected: r#"
//- depot.wiring.yaml
corvant: 1
module: depot
services:
  depot.gate: { type: velmora.depot.Gate }
allow:
  - { rule: unused-service, subject: depot.gate, reason: rebuilt in spring }
entries:
  open-gate: {}
"#,
        scope: Scope::Allowances,
    },
    check: Check::Allowances(check),
};

fn check(view: &AllowancesView<'_>, sink: &mut Sink) {
    let allowed = view.allowed();
    let names: Vec<&str> = TEXTS.iter().map(|rule| rule.name).collect();
    for (number, allowance) in view.wiring().facts.allowances.iter().enumerate() {
        let (rule, subject) = (view.text(allowance.rule.name), view.text(allowance.subject.name));
        let is_expired = allowed.expired[number];
        let what = if is_expired {
            let until = allowance.until.map_or("", |until| view.text(until.name));
            format!("was to end on {until}")
        } else if allowed.used[number] {
            continue;
        } else {
            "accepts nothing: there is no such finding".to_owned()
        };
        let is_rule = names.contains(&rule);
        let what = if is_rule { what } else { "accepts nothing: there is no such rule".to_owned() };
        let mut finding = Finding::new(
            &RULE.text,
            format!("{rule} {subject}"),
            format!("the allowance for {rule} {subject} {what}"),
        )
        .at(allowance.source, allowance.subject.span, "allowed here");
        let meant = if is_rule { None } else { meanings(&[rule], &names)[0] };
        if let Some(meant) = meant {
            let name = names[meant.known];
            let place = (allowance.source, allowance.rule.span);
            finding = finding.fix(Fix::rename(format!("write {name}"), [place], rule, name, meant.likeness));
        }
        let take_out = Change::new(allowance.source, allowance.subject.span, Action::TakeOutItem);
        let is_clear = meant.is_none() && !is_expired;
        let fix = if is_clear {
            Fix::certain("take it out", [take_out])
        } else {
            Fix::likely("take it out, or fix what it accepts", [take_out])
        };
        sink.report(finding.fix(fix));
    }
}
