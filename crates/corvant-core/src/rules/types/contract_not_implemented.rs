//! `contract-not-implemented`: a service offers a contract that its type is not of.

use crate::facts::Named;
use crate::finding::{Certainty, Change, Family, Finding, Fix, Origin, RuleText, Scope, Severity};
use crate::graph::Graph;
use crate::rules::Rule;
use crate::views::{Check, Sink, Typed, WorkspaceView, short, typed_services};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "contract-not-implemented",
        family: Family::Types,
        severity: Severity::Error,
        summary: "a service offers a contract that its type does not implement",
        why: "Whoever needs the contract is handed something that is not of that type: it fails when the two first meet, \
              seldom where the mistake was made.",
        limits: "Contracts that are no type in the code that was read are names, and any service may offer them. Where a \
                 super type is outside that code, or a type is complete only when it is compiled or run, nobody can know \
                 what it implements. Types that need only have the members of a contract are not checked.",
        fixes: Certainty::Likely,
        faulty: r#"
//- corvant.toml
[[types]]
files = ["src/**"]
//- depot.wiring.yaml
corvant: 1
module: depot
services:
  depot.gate: { type: velmora.depot.Gate, offers: [velmora.depot.Opening] }
entries:
  open-gate: { needs: { gate: { contract: velmora.depot.Opening } } }
//- src/Gate.java
package velmora.depot;
public class Gate { }
//- src/Opening.java
package velmora.depot;
public interface Opening { }
"#,
        corrected: r#"
//- corvant.toml
[[types]]
files = ["src/**"]
//- depot.wiring.yaml
corvant: 1
module: depot
services:
  depot.gate: { type: velmora.depot.Gate, offers: [velmora.depot.Opening] }
entries:
  open-gate: { needs: { gate: { contract: velmora.depot.Opening } } }
//- src/Gate.java
package velmora.depot;
public class Gate implements Opening { }
//- src/Opening.java
package velmora.depot;
public interface Opening { }
"#,
        scope: Scope::Workspace,
    },
    check: Check::Workspace(check),
};

fn check(view: &WorkspaceView<'_>, sink: &mut Sink) {
    let wiring = view.wiring();
    for typed in typed_services(view) {
        let offers = typed.service.offers.of(view.parts()).iter();
        let is_not = |offer: &&Named| {
            let of = wiring.types().is_of(typed.number, view.text(offer.name));
            of == Some(false)
        };
        let missing: Vec<Named> = offers.filter(is_not).copied().collect();
        if !missing.is_empty() {
            sink.report(finding(view, &typed, &missing));
        }
    }
}

fn finding(view: &WorkspaceView<'_>, typed: &Typed<'_>, missing: &[Named]) -> Finding {
    let (id, of) = (view.id(typed.index), view.text(typed.declared.name.name));
    let first = view.text(missing[0].name);
    let more = if missing.len() > 1 {
        format!(" and {} more of what it offers", missing.len() - 1)
    } else {
        String::new()
    };
    let message = format!("{id} offers {first}, and its type {of} does not implement that{more}");
    let mut finding = Finding::new(&RULE.text, id, message);
    let source = typed.service.source;
    for offer in missing {
        finding = finding.at(source, offer.span, format!("offers {}", view.text(offer.name)));
    }
    finding = finding.at(typed.declared.source, typed.declared.name.span, format!("{of} is declared here"));
    let wiring = view.wiring();
    let above = wiring.types().ancestry(typed.number).names;
    for offer in missing {
        let text = view.text(offer.name);
        let meant = above.iter().map(|&name| view.text(name)).find(|name| short(name) == short(text));
        if let Some(meant) = meant {
            let change = Change::rename(source, offer.span, text, meant);
            finding = finding.fix(Fix::likely(format!("write {meant}, which {of} implements"), [change]));
        }
    }
    let origin = Origin { node: Graph::service(typed.index), while_building: false };
    let advice = format!("let {of} implement it, or take it out of what {id} offers");
    finding.advice(advice).failing([origin])
}
